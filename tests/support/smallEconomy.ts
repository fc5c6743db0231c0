/** Small economies in which everything of the simulation's domain comes up: what engine and reference must agree on. */
import fc from 'fast-check';
import type { EconomyDocument } from '../../src/core/document/index.js';

type Arb<T> = fc.Arbitrary<T>;
const one = fc.constantFrom;
/** A field that is left out one time in `of`. */
const maybe = <T>(arb: Arb<T>, of = 2): Arb<T | undefined> => fc.option(arb, { nil: undefined, freq: of });
/** A field that is there one time in `of`. */
const seldom = <T>(arb: Arb<T>, of: number): Arb<T | undefined> =>
  fc.oneof({ weight: of - 1, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary: arb });
/** One of each measure. */
const TARGETS = {
  own: { name: 'Own', measure: 'days-to-own', item: 'frame', persona: 'weekender', from: 2, to: 3 },
  afford: { name: 'Afford', measure: 'days-to-afford', item: 'sail', percentile: 25, to: 2 },
  owners: { name: 'Owners', measure: 'owners', item: 'wax', from: 20 },
  wallet: { name: 'Wallet', measure: 'wallet', currency: 'shells', day: 2, percentile: 75, from: 5, to: 40 },
  flow: { name: 'Flow', measure: 'net-flow', currency: 'shells', from: -5, to: 5 },
  short: { name: 'Short', measure: 'refused', reason: 'short-of', to: 30 },
  limit: { name: 'Limit', measure: 'refused', reason: 'limit-reached', persona: 'racer', to: 30 },
  pay: { name: 'Pay', measure: 'pay', activity: 'race', than: 'walk', currency: 'shells', from: 0.5, to: 2 },
  prices: { name: 'Prices', measure: 'prices', currency: 'shells', to: 3 },
};

/** Fields that are undefined are not there. */
const record = <T extends object>(fields: { [K in keyof T]: Arb<T[K]> }): Arb<T> =>
  (fc.record(fields) as Arb<T>).map(
    (value) => Object.fromEntries(Object.entries(value).filter(([, field]) => field !== undefined)) as T,
  );
const whole = (min: number, max: number) => fc.integer({ min, max });

const CURRENCIES = ['shells', 'breeze', 'ribbons'] as const;
const ITEMS = ['frame', 'sail', 'wax', 'lantern', 'kit'] as const;
const currency = one(...CURRENCIES);
const item = one(...ITEMS);
const basketOf = (assets: Arb<string>, most: number, size = 2): Arb<Record<string, number>> =>
  fc.dictionary(assets, whole(1, most), { minKeys: 1, maxKeys: size });

const condition = one(
  '=level >= 2',
  '=level < 3 or owned(sail) > 0',
  '=balance(shells) >= 20',
  '=bought(frame_offer) == 0',
  '=owned(wax) <= 3',
  '=day >= 2',
  '=tier == "gold"',
);
const amountFormula = one(
  '=5 + level',
  '=2 * owned(sail) + 3',
  '=max(1, 20 - balance(shells))',
  '=10 - 4 * day',
  '=level - 2',
);
const duration = one('PT2H', 'PT7H', 'P1D', 'P2D');
const limits = fc.dictionary(one('lifetime', 'day', 'week', 'month', 'PT6H', 'P3D'), whole(1, 2), {
  minKeys: 1,
  maxKeys: 2,
});
const windows = record({
  evenings: record({
    starts: one('2027-03-27T18:00', '2027-03-26T06:00'),
    repeats: maybe(one('FREQ=DAILY', 'FREQ=WEEKLY;BYDAY=SA,SU')),
    lasts: one('PT4H', 'PT13H'),
  }),
});
const from = one('2027-03-27T12:00', '2027-03-28');
const until = one('2027-03-29T01:30', '2027-03-30');

const price = fc.oneof(
  { weight: 5, arbitrary: basketOf(currency, 30) },
  { weight: 3, arbitrary: fc.dictionary(currency, amountFormula, { minKeys: 1, maxKeys: 1 }) },
  { weight: 2, arbitrary: fc.tuple(fc.record({ shells: whole(1, 40) }), fc.record({ ribbons: whole(1, 5) })) },
  { weight: 1, arbitrary: fc.constant('free' as const) },
  { weight: 1, arbitrary: fc.constant({ money: { EUR: 4.99 } }) },
  { weight: 1, arbitrary: fc.record({ wax: whole(1, 2) }) },
  { weight: 1, arbitrary: fc.record({ shells: fc.constant(0) }) },
);
const gives = fc.oneof(
  { weight: 5, arbitrary: item },
  { weight: 2, arbitrary: basketOf(one(...CURRENCIES, ...ITEMS), 4) },
  { weight: 3, arbitrary: fc.record({ lantern: fc.constant(1), shells: one(5, 90), breeze: whole(2, 6) }) },
  { weight: 2, arbitrary: fc.constant('lantern') },
  { weight: 2, arbitrary: fc.constant({ lantern: 1, frame: 1 }) },
  { weight: 1, arbitrary: fc.record({ wax: one('=1 + level', '=owned(sail) + 1') }) },
);
const offer = record({
  gives,
  price: maybe(price, 8),
  stock: seldom(
    record({
      units: whole(1, 2),
      scope: maybe(one('shared', 'player')),
      restock: maybe(record({ amount: whole(1, 2), every: one('day', 'PT5H', 'P1D'), at: seldom(one('09:00'), 3) })),
    }),
    2,
  ),
  limits: maybe(limits, 3),
  when: seldom(condition, 4),
  from: seldom(from, 6),
  until: seldom(until, 6),
  weight: seldom(whole(1, 3), 4),
  hidden: seldom(fc.constant(true), 12),
});
const rotation = record({
  show: whole(1, 2),
  every: one('day', 'PT6H', 'week'),
  at: seldom(one('09:00'), 3),
  avoid: seldom(whole(0, 1), 3),
  perPlayer: seldom(fc.boolean(), 2),
});
const shop = record({
  name: fc.constant('Pier Stall'),
  when: seldom(condition, 6),
  from: seldom(from, 10),
  until: seldom(until, 10),
  open: seldom(windows, 5),
  hidden: seldom(fc.constant(true), 20),
  till: seldom(fc.constant({ holds: { shells: 50 } }), 6),
});
const sale = fc.oneof(
  record({
    name: fc.constant('Sale'),
    shops: fc.constant(['stall']),
    percent: one(10, 33, 99.5),
    from: maybe(from),
    until: maybe(until),
    runs: seldom(windows, 4),
    when: seldom(condition, 4),
  }),
  record({
    name: fc.constant('Set price'),
    offers: fc.constant(['frame_offer']),
    price: fc.record({ shells: whole(1, 10) }),
    when: seldom(condition, 4),
  }),
);

const draw = fc.oneof(
  whole(0, 6),
  record({ from: whole(0, 2), to: whole(3, 6) }),
  fc.constant({ weights: { 1: 2, 3: 1, 5: 0 } }),
  fc.constant({ chosen: { 0: 1, 2: 2, 4: 1 } }),
  record({ poisson: one(2, 0.5, 30) }),
  fc.constant({ normal: [4, 2] as [number, number] }),
  fc.constant({ lognormal: [1, 0.5] as [number, number] }),
  record({ geometric: one(0.3, 0.9) }),
  one('=level + 1', '=min(5, balance(shells))'),
);
const earning = record({
  name: fc.constant('Rule'),
  on: one('race', 'walk'),
  when: seldom(fc.oneof(condition, one('=finds >= 2')), 3),
  chance: seldom(fc.oneof(one(0.1, 0.5, 1), one('=level / 5')), 2),
  gives: fc.oneof(
    basketOf(one(...CURRENCIES, ...ITEMS), 9),
    fc.dictionary(currency, one('=finds', '=2 + level', '=3 - finds'), { minKeys: 1, maxKeys: 1 }),
  ),
  loot: seldom(one('finds', 'rare'), 3),
  takes: seldom(basketOf(one('shells', 'wax', 'lantern'), 3, 1), 5),
  limits: seldom(limits, 3),
  cooldown: seldom(duration, 4),
});
const reward = {
  gives: maybe(basketOf(one(...CURRENCIES, ...ITEMS), 9), 4),
  loot: seldom(one('finds', 'rare'), 4),
  sets: seldom(one<Record<string, string | number>>({ tier: 'gold' }, { level: 2 }, { level: 3, tier: 'plain' }), 4),
};
/** Goals that count each of the things that can be counted. */
const goal = fc
  .tuple(
    one(
      { counts: 'events', event: 'race' },
      { counts: 'events', event: 'walk', when: '=finds >= 2', by: '=finds' },
      { counts: 'events', event: 'race', by: '=2 * level - 1.5' },
      { counts: 'events', event: 'walk', by: '=3 - finds' },
      { counts: 'purchases', groups: ['all'] },
      { counts: 'purchases', offers: ['frame_offer'] },
      { counts: 'earned', currency: 'shells' },
      { counts: 'earned', currency: 'breeze' },
      { counts: 'spent', currency: 'shells' },
      { counts: 'owned', items: ['sail', 'wax', 'lantern', 'frame'], distinct: true },
      { counts: 'owned', items: ['wax', 'lantern'] },
      { counts: 'attribute', attribute: 'level' },
    ),
    record({
      name: fc.constant('Goal'),
      target: one(1, 2, 3, 8),
      every: seldom(one('day', 'week', 'PT5H'), 3),
      after: seldom(one('g1', 'g2'), 3),
      ...reward,
    }),
  )
  .map(([counts, rest]) => ({ ...rest, ...counts }));
const track = record({
  name: fc.constant('Track'),
  earns: one('shells', 'breeze'),
  attribute: fc.constant('level'),
  levels: fc.record({
    2: record({ costs: whole(1, 9), gives: maybe(basketOf(one(...CURRENCIES, ...ITEMS), 9)) }),
    3: record({ costs: whole(1, 30) }),
  }),
  further: maybe(
    record({ to: whole(4, 9), costs: one('=5 * level', '=8'), gives: maybe(fc.constant({ shells: '=level' })) }),
  ),
});
const loot = record({
  finds: record({
    name: fc.constant('Finds'),
    picks: maybe(fc.oneof(whole(1, 3), fc.constant({ from: 1, to: 3 }))),
    distinct: maybe(fc.boolean()),
    entries: fc.constant({
      shells: { weight: 5, gives: { shells: { from: 1, to: 4 } } },
      wax: { weight: 3, gives: { wax: 1 }, when: '=level >= 2' },
      rare: { weight: 1, table: 'rare' },
      nothing: { weight: 2 },
    }),
    guarantee: maybe(fc.constant({ entry: 'rare', within: 4 })),
  }),
  rare: fc.constant({
    name: 'Rare',
    entries: {
      lantern: { weight: 1, gives: { lantern: { from: 1, to: 2 } } },
      kit: { weight: 1, gives: { kit: 1 } },
      sail: { weight: 2, gives: { sail: 1 } },
    },
    guarantee: { entry: 'lantern', within: 3 },
  }),
});
const activity = (event: 'race' | 'walk') =>
  record({
    name: fc.constant('Activity'),
    minutes: one(5, 12.5, 40),
    needs: seldom(fc.oneof(fc.record({ breeze: whole(1, 2) }), fc.record({ wax: fc.constant(1) })), 3),
    emits: fc.tuple(draw, draw, fc.boolean()).map(([first, second, both]) => ({
      [event]: { finds: first },
      ...(both ? { [event === 'race' ? 'walk' : 'race']: { finds: second } } : {}),
    })),
  });
const persona = record({
  name: fc.constant('Persona'),
  attributes: maybe(
    record({
      level: fc.oneof(whole(1, 4), fc.constant({ from: 1, to: 4 }), fc.constant({ poisson: 2 })),
      tier: one('gold', 'plain'),
    }),
  ),
  sessions: fc
    .tuple(
      one({ perDay: 0.5 }, { perDay: 1 }, { perDay: 2 }, { perDay: 6 }, { perDay: 2, fixed: true }),
      record({
        minutes: one(5, 20, 30),
        weekdays: seldom(one({ monday: 0, tuesday: 2 }, { saturday: 3, sunday: 2, wednesday: 0.5 }), 3),
      }),
      fc.oneof(
        record({ from: maybe(one(0, 9, 22)), to: maybe(one(3, 23)) }),
        fc.constant({ hours: { 0: 1, 7: 2.5, 8: 0, 23: 4 } }),
      ),
    )
    .map(([often, rest, begins]) => ({ ...often, ...rest, ...begins })),
  plays: fc.record({ race: one(0, 1, 3), walk: one(1, 2) }),
  playsFor: seldom(fc.constant('shells'), 3),
  shops: record({
    policy: one('wishlist', 'impulse'),
    wishes: fc.oneof(fc.shuffledSubarray([...ITEMS], { minLength: 1 }), fc.constant(['lantern', 'frame'])),
    delayDays: maybe(one(0, 1, 30)),
    chance: maybe(one(0, 0.4, 1)),
    keeps: seldom(fc.record({ shells: whole(1, 20) }), 3),
  }),
  leaves: seldom(one(0.05, 0.3), 3),
});

const endsAt = one('2027-03-28T12:00', '2027-03-30');

export const smallEconomy: Arb<EconomyDocument> = fc
  .record({
    timeZone: one('UTC', 'Europe/Lisbon', 'America/New_York', 'Asia/Kathmandu'),
    currencies: record({
      shells: record({
        name: fc.constant('Shells'),
        start: maybe(whole(1, 60)),
        cap: seldom(whole(60, 110), 2),
        overCap: maybe(one('clip', 'refuse')),
        rounding: maybe(one('up', 'down', 'nearest')),
      }),
      breeze: record({
        name: fc.constant('Breeze'),
        start: maybe(whole(1, 6)),
        cap: maybe(whole(6, 9)),
        refill: maybe(record({ amount: whole(1, 2), every: one('PT20M', 'PT3H', 'P1D'), upTo: whole(1, 6) }), 5),
      }),
      ribbons: record({
        name: fc.constant('Ribbons'),
        decimals: maybe(whole(0, 2)),
        start: maybe(whole(1, 9)),
        ends: seldom(
          fc.oneof(
            { weight: 4, arbitrary: record({ at: endsAt, into: fc.constant('shells'), rate: one(0.35, 2) }) },
            { weight: 1, arbitrary: record({ at: endsAt }) },
          ),
          3,
        ),
        refill: seldom(fc.constant({ amount: 1, every: 'PT9H', upTo: 4 }), 5),
      }),
    }),
    items: record({
      frame: fc.constant({ name: 'Frame', kind: 'durable' as const, carry: 1, worth: { shells: 25 }, group: 'all' }),
      sail: record({
        name: fc.constant('Sail'),
        kind: one('durable', 'consumable'),
        carry: maybe(whole(1, 3)),
        stack: seldom(whole(1, 2), 3),
        worth: fc.constant({ shells: 8, ribbons: 1 }),
      }),
      wax: record({
        name: fc.constant('Wax'),
        kind: fc.constant('consumable' as const),
        uses: maybe(whole(1, 3)),
        worth: fc.constant({ shells: 2 }),
        yields: seldom(fc.constant({ gives: { shells: 1 }, every: 'PT4H', upTo: 3 }), 4),
      }),
      lantern: record({
        name: fc.constant('Lantern'),
        kind: fc.constant('timed' as const),
        lasts: one('PT1H', 'PT5H', 'P1D'),
        stack: maybe(whole(1, 2)),
        worth: fc.constant({ shells: 5 }),
      }),
      kit: record({
        name: fc.constant('Kit'),
        kind: fc.constant('bundle' as const),
        gives: one({ sail: 1, wax: 2 }, { wax: 3 }, { sail: 1, lantern: 1 }),
        worth: fc.constant({ shells: 12 }),
      }),
    }),
    stall: shop,
    booth: shop,
    first: fc.record({
      offers: fc.dictionary(one('o1', 'o2', 'o3', 'o4'), offer, { minKeys: 1 }),
      rotation: seldom(rotation, 3),
    }),
    frame: offer.map((any) => ({ ...any, gives: 'frame' as const })),
    hidden: seldom(fc.constant(true), 12),
    second: fc.dictionary(one('p1', 'p2', 'p3'), offer),
    sales: fc.dictionary(one('s1', 's2'), sale),
    earning: fc.dictionary(one('e1', 'e2', 'e3'), earning, { minKeys: 1 }),
    goals: seldom(fc.record({ g1: goal, g2: goal, g3: goal }), 2),
    tracks: seldom(fc.record({ flyer: track }), 3),
    loot,
    race: activity('race'),
    walk: activity('walk'),
    personas: fc.tuple(persona, persona),
    days: whole(2, 4),
    seed: whole(0, 1_000_000),
  })
  .map(
    ({ stall, booth, first, frame, hidden, second, race, walk, personas: [weekender, racer], days, seed, ...rest }) =>
      ({
        name: 'Saltwind Cove',
        ...rest,
        groups: { all: { name: 'All' } },
        attributes: { level: { start: 1 }, tier: { start: 'plain' } },
        events: {
          race: { name: 'Race', fields: { finds: 'number' } },
          walk: { name: 'Walk', fields: { finds: 'number' } },
        },
        shops: {
          stall: {
            ...stall,
            shelves: {
              front: { name: 'Front', ...(hidden ? { hidden } : {}), offers: { frame_offer: frame } },
              tonight: { name: 'Tonight', ...first, ...(first.rotation ? {} : { rotation: undefined }) },
            },
          },
          booth: { ...booth, shelves: { main: { name: 'Main', offers: second } } },
        },
        // Made-up players are in no team: what these add must change nothing.
        teams: { crew: { name: 'Crew', most: 9 } },
        earning: Object.fromEntries(
          Object.entries(rest.earning).map(([id, rule]) => [id, { ...rule, share: { crew: 0.4 } }]),
        ),
        ...(rest.goals
          ? {
              goals: {
                ...rest.goals,
                together: { name: 'Together', team: 'crew', counts: 'earned', currency: 'shells', target: 2 },
              },
            }
          : {}),
        rankings: { week: { name: 'Week', by: 'earned', currency: 'shells', every: 'week' } },
        activities: { race, walk },
        personas: { weekender, racer },
        targets: {
          ...TARGETS,
          ...(rest.goals ? { goal: { name: 'Goal', measure: 'days-to-goal', goal: 'g1', percentile: 25, to: 2 } } : {}),
          ...(rest.tracks
            ? { level: { name: 'Level', measure: 'days-to-level', track: 'flyer', level: 3, to: 3 } }
            : {}),
        },
        scenarios: {
          days: { name: 'Days', start: '2027-03-27', days, players: 4, seed, mix: { weekender: 3, racer: 1 } },
        },
      }) as unknown as EconomyDocument,
  )
  .map((document) => JSON.parse(JSON.stringify(document)) as EconomyDocument);

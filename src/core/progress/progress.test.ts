/** Goals and levels: what counts, and that each is paid once. */
import { DAY, HOUR, NOW, economyOf, issuesOf, playerWith } from '../../../tests/support/economy.js';
import { eventApply } from '../earning/index.js';
import { ledgerBalances } from '../ledger/index.js';
import { playerHolds } from '../player/index.js';
import type { Player } from '../player/index.js';
import { ACTS, UNTOUCHED, purchaseApply, purchaseCheck } from '../trade/index.js';
import { progressMake, progressOf } from './index.js';

const BASE = `
attributes: {level: {start: 1}, title: {start: none}}
events: {race: {fields: {place: number, metres: number}}}
groups: {tails: {name: Tails}}
currencies:
  shells: {name: Shells, cap: 500}
  renown: {name: Renown}
items:
  silk: {name: Silk Tail, kind: durable, group: tails, worth: {shells: 10}, carry: 5}
  ribbon: {name: Ribbon Tail, kind: durable, group: tails, worth: {shells: 10}}
  paper: {name: Paper Tail, kind: durable, group: tails, worth: {shells: 10}}
  wax: {name: Wax, kind: consumable, onUse: {set: {level: 4}}}
shops:
  pier:
    name: Pier
    buyback: {groups: [tails], rate: 0.5, of: worth}
    shelves: {main: {name: Main, offers: {silk: {gives: silk}, ribbon: {gives: ribbon}, paper: {gives: paper}}}}
earning:
  prize: {name: Prize, on: race, gives: {renown: 10}}
`;
const withGoals = (goals: string, tracks = '{}') => economyOf(`${BASE}\ngoals: ${goals}\ntracks: ${tracks}\n`);

/** A player to whom things happen, one after the other. */
function playing(economy: ReturnType<typeof economyOf>, holds: Record<string, number> = {}) {
  let player: Player = playerWith(economy, holds);
  let events = 0;
  return {
    race(place = 1, metres = 100, atMs = NOW) {
      const event = { id: `e${events++}`, name: 'race', fields: { place, metres } };
      const earned = eventApply(economy, player, event, atMs);
      ({ player } = earned);
      return earned.progress;
    },
    buy(offer: string, times = 1, atMs = NOW) {
      const bought = purchaseApply(
        economy,
        player,
        UNTOUCHED,
        purchaseCheck(economy, player, UNTOUCHED, { offer, times }, atMs),
      );
      ({ player } = bought);
      return bought.progress;
    },
    act(kind: 'use' | 'sell', item: string, shop?: string) {
      const request = { item, ...(shop === undefined ? {} : { shop }) };
      const acted = ACTS[kind].apply(
        economy,
        player,
        UNTOUCHED,
        ACTS[kind].check(economy, player, UNTOUCHED, request, NOW),
      );
      ({ player } = acted);
      return acted.progress;
    },
    player: () => player,
    holds: (asset: string) => playerHolds(economy, player, asset),
    attribute: (name: string) => player.attributes[name],
    standing: (atMs = NOW) => progressOf(economy, player, atMs),
  };
}
const kinds = (progress: readonly { kind: string }[]): string[] => progress.map(({ kind }) => kind);

test('a goal counts what its condition lets through, by its formula, and pays once for ever', () => {
  const one = playing(
    withGoals(
      `{far: {name: Far flyer, counts: events, event: race, when: '=place <= 3', by: '=metres / 100', target: 10, gives: {shells: 50}, sets: {title: flyer}}}`,
    ),
  );
  expect(one.race(1, 450)).toEqual([
    { kind: 'nearer', goal: 'far', name: 'Far flyer', count: 4.5, target: 10, money: null },
  ]);
  expect(one.race(4, 9000)).toEqual([]);
  // Exactly enough is enough.
  expect(one.race(1, 600)).toEqual([
    {
      kind: 'reached',
      goal: 'far',
      name: 'Far flyer',
      count: 10.5,
      target: 10,
      money: null,
      set: { title: 'flyer' },
      given: { shells: 50 },
      dropped: {},
    },
  ]);
  expect([one.holds('shells'), one.attribute('title')]).toEqual([50, 'flyer']);
  for (let race = 0; race < 5; race++) expect(one.race(1, 5000)).toEqual([]);
  expect(one.holds('shells')).toBe(50);
  expect(one.standing().goals).toMatchObject([{ goal: 'far', count: 10, target: 10, reached: true }]);
});

test('a formula that fails counts nothing and says why; what comes after it is counted', () => {
  const one = playing(
    withGoals(
      `{odd: {name: Odd, counts: events, event: race, by: '=metres / place', target: 5}, all: {name: All, counts: events, event: race, target: 5}}`,
    ),
  );
  expect(one.race(0, 10)).toEqual([
    {
      kind: 'failed',
      goal: 'odd',
      name: 'Odd',
      problem: '=metres / place gives Infinity, which is no count (metres = 10, place = 0)',
    },
    expect.objectContaining({ kind: 'nearer', goal: 'all', count: 1 }),
  ]);
  expect(one.race(1, 5)[0]).toMatchObject({ kind: 'reached', goal: 'odd' });
});

test('purchases of offers and groups count by their times; things owned count once each where they must be different', () => {
  const one = playing(
    withGoals(`{
      buyer: {name: Buyer, counts: purchases, groups: [tails], target: 4},
      silk: {name: Silk, counts: purchases, offers: [silk], target: 2},
      three: {name: Three different, counts: owned, groups: [tails], distinct: true, target: 3, gives: {shells: 5}},
      many: {name: Four, counts: owned, items: [silk, ribbon], target: 4}}`),
    { shells: 200 },
  );
  expect(one.buy('silk', 3)).toEqual([
    expect.objectContaining({ kind: 'nearer', goal: 'buyer', count: 3 }),
    expect.objectContaining({ kind: 'reached', goal: 'silk', count: 3 }),
    expect.objectContaining({ kind: 'nearer', goal: 'three', count: 1 }),
    expect.objectContaining({ kind: 'nearer', goal: 'many', count: 3 }),
  ]);
  expect(kinds(one.buy('ribbon'))).toEqual(['reached', 'nearer', 'reached']);
  expect(one.buy('paper')).toEqual([expect.objectContaining({ kind: 'reached', goal: 'three', given: { shells: 5 } })]);
  // Sold and bought again: nothing is paid again.
  one.act('sell', 'paper', 'pier');
  expect(one.buy('paper')).toEqual([]);
});

test('two things that come by one deed are looked at together, and told once', () => {
  const one = playing(
    economyOf(`${BASE.replace('{gives: paper}', '{gives: {silk: 1, ribbon: 1}, price: {shells: 10}}')}
goals: {tails: {name: Tails, counts: owned, groups: [tails], target: 5}, kinds: {name: Kinds, counts: owned, groups: [tails], distinct: true, target: 2}}
`),
    { shells: 100 },
  );
  expect(one.buy('paper')).toEqual([
    expect.objectContaining({ kind: 'nearer', goal: 'tails', count: 2 }),
    expect.objectContaining({ kind: 'reached', goal: 'kinds', count: 2 }),
  ]);
});

test('what is earned counts, and what a cap keeps out does not; what is bought back or granted was not earned', () => {
  const economy = withGoals(`{
    earner: {name: Earner, counts: earned, currency: shells, target: 60},
    spender: {name: Spender, counts: spent, currency: shells, target: 30, gives: {shells: 1000}}}`);
  const one = playing(economy, { shells: 40 });
  expect(one.buy('silk', 2)).toEqual([expect.objectContaining({ goal: 'spender', count: 20 })]);
  expect(one.act('sell', 'silk', 'pier')).toEqual([]);
  const granted = [
    { asset: 'shells', units: 500, from: 'world:support', to: 'player:profile', cause: 'grant:oda' },
  ] as const;
  expect(progressMake(economy, playerWith(economy, {}), { movements: granted }, NOW).progress).toEqual([]);
  // 1,000 come, 475 are let in, and those count.
  expect(one.buy('silk')).toEqual([
    expect.objectContaining({ kind: 'reached', goal: 'spender', given: { shells: 485 }, dropped: { shells: 515 } }),
    expect.objectContaining({ kind: 'reached', goal: 'earner', count: 485 }),
  ]);
});

test('a goal of a week is paid once in each, also where clocks change in between', () => {
  const one = playing(
    withGoals(`{weekly: {name: Weekly, counts: events, event: race, target: 2, every: week, gives: {shells: 10}}}`),
  );
  // The last week of March 2027 has 167 hours in Lisbon: it ends on Monday, 29th, 0:00 summer time, 23:00 UTC the day before.
  const end = Date.UTC(2027, 2, 28, 23);
  expect(kinds([...one.race(1, 1, end - 2 * HOUR), ...one.race(1, 1, end - HOUR), ...one.race(1, 1, end - 1)])).toEqual(
    ['nearer', 'reached'],
  );
  expect(kinds([...one.race(1, 1, end), ...one.race(1, 1, end + 1)])).toEqual(['nearer', 'reached']);
  expect(one.holds('shells')).toBe(20);
  expect(one.standing(end + 1).goals[0]).toMatchObject({ reached: true });
  expect(one.standing(end + 7 * DAY).goals[0]).toMatchObject({ reached: false, count: 0 });
});

test('a goal after another begins when that is reached, and a hidden one is seen when it is near', () => {
  const one = playing(
    withGoals(`{
      second: {name: Second, counts: events, event: race, target: 2, after: first},
      owner: {name: Owner, counts: owned, items: [silk], target: 1, after: first},
      first: {name: First, counts: events, event: race, target: 1},
      secret: {name: Secret, counts: events, event: race, target: 4, shownFrom: 0.5}}`),
    { shells: 10 },
  );
  expect(one.buy('silk')).toEqual([]);
  const seen = (): string[] => one.standing().goals.map(({ goal }) => goal);
  expect(seen()).toEqual(['first']);
  expect(one.race().map((told) => [told.kind, 'goal' in told && told.goal])).toEqual([
    ['reached', 'first'],
    ['reached', 'owner'],
    ['nearer', 'secret'],
  ]);
  expect(seen()).toEqual(['second', 'owner', 'first']);
  one.race();
  expect(seen()).toEqual(['second', 'owner', 'first', 'secret']);
});

test('an amount earned passes several levels at once: each pays, the attribute follows, and rewards count on', () => {
  const one = playing(
    withGoals(
      `{
        tenth: {name: Tenth, counts: attribute, attribute: level, target: 10, gives: {renown: 1000}},
        titled: {name: Titled, counts: earned, currency: shells, target: 30}}`,
      `{flyer: {name: Flyer, earns: renown, attribute: level,
          levels: {"2": {costs: 10, gives: {shells: 5}}, "3": {costs: 20}, "4": {costs: 30, gives: {shells: 25}}},
          further: {to: 100, costs: "=10 * level", gives: {silk: "=if(level % 10 == 0, 1, 0)"}}}}`,
    ),
  );
  expect(one.race()).toEqual([
    {
      kind: 'level',
      track: 'flyer',
      name: 'Flyer',
      level: 2,
      earned: 10,
      money: 'renown',
      given: { shells: 5 },
      dropped: {},
    },
    expect.objectContaining({ kind: 'nearer', goal: 'tenth', count: 2 }),
    expect.objectContaining({ kind: 'nearer', goal: 'titled', count: 5 }),
  ]);
  expect([one.attribute('level'), one.standing().tracks[0]!.next]).toEqual([2, { level: 3, from: 30 }]);
  const levels = [...one.race(), ...one.race()].filter(({ kind }) => kind === 'level');
  expect(levels).toMatchObject([{ level: 3 }]);
});

test('a hundred levels are passed by one event, and its sums are those of the table', () => {
  const economy = withGoals(
    '{}',
    `{flyer: {name: Flyer, earns: renown, attribute: level, further: {to: 101, costs: "=level", gives: {shells: 1}}}}`,
  );
  const { levels } = economy.tracks.get('flyer')!;
  expect([levels.length, levels.at(-1)!.from]).toEqual([100, (101 * 102) / 2 - 1]);
  const moved = [
    { asset: 'renown', units: 5150, from: 'world:earning', to: 'player:profile', cause: 'earning:prize' },
  ] as const;
  const made = progressMake(economy, playerWith(economy, {}), { movements: moved }, NOW);
  expect(made.progress).toHaveLength(100);
  expect([made.player.attributes['level'], playerHolds(economy, made.player, 'shells')]).toEqual([101, 100]);
  // One unit short of the last.
  const short = progressMake(economy, playerWith(economy, {}), { movements: [{ ...moved[0], units: 5149 }] }, NOW);
  expect(short.player.attributes['level']).toBe(100);
  // Movements of every asset sum to zero.
  const sums = new Map<string, bigint>();
  for (const assets of ledgerBalances(made.movements).values())
    for (const [asset, units] of assets) sums.set(asset, (sums.get(asset) ?? 0n) + units);
  expect([...sums.values()]).toEqual([0n]);
});

test('a level that was come by otherwise is not taken back, and goals of an attribute hear of it', () => {
  const one = playing(
    withGoals(
      `{four: {name: Four, counts: attribute, attribute: level, target: 4}}`,
      `{flyer: {name: Flyer, earns: renown, attribute: level, levels: {"2": {costs: 10}}}}`,
    ),
    { wax: 1 },
  );
  expect(one.act('use', 'wax')).toEqual([expect.objectContaining({ kind: 'reached', goal: 'four' })]);
  one.race();
  expect([one.attribute('level'), one.standing().tracks[0]!.level]).toEqual([4, 2]);
});

test('goals that wait for each other are never reached, and nothing hangs', () => {
  const one = playing(
    withGoals(`{
      a: {name: A, counts: events, event: race, target: 1, after: b},
      b: {name: B, counts: events, event: race, target: 1, after: a}}`),
  );
  expect(one.race()).toEqual([]);
});

test.each([
  ['goals: {none: {name: None, counts: events, event: race, target: 0}}', '/goals/none/target'],
  ['goals: {none: {name: None, counts: wins, target: 1}}', '/goals/none/counts'],
  ['goals: {none: {name: None, counts: earned, currency: shells, target: 1.5}}', '/goals/none/target'],
  ['tracks: {t: {name: T, earns: renown, attribute: title}}', '/tracks/t/attribute'],
  ['tracks: {t: {name: T, earns: renown, attribute: level, levels: {"1": {costs: 5}}}}', '/tracks/t/levels/1'],
  ['tracks: {t: {name: T, earns: renown, attribute: level, levels: {one: {costs: 5}}}}', '/tracks/t/levels/one'],
  [
    'tracks: {t: {name: T, earns: renown, attribute: level, further: {to: 5, costs: "=1 - level"}}}',
    '/tracks/t/further',
  ],
  ['goals: {g: {name: G, counts: events, event: race, by: "=speed", target: 1}}', '/goals/g/by'],
  ['goals: {g: {name: G, counts: events, event: race, target: 1, after: nothing}}', '/goals/g/after'],
])('%s is told where it stands', (section, pointer) => {
  expect(issuesOf(`${BASE}\n${section}\n`).map((issue) => issue.pointer)).toEqual([pointer]);
});

describe('what holds already', () => {
  const late = withGoals(
    `{
      tails: {name: Tails, counts: owned, groups: [tails], target: 2, gives: {renown: 3}},
      high: {name: High, counts: attribute, attribute: level, target: 3, gives: {renown: 5}},
      weekly: {name: Weekly, counts: owned, items: [silk], target: 1, every: week, gives: {wax: 1}},
      then: {name: Then, counts: owned, items: [paper], target: 1, after: races},
      races: {name: Races, counts: events, event: race, target: 2}}`,
    `{flyer: {name: Flyer, earns: renown, attribute: level, levels: {"2": {costs: 10}, "3": {costs: 20, gives: {shells: 7}}, "4": {costs: 30, gives: {shells: 9}}}}}`,
  );
  const reached = (progress: readonly { kind: string }[]) =>
    progress.flatMap((one) => ('goal' in one && one.kind === 'reached' ? [one.goal] : []));

  test('goals that hold when they are published are reached with the next deed of any kind, once', () => {
    const one = playing(late, { silk: 1, ribbon: 1, shells: 40 });
    expect(one.standing().goals.find(({ goal }) => goal === 'tails')).toMatchObject({ count: 2, reached: false });
    expect(reached(one.buy('paper'))).toEqual(['tails', 'weekly']);
    expect(reached(one.buy('paper'))).toEqual([]);
    // A new week is a new period; what holds then holds.
    expect(reached(one.race(1, 1, NOW + 7 * DAY))).toEqual(['weekly']);
    expect(reached(one.race(1, 1, NOW + 7 * DAY))).toEqual(['races', 'then']);
  });

  test('a track begins where the attribute stands, and pays nothing for what was come by otherwise', () => {
    const player = playerWith(late, {}, { level: 3 });
    expect(progressOf(late, player, NOW).tracks).toMatchObject([
      { level: 3, earned: 30, next: { level: 4, from: 60 } },
    ]);
    const race = (who: Player) =>
      eventApply(late, who, { id: 'e', name: 'race', fields: { place: 1, metres: 1 } }, NOW);
    const first = race(player);
    // 10 of the race, 5 of the goal that the level reaches.
    expect(progressOf(late, first.player, NOW).tracks).toMatchObject([{ level: 3, earned: 45 }]);
    expect(playerHolds(late, first.player, 'shells')).toBe(0);
    const second = race(race(first.player).player);
    expect(second.progress).toContainEqual(expect.objectContaining({ kind: 'level', level: 4, given: { shells: 9 } }));
  });

  test('a level that a flatter table makes cheaper is reached with the next deed', () => {
    const steep = withGoals(
      '{}',
      '{flyer: {name: Flyer, earns: renown, attribute: level, levels: {"2": {costs: 50}}}}',
    );
    const flat = withGoals('{}', '{flyer: {name: Flyer, earns: renown, attribute: level, levels: {"2": {costs: 10}}}}');
    const { player } = eventApply(
      steep,
      playerWith(steep, {}),
      { id: 'e', name: 'race', fields: { place: 1, metres: 1 } },
      NOW,
    );
    const made = progressMake(flat, player, { movements: [] }, NOW);
    expect(made.progress).toMatchObject([{ kind: 'level', level: 2 }]);
    expect(made.player.attributes['level']).toBe(2);
  });
});

test('a duration begins with the first count, and ends for the count and for the reward together', () => {
  const one = playing(
    withGoals('{two: {name: Two, counts: events, event: race, target: 2, every: PT10H, gives: {renown: 1}}}'),
  );
  const kinds = (atMs: number) => one.race(1, 1, atMs).map(({ kind }) => kind);
  expect(kinds(NOW)).toEqual(['nearer']);
  expect(kinds(NOW + 9 * HOUR)).toEqual(['reached']);
  expect(kinds(NOW + 9 * HOUR)).toEqual([]);
  // Ten hours after the first of them it begins anew, not ten hours after it was reached.
  expect(kinds(NOW + 10 * HOUR)).toEqual(['nearer']);
  expect(kinds(NOW + 19 * HOUR)).toEqual(['reached']);
});

test('purchases of things that are named count, and goals that wait are told to whoever may see all', () => {
  const economy = withGoals(`{
    tails: {name: Tails, counts: purchases, items: [silk], target: 1, gives: {renown: 1}},
    more: {name: More, counts: purchases, items: [silk], target: 3, after: tails, shownFrom: 0.9}}`);
  const one = playing(economy, { shells: 20 });
  expect(one.standing().goals.map(({ goal }) => goal)).toEqual(['tails']);
  const all = () => progressOf(economy, one.player(), NOW, true).goals;
  expect(all()).toMatchObject([{ goal: 'tails' }, { goal: 'more', waitsFor: { goal: 'tails', name: 'Tails' } }]);
  expect(one.buy('silk')).toMatchObject([{ kind: 'reached', goal: 'tails' }]);
  expect(all()[1]).not.toHaveProperty('waitsFor');
});

import { demoDocument, documentOf } from '../../../tests/support/economy.js';
import type { EconomyDocument } from '../document/index.js';
import { overridesApply } from '../document/index.js';
import { distanceText, figureText, flowSums, scenarioResolve, simulateEngine, simulationCompare } from './index.js';
import type { RunSetup, ScenarioOptions, SimulationResult } from './index.js';
import { simulateReference } from './reference.js';

function simulate(document: EconomyDocument, scenario: string, options: ScenarioOptions = {}): SimulationResult {
  const setup = scenarioResolve(document, scenario, options);
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  return simulateEngine(setup.value);
}

/** One activity of a known yield, no chance anywhere but where the test puts it. */
const world = (more: {
  emits?: string;
  field?: string;
  rule?: string;
  currency?: string;
  offers?: string;
  items?: string;
  shops?: string;
  sessions?: string;
  needs?: string;
  leaves?: number;
  days?: number;
  players?: number;
  start?: string;
}) =>
  documentOf(`
events: {walk: {fields: {finds: number}}}
currencies:
  shells: {name: Shells, ${more.currency ?? 'start: 0'}}
  breeze: {name: Breeze, start: 4, refill: {amount: 1, every: PT2H, upTo: 6}}
items:
  frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 40}}
  ${more.items ?? ''}
shops: {stall: {name: Stall, shelves: {main: {name: Main, offers: {frame: {gives: frame}, ${more.offers ?? ''}}}}}}
earning:
  finds: {name: Finds, on: walk, gives: {shells: "=finds"}, ${more.rule ?? ''}}
activities:
  walk: {name: Walk, minutes: 10, ${more.needs ?? ''} emits: {walk: {finds: ${more.field ?? '5'}}}}
personas:
  daydreamer:
    name: Daydreamer
    sessions: ${more.sessions ?? '{perDay: 2, minutes: 30, from: 9, to: 20}'}
    plays: {walk: 1}
    shops: ${more.shops ?? '{policy: wishlist, wishes: []}'}
    leaves: ${more.leaves ?? 0}
scenarios:
  month: {name: Month, start: "${more.start ?? '2027-03-01'}", days: ${more.days ?? 30}, players: ${more.players ?? 400}, seed: 5, mix: {daydreamer: 1}}
`);

const flow = (result: SimulationResult, cause: string) =>
  result.flows.cause.reduce((sum, one, row) => (one === cause ? sum + result.flows.units[row]! : sum), 0);

describe('closed forms', () => {
  test('expected income: sessions a day x walks a session x finds a walk', () => {
    // Sessions are Poisson(2) a day, each of three walks (30 / 10 minutes), each walk Poisson(4) shells.
    const { totals, flows, players } = simulate(world({ field: '{poisson: 4}', players: 150 }), 'month');
    const playerDays = 150 * 30;
    expect(totals.playerDays).toBe(playerDays);
    const income = flows.units
      .filter((_, row) => flows.direction[row] === 'in' && flows.currency[row] === 0)
      .reduce((sum, units) => sum + units, 0);
    // A day's income is a sum over N = Poisson(2) sessions of S = Poisson(12): variance E[N] Var S + Var N E[S]^2 = 2 x 12 + 2 x 144.
    const deviation = Math.sqrt(playerDays * (2 * 12 + 2 * 144));
    expect(Math.abs(income - playerDays * 24)).toBeLessThan(4 * deviation);
    expect(players.balance[0]!.reduce((sum, units) => sum + units, 0)).toBe(income);
  });

  test('time to afford a fixed price under constant income is exact', () => {
    // Breeze lets everyone play the same: six in store at most, so sessions are made long and daily instead.
    const document = world({
      sessions: '{perDay: 48, minutes: 10, from: 0, to: 23}',
      rule: 'limits: {day: 3}',
      shops: '{policy: wishlist, wishes: [frame]}',
      players: 20,
      days: 5,
    });
    const { items } = simulate(document, 'month');
    // Three paid walks a day of 5 shells each are 15 a day: 40 shells are there on the third day, day 2.
    const same = {
      happened: [20],
      median: [2],
      medianLow: [2],
      medianHigh: [2],
      mean: [2],
      meanLow: [2],
      meanHigh: [2],
    };
    expect(items).toMatchObject({ item: ['frame'], owned: same, afforded: same });
  });

  test('a chance of 1 in 8 per walk: tries until the first are geometric', () => {
    const document = world({
      items: 'charm: {name: Charm, kind: durable, carry: 1}',
      rule: 'when: "=owned(charm) == 0"',
      sessions: '{perDay: 4, minutes: 10, from: 0, to: 23}',
      days: 40,
      players: 200,
    });
    document.earning!['charm'] = {
      name: 'Charm',
      on: 'walk',
      chance: 0.125,
      gives: { charm: 1 },
      when: '=owned(charm) == 0',
    };
    const { flows, players } = simulate(document, 'month');
    // Every walk until the charm came, that one included, paid 5 shells: walks are shells / 5. Mean 8, variance (1 - p) / p^2 = 56.
    const walks =
      flows.units.filter((_, row) => flows.cause[row] === 'earning:finds').reduce((sum, units) => sum + units, 0) / 5;
    expect(players.ownedDay['charm']!.every((day) => day !== null)).toBe(true);
    expect(Math.abs(walks / 200 - 8)).toBeLessThan(4 * Math.sqrt(56 / 200));
  });

  test('a session that goes on past midnight is booked to the day in which each thing happens', () => {
    const document = world({
      sessions: '{perDay: 30, minutes: 25, from: 20, to: 23}',
      rule: 'limits: {day: 8}',
      days: 4,
      players: 40,
    });
    const { flows, balances } = simulate(document, 'month');
    const perDay = [0, 1, 2, 3].map((day) =>
      flows.units.reduce(
        (sum, units, row) => (flows.day[row] === day && flows.cause[row] === 'earning:finds' ? sum + units : sum),
        0,
      ),
    );
    // Eight paid walks of 5 shells for each of 40 players, on every day by the calendar; nothing after the last.
    expect(perDay).toEqual([1600, 1600, 1600, 1600]);
    expect(balances.mean.filter((_, row) => balances.currency[row] === 0)).toEqual([40, 80, 120, 160]);
  });

  test('a refill with a bound gives exactly what time allows', () => {
    // Nobody plays: four at the start, one every two hours, six at most.
    const { balances, flows } = simulate(
      world({ sessions: '{perDay: 0, minutes: 10}', players: 20, days: 3 }),
      'month',
    );
    const breeze = balances.currency.flatMap((currency, row) => (currency === 1 ? [balances.p50[row]] : []));
    expect(breeze).toEqual([6, 6, 6]);
    expect(flows.units.filter((_, row) => flows.cause[row] === 'refill:breeze')).toEqual([20 * 2]);
  });

  test('a chance of leaving of 10% a day: about 0.9 ^ days are left', () => {
    const { balances } = simulate(world({ leaves: 0.1, players: 500, days: 20 }), 'month');
    const left = balances.n.filter((_, row) => balances.currency[row] === 0).at(-1)!;
    const expected = 0.9 ** 19;
    expect(Math.abs(left / 500 - expected)).toBeLessThan(4 * Math.sqrt((expected * (1 - expected)) / 500));
  });
});

describe('the same inputs give the same bytes', () => {
  test('two runs are equal to the byte, and another seed is not', () => {
    const run = (seed: number) =>
      JSON.stringify(simulate(demoDocument(), 'first_month', { days: 4, players: 20, seed }));
    expect(run(7)).toBe(run(7));
    expect(run(7)).not.toBe(run(8));
  });

  test('a price change does not disturb the luck', () => {
    const price = '/items/frame/worth/shells';
    const document = world({ field: '{poisson: 4}', shops: '{policy: wishlist, wishes: [frame]}', players: 60 });
    const [cheap, dear] = [40, 4000].map((shells) => simulate(document, 'month', { set: { [price]: shells } })) as [
      SimulationResult,
      SimulationResult,
    ];
    expect(flow(cheap, 'purchase:frame')).toBe(60 * 40);
    expect(flow(dear, 'purchase:frame')).toBe(0);
    expect(flow(dear, 'earning:finds')).toBe(flow(cheap, 'earning:finds'));
  });

  test("a new persona in the mix leaves the others' luck alone", () => {
    const alone = demoDocument();
    const both = demoDocument();
    // Without shared stock nothing connects the players.
    for (const document of [alone, both]) {
      delete document.shops!['lantern_wagon']!.shelves['rare']!.offers['lantern_sail'];
      delete document.texts;
    }
    both.scenarios!['racers_only']!.mix = { racer: 1, daydreamer: 1 };
    const racers = (result: SimulationResult) =>
      result.players.balance[0]!.filter(
        (_, player) => result.personas[result.players.persona[player]!]!.id === 'racer',
      );
    expect(racers(simulate(both, 'racers_only', { players: 20, days: 4 }))).toEqual(
      racers(simulate(alone, 'racers_only', { players: 10, days: 4 })),
    );
  });
});

describe('spending', () => {
  test('what is kept back is never spent', () => {
    const document = world({
      shops: '{policy: impulse, chance: 1, keeps: {shells: 25}}',
      items: 'bead: {name: Bead, kind: durable}',
      offers: 'trinket: {gives: bead, price: {shells: 30}}',
      players: 30,
    });
    const { players, offers } = simulate(document, 'month', { days: 12 });
    // Of each player, not of most of them. Without it some would be left with less than 25 after a trinket for 30.
    expect(offers.times[offers.offer.indexOf('trinket')]).toBeGreaterThan(100);
    expect(Math.min(...players.balance[0]!)).toBeGreaterThanOrEqual(25);
  });

  test('a wishlist buys its wishes in order and nothing else', () => {
    const document = world({
      items:
        'sail: {name: Sail, kind: durable, carry: 1, worth: {shells: 10}}\n  tail: {name: Tail, kind: durable, carry: 1, worth: {shells: 1}}',
      offers: 'sail: {gives: sail}, tail: {gives: tail}',
      shops: '{policy: wishlist, wishes: [frame, sail]}',
      players: 40,
    });
    const { offers, players } = simulate(document, 'month');
    expect(offers.offer).toEqual(['frame', 'sail']);
    for (const [player, day] of players.ownedDay['frame']!.entries())
      expect(day!).toBeLessThanOrEqual(players.ownedDay['sail']![player]!);
  });

  test('what was wanted and refused is counted by reason', () => {
    const document = world({ shops: '{policy: wishlist, wishes: [frame]}', players: 40, rule: 'chance: 0' });
    const { offers } = simulate(document, 'month');
    expect(offers).toMatchObject({ offer: ['frame'], times: [0], players: [0], share: [0] });
    expect(offers.refused[0]!['short-of']).toBeGreaterThan(500);
  });

  test('a player who comes back the same day and still cannot buy counts once', () => {
    const document = world({
      shops: '{policy: wishlist, wishes: [frame]}',
      players: 20,
      days: 5,
      rule: 'chance: 0',
      sessions: '{perDay: 20, minutes: 5}',
    });
    // Twenty sessions a day make sure that everyone comes every day.
    expect(simulate(document, 'month').offers.refused).toEqual([{ 'short-of': 20 * 5 }]);
  });

  test('an impulse buyer with chance 0 buys nothing, and a loop of gain does not hang a run', () => {
    const loop = 'up: {gives: {shells: 2}, price: {shells: 1}}';
    expect(
      simulate(world({ shops: '{policy: impulse, chance: 0}', offers: loop, players: 10 }), 'month').totals.purchases,
    ).toBe(0);
    expect(
      simulate(world({ shops: '{policy: impulse, chance: 1}', offers: loop, players: 5, days: 5 }), 'month').totals
        .purchases,
    ).toBeGreaterThan(0);
  });

  test('stock that all share is sold once', () => {
    const document = world({ shops: '{policy: wishlist, wishes: [frame]}', players: 60 });
    document.shops!['stall']!.shelves['main']!.offers['frame']!.stock = { units: 10 };
    const { offers, players, sales } = simulate(document, 'month', { days: 7 });
    expect(offers.times).toEqual([10]);
    expect(players.ownedDay['frame']!.filter((day) => day !== null)).toHaveLength(10);
    expect(offers.refused[0]!['out-of-stock']).toBeGreaterThan(0);
    // Nothing comes back: from the tenth on it is sold out to the end.
    const untilMs = (1 - sales.soldOutShare[0]!) * 7 * 24 * 3_600_000;
    expect(Math.abs(sales.soldOutMs[0]! - Date.parse('2027-03-01T00:00Z') - untilMs)).toBeLessThan(1000);
  });
});

test('days follow the calendar through a change of clocks', () => {
  const { balances } = simulate(world({ start: '2027-10-30', days: 3, players: 5 }), 'month');
  expect([...new Set(balances.day)]).toEqual([0, 1, 2]);
});

test('every movement of money is told as coming in or going out, and sums to what is held', () => {
  const { flows, players, currencies } = simulate(demoDocument(), 'first_month', { days: 12, players: 60 });
  for (const currency of currencies.keys()) {
    const net = flows.units.reduce(
      (sum, units, row) =>
        flows.currency[row] !== currency ? sum : flows.direction[row] === 'in' ? sum + units : sum - units,
      0,
    );
    expect(net).toBe(players.balance[currency]!.reduce((sum, units) => sum + units, 0));
  }
});

describe('comparing runs', () => {
  const run = (set?: Record<string, unknown>, seed = 7) =>
    simulate(demoDocument(), 'racers_only', { days: 8, players: 40, seed, ...(set ? { set } : {}) });
  const before = run();

  test('a run differs from itself in nothing', () => {
    const comparison = simulationCompare(before, [run()]);
    expect(
      comparison.comparable &&
        comparison.differences.filter(({ difference, distinguishable }) => difference !== 0 || distinguishable),
    ).toEqual([]);
  });

  test('a frame at twice the price is owned later, and the interval says so', () => {
    const comparison = simulationCompare(before, [
      run({
        '/items/gull_frame/worth/shells': 900,
        '/shops/pier_stall/shelves/frames/offers/racer_kit/price/shells': 1040,
      }),
    ]);
    const later =
      comparison.comparable &&
      comparison.differences.find(({ metric, subject }) => metric === 'days-to-own' && subject === 'Gull Frame');
    expect(later).toMatchObject({ distinguishable: true, persona: 'Racer' });
    if (later) expect(later.low).toBeGreaterThan(0);
  });

  test('several at once: each interval is the wider for it, and the first day of a difference is told', () => {
    const dear = run({ '/items/gull_frame/worth/shells': 900 });
    const one = simulationCompare(before, [dear]);
    const three = simulationCompare(before, [run(), dear, dear]);
    if (!one.comparable || !three.comparable) throw new Error('not comparable');
    expect(three.differsFrom).toEqual([null, one.differsFrom[0], one.differsFrom[0]]);
    expect(one.differsFrom[0]).toBeGreaterThanOrEqual(0);
    const wallet = ({ differences }: typeof one, variant: number) =>
      differences.find((each) => each.metric === 'balance' && each.variant === variant && each.subject === 'Shells')!;
    expect(wallet(three, 2).difference).toBe(wallet(one, 0).difference);
    expect(wallet(three, 2).low).toBeLessThan(wallet(one, 0).low!);
    expect(wallet(three, 0)).toMatchObject({ difference: 0, distinguishable: false });
  });

  test('one player has no interval, and nobody has no balance', () => {
    const alone = () => simulate(world({ players: 1, days: 3, shops: '{policy: wishlist, wishes: [frame]}' }), 'month');
    expect(alone().balances.meanLow.every((low) => low === null)).toBe(true);
    const comparison = simulationCompare(alone(), [alone()]);
    expect(comparison.comparable && comparison.differences).not.toEqual([]);
    if (comparison.comparable)
      for (const { low, high, distinguishable, difference } of comparison.differences)
        expect([low, high, distinguishable, difference]).toEqual([null, null, false, 0]);
    const { balances } = simulate(world({ players: 2, days: 3, leaves: 1 }), 'month');
    expect([balances.n.at(-1), balances.p50.at(-1), balances.mean.at(-1)]).toEqual([0, null, null]);
  });

  test('runs that do not share their luck are not compared', () => {
    expect(simulationCompare(before, [run(undefined, 8)])).toMatchObject({ comparable: false });
  });
});

describe('setting up', () => {
  test.each([
    ['nowhere', {}, '/scenarios/nowhere'],
    ['first_month', { set: { '/items/storm_fram/worth/shells': 5 } }, '/items/storm_fram/worth/shells'],
    ['first_month', { set: { '/items/storm_frame/worth/shells': -5 } }, '/items/storm_frame/worth/shells'],
    ['first_month', { set: { '/items/storm_frame/worth': { shels: 5 } } }, '/items/storm_frame/worth/shels'],
  ])('the scenario %s with %j is refused with its place', (scenario, options, pointer) => {
    expect(scenarioResolve(demoDocument(), scenario, options)).toMatchObject({
      ok: false,
      issues: [expect.objectContaining({ pointer })],
    });
  });

  test('players are shared out to the mix exactly', () => {
    const setup = scenarioResolve(demoDocument(), 'first_month', { players: 7 });
    expect(setup.ok && setup.value.crowd).toEqual([
      { persona: 'daydreamer', players: 4 },
      { persona: 'weekender', players: 2 },
      { persona: 'racer', players: 1 },
    ]);
  });

  test('an override leaves the document itself alone', () => {
    const document = demoDocument();
    const changed = overridesApply(document, { '/items/storm_frame/worth/shells': 5 });
    expect(changed.ok && changed.value.items!['storm_frame']!.worth).toEqual({ shells: 5 });
    expect(document.items!['storm_frame']!.worth).toEqual({ shells: 1400 });
  });
});

test('figures are shown in display units, shares apart in points', () => {
  expect(figureText({ metric: 'balance', decimals: 2 }, 12345)).toBe('123.5');
  expect(figureText({ metric: 'balance', decimals: 2 }, 12)).toBe('0.12');
  expect(figureText({ metric: 'owned', decimals: 0 }, 0.215)).toBe('21.5%');
  // The first day is day 1 for a reader, and day 0 in the result.
  const owned = { metric: 'days-to-own', decimals: 0 } as const;
  expect([figureText(owned, 0), distanceText(owned, -1)]).toEqual(['1.0', '-1.0']);
  expect(distanceText({ metric: 'owned', decimals: 0 }, -0.1)).toBe('-10.0 points');
});

test('sums by cause add up to all that came in', () => {
  const result = simulate(demoDocument(), 'racers_only', { days: 3, players: 10 });
  const sums = flowSums(result, 0, 'in');
  expect(sums.map(({ units }) => units)).toEqual([...sums.map(({ units }) => units)].sort((a, b) => b - a));
  expect(sums.find(({ cause }) => cause === 'start:new_player')!.units).toBe(600);
});

test('no session of a player begins before the one before it is over', () => {
  // Forty half hours cannot fit into two: where they overlapped, the clock would step back within the cooldown.
  const document = world({
    sessions: '{perDay: 20, minutes: 30, from: 9, to: 10}',
    rule: 'cooldown: PT10M',
    offers: '',
    shops: '{policy: impulse, chance: 0}',
    players: 3,
    days: 3,
  });
  const { flows, totals } = simulate(document, 'month');
  const paid = flows.units.reduce((sum, units, row) => sum + (flows.cause[row] === 'earning:finds' ? units : 0), 0);
  expect(totals.events).toBeGreaterThan(300);
  expect(paid).toBe(5 * totals.events);
});

test('weekdays have their own number of sessions, and hours their own share of the beginnings', () => {
  const fixed = world({
    sessions: '{perDay: 2, fixed: true, minutes: 10, from: 9, to: 20, weekdays: {monday: 0, saturday: 3, sunday: 0.5}}',
    players: 10,
    days: 7,
  });
  const { flows } = simulate(fixed, 'month');
  const walks = [0, 1, 2, 3, 4, 5, 6].map((day) =>
    flows.units.reduce(
      (sum, units, row) => (flows.day[row] === day && flows.cause[row] === 'earning:finds' ? sum + units / 5 : sum),
      0,
    ),
  );
  // 1 March 2027 is a Monday. Ten players, one walk a session.
  expect(walks).toEqual([0, 20, 20, 20, 20, 60, 10]);

  const hourly = world({
    sessions: '{perDay: 4, minutes: 10, hours: {7: 1, 8: 0, 20: 3}}',
    players: 100,
    days: 10,
  });
  const setup = scenarioResolve(hourly, 'month');
  const begun = new Map<number, number>();
  simulateReference((setup as { value: RunSetup }).value, {
    onMove: ({ kind, atMs }) => {
      const hour = new Date(atMs - 10 * 60_000).getUTCHours();
      if (kind === 'event') begun.set(hour, (begun.get(hour) ?? 0) + 1);
    },
  });
  // A session that waits for the one before it may slip into the next hour.
  const [early, late] = [begun.get(7)!, begun.get(20)!];
  expect(late / early).toBeGreaterThan(2.6);
  expect(late / early).toBeLessThan(3.4);
  expect([...begun.keys()].every((hour) => [7, 8, 20, 21].includes(hour))).toBe(true);
});

test.each([
  ['hours: {8: 0}', 'sessions begin in none of these hours'],
  ['from: 8, hours: {8: 1}', 'when sessions begin is said twice'],
  ['fixed: true, weekdays: {monday: 0.25}', '0.5 is no number of sessions'],
])('sessions with %s are refused', (sessions, problem) => {
  expect(() => world({ sessions: `{perDay: 2, minutes: 30, ${sessions}}` })).toThrow(problem);
});

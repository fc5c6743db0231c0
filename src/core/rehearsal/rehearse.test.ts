/** A throwaway player does what a game can do; each step is what the live rules make of it. */
import { demoEconomy, economyOf } from '../../../tests/support/economy.js';
import type { Economy } from '../economy/index.js';
import { playerCreate, playerHolds, playerMadeUp } from '../player/index.js';
import type { Profile } from '../player/index.js';
import { UNTOUCHED, purchaseCheck } from '../trade/index.js';
import { rehearse, stepsRead } from './index.js';
import type { RehearsalState, WrittenStep } from './index.js';

const START = Date.UTC(2027, 2, 1, 9);

/** A frame that is owned once, wax by the day, a box with a key, a reel that yields, a stall that buys back. */
const COVE = economyOf(`
attributes: {level: {start: 1}}
events: {race_finished: {fields: {place: number}}}
currencies:
  shells: {name: Shells, start: 60, cap: 1000}
  pearls: {name: Pearls, decimals: 2}
  breeze: {name: Breeze, start: 2, refill: {amount: 1, every: PT20M, upTo: 5}}
items:
  frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 350}}
  wax: {name: Wax, kind: consumable, uses: 2, worth: {shells: 10}, onUse: {gives: {pearls: 0.5}}}
  crate: {name: Crate, kind: box, worth: {shells: 20}, opensWith: {item: key}, gives: {shells: 7}}
  key: {name: Key, kind: durable}
  reel: {name: Reel, kind: durable, yields: {gives: {shells: 3}, every: PT1H, upTo: 24}}
  medal: {name: Medal, kind: durable}
shops:
  stall:
    name: Stall
    buyback: {rate: 0.5, of: worth, items: [wax, reel, frame]}
    shelves:
      main:
        name: Main
        offers:
          frame: {gives: frame}
          wax: {gives: wax, limits: {day: 2}}
          pass: {gives: medal, price: {shells: 5}, when: "=level >= 2"}
earning: {prize: {name: Prize, on: race_finished, gives: {shells: "=if(place == 1, 30, 10)"}}}
goals: {first: {name: First race, counts: events, event: race_finished, target: 1, gives: {medal: 1}}}
activities: {race: {name: Race, minutes: 4, needs: {breeze: 1}, emits: {race_finished: {place: 1}}}}
`);

function played(steps: WrittenStep[], profile: Profile = {}, economy: Economy = COVE, seed?: number) {
  const read = stepsRead(economy, steps, 'written');
  if (!read.ok) throw new Error(JSON.stringify(read.problems));
  const state: RehearsalState = { player: playerMadeUp(economy, profile, START), shared: UNTOUCHED, atMs: START };
  return rehearse(economy, state, read.steps, seed);
}
const holds = (shells: number, more: Record<string, number> = {}): Profile => ({ holds: { shells, ...more } });

test('with 350 it is refused one short, with exactly enough it is bought, and the second time it is refused', () => {
  const { steps, state } = played(
    [{ buy: 'frame' }, { give: { shells: 1 } }, { buy: 'frame' }, { give: { shells: 350 } }, { buy: 'frame' }],
    holds(349),
  );
  expect(steps.map(({ done, reasons, moved }) => [done, reasons.map(({ code }) => code), moved])).toEqual([
    [false, ['short-of'], {}],
    [true, [], { shells: 1 }],
    [true, [], { shells: -350, frame: 1 }],
    [true, [], { shells: 350 }],
    [false, ['carry-full'], {}],
  ]);
  expect(steps[0]).toMatchObject({ price: { shells: 350 }, reasons: [{ asset: 'shells', short: 1 }] });
  expect(playerHolds(COVE, state.player, 'shells')).toBe(350);
});

test('everything that a game can do with a player moves what they have, and tells what it did', () => {
  const { steps, state } = played(
    [
      { play: 'race', times: 2 },
      { event: 'race_finished', fields: { place: 2 }, times: 3 },
      { buy: 'wax', times: 2 },
      { buy: 'wax' },
      { use: 'wax' },
      { give: { crate: 1 } },
      { open: 'crate' },
      { give: { key: 1, reel: 1 } },
      { open: 'crate' },
      { wait: 'PT2H' },
      { collect: 'reel' },
      { sell: 'reel', shop: 'stall' },
      { set: { level: 2 } },
      { buy: 'pass' },
      { take: { shells: 5000 } },
    ],
    holds(60),
  );
  const codes = steps.map(({ done, reasons }) => (done ? 'done' : reasons.map(({ code }) => code).join()));
  expect(codes).toEqual([
    'done',
    'done',
    'done',
    'limit-reached',
    'done',
    'done',
    'key-needed',
    'done',
    'done',
    'done',
    'done',
    // It has no worth.
    'pays-nothing',
    'done',
    'done',
    'done',
  ]);
  expect(steps[0]).toMatchObject({ times: 2, moved: { breeze: -2, shells: 60, medal: 1 }, atMs: START + 8 * 60_000 });
  expect(steps[0]!.progress).toMatchObject([{ kind: 'reached', goal: 'first' }]);
  expect(steps[4]!.moved).toEqual({ pearls: 50 });
  expect(steps[8]!.moved).toEqual({ crate: -1, key: -1, shells: 7 });
  expect(steps[10]!.moved).toEqual({ shells: 6 });
  expect(steps[12]).toMatchObject({ set: { level: 2 }, moved: {} });
  expect(steps[14]!.missed).toEqual({ shells: 5000 + steps[14]!.moved['shells']! });
  expect(playerHolds(COVE, state.player, 'shells')).toBe(0);
});

test('a play that cannot be begun ends the step, and says how often it was done', () => {
  const [step] = played([{ play: 'race', times: 5 }]).steps;
  expect(step).toMatchObject({ done: false, times: 2, problem: 'not enough Breeze to begin', moved: { shells: 60 } });
});

test('time: a day by the clocks on the wall, until what changes by itself, never back, never past all calendars', () => {
  const before = Date.UTC(2027, 2, 27, 9);
  const { steps } = played([
    { until: '2027-03-27T09:00' },
    { wait: 'day' },
    { wait: 'change' },
    { until: '2027-03-01T09:00' },
    { wait: 'P99999D' },
  ]);
  // Clocks go forward in the night: the same hour is an hour sooner.
  expect(steps[1]!.atMs - before).toBe(23 * 3_600_000);
  expect(steps[0]!.moved).toEqual({ breeze: 3 });
  expect(steps.slice(3).map(({ problem }) => problem)).toEqual([
    'that is before the step before',
    'that is past the last day that there is',
  ]);
  const one = played([{ take: { breeze: 1 } }, { wait: 'change' }]).steps[1]!;
  expect([one.atMs - START, one.moved]).toEqual([20 * 60_000, { breeze: 1 }]);
});

test('the same seed has the same luck, another has another; nothing that was given is changed', () => {
  const economy = demoEconomy();
  const { player } = playerCreate(economy, 'oda', 'Oda', START);
  const frozen = JSON.stringify(player);
  const run = (seed: number) =>
    rehearse(economy, { player, shared: UNTOUCHED, atMs: START }, [{ play: 'beach_walk', times: 40 }], seed).steps[0]!;
  expect(run(1)).toEqual(run(1));
  expect(run(1).moved).not.toEqual(run(2).moved);
  expect(JSON.stringify(player)).toBe(frozen);
});

test('a step is what the live check says at that instant', () => {
  const economy = demoEconomy();
  const player = playerMadeUp(economy, { holds: { shells: 5000, pearls: 50 } }, START);
  for (const offer of economy.offers.keys()) {
    const verdict = purchaseCheck(economy, player, UNTOUCHED, { offer }, START);
    const { steps, state } = rehearse(economy, { player, shared: UNTOUCHED, atMs: START }, [{ buy: offer }]);
    expect([offer, steps[0]!.done, steps[0]!.reasons]).toEqual([offer, verdict.allowed, verdict.reasons]);
    for (const asset in verdict.allowed ? verdict.after : {})
      expect([offer, asset, playerHolds(economy, state.player, asset)]).toEqual([offer, asset, verdict.after[asset]]);
  }
});

test.each<[WrittenStep[], RegExp]>([
  [[{}], /says nothing to do/],
  [[{ buy: 'frame', sell: 'frame' }], /says to buy and to sell/],
  [[{ buy: 'frme' }], /no offer "frme".*Did you mean "frame"/],
  [[{ collect: 'reel', times: 2 }], /collect has no times/],
  [[{ sell: 'wax' }], /sell needs the shop/],
  [[{ give: { shels: 3 } }], /no currency or item "shels"/],
  [[{ give: { pearls: 0.125 } }], /0\.125 has 3 decimals and this asset has 2/],
  [[{ event: 'race_finished', fields: { place: 'first' } }], /must be a number/],
  [[{ play: 'rase' }], /Did you mean "race"/],
  [[{ set: { levl: 2 } }], /levl/],
  [[{ wait: 'a while' }], /no time to wait/],
  [[{ until: '2027-03-28T01:30' }], /jump over/],
  [[{ until: '9999-01-01T00:00' }], /out of all calendars/],
  [
    [
      { play: 'race', times: 9000 },
      { play: 'race', times: 9000 },
    ],
    /18000 times in all/,
  ],
  [Array.from({ length: 1001 }, () => ({ wait: 'day' })), /1001 steps/],
  [Array.from({ length: 101 }, () => ({ wait: 'change' })), /101 times for a change/],
])('%j is refused before anything is done', (steps, words) => {
  const read = stepsRead(COVE, steps, 'written');
  expect(read.ok).toBe(false);
  expect(read.ok ? '' : read.problems.map(({ message, fix }) => `${message}. ${fix}`).join(' ')).toMatch(words);
});

test('the rare one comes: a box in the luck in which it brings what is chosen, by the table that it has', () => {
  const demo = demoEconomy();
  const open = (brings: string, seed?: number) =>
    played([{ open: 'drift_crate', brings }], { holds: { drift_crate: 1 } }, demo, seed);
  for (const seed of [1, 2, 3]) {
    const { steps, state } = open('star_charm', seed);
    expect(steps[0]).toMatchObject({ done: true, moved: { drift_crate: -1, star_charm: 1 } });
    // It is the same player who goes on.
    expect(state.player.id).toBe('profile');
  }
  expect(open('star_charm')).toEqual(open('star_charm'));
  const never = open('moon_frame');
  expect(never.steps[0]).toMatchObject({
    done: false,
    moved: {},
    problem: 'Moon Frame does not come of it, tried with 2000 kinds of luck',
  });
  expect(playerHolds(demo, never.state.player, 'drift_crate')).toBe(1);
  const { steps } = played([{ play: 'harbour_race', brings: 'pearls' }], { attributes: { level: 3 } }, demo);
  expect(steps[0]).toMatchObject({ done: true, moved: { pearls: 1, breeze: -1 } });
});

test('a chosen luck is work: it counts for what all steps may take, and names what is there', () => {
  const demo = demoEconomy();
  const problems = (steps: WrittenStep[]) => {
    const read = stepsRead(demo, steps, 'written');
    return read.ok ? [] : read.problems.map(({ message }) => message);
  };
  expect(problems([{ open: 'drift_crate', brings: 'star_charms' }])).toEqual([
    'there is no currency or item "star_charms"',
  ]);
  expect(problems(Array.from({ length: 51 }, () => ({ open: 'drift_crate', brings: 'star_charm' })))).toEqual([
    'these are 10200 times in all',
  ]);
  expect(problems([{ buy: 'storm_frame', brings: 'star_charm' }])).toEqual(['buy has no brings']);
});

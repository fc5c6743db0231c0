/** How long a price takes: worked out by hand where that is possible, and played where not. */
import { documentOf, economyOf } from '../../../tests/support/economy.js';
import { documentLabels } from '../texts/amounts.js';
import {
  durationText,
  earningsOf,
  ladderOf,
  playingTime,
  playingTimeShort,
  playingTimeText,
  priceTaking,
} from './index.js';
import type { LadderWhere, PersonaEarnings, PlayingTime } from './index.js';

/** Two sessions a day of ten minutes: five walks of two minutes, or three of four (the last is finished), half of each. */
const PLAIN = `
events: {walked: {fields: {finds: number}}, raced: {fields: {place: number}}}
currencies: {shells: {name: Shells, start: 60, cap: 100}, pearls: {name: Pearls, decimals: 2}, breeze: {name: Breeze, start: 3, cap: 6, refill: {amount: 1, every: PT20M, upTo: 6}}}
earning:
  finds: {name: Finds, on: walked, gives: {shells: "=3 * finds"}}
activities:
  walk: {name: Beach walk, minutes: 4, emits: {walked: {finds: {weights: {1: 1, 3: 1}}}}}
personas:
  weekender: {name: Weekender, sessions: {perDay: 2, fixed: true, minutes: 10, from: 9, to: 20}, plays: {walk: 1}, shops: {policy: impulse, chance: 1}, leaves: 0.5}
`;
const START = Date.parse('2027-03-01T00:00Z');

function weekender(text: string): PersonaEarnings {
  const result = earningsOf(economyOf(text), 'weekender', START);
  if (!result.ok) throw new Error(result.problem);
  return result.earnings;
}

type Earned = Extract<PlayingTime, { kind: 'earned' }>;
function earned(of: PersonaEarnings, basket: Record<string, number>): Earned {
  const time = playingTime(of, basket);
  if (time.kind !== 'earned') throw new Error(JSON.stringify(time));
  return time;
}

test('what rules pay without limit is worked out: minutes, plays and the day', () => {
  const of = weekender(PLAIN);
  // Three walks of four minutes a session, each of six shells on average: 36 shells in 24 minutes a day.
  expect(of.minutes.slice(0, 2)).toEqual([24, 48]);
  const day = earned(of, { shells: 36 });
  expect(day).toMatchObject({
    exact: true,
    beyond: false,
    minutes: { mean: 24, low: 24, high: 24 },
    day: { half: 1, low: 1, high: 1 },
    plays: [{ activity: 'walk', times: 6 }],
  });
  // Exactly what a day brings is earned on that day, one more on the next.
  expect(earned(of, { shells: 37 }).day.half).toBe(2);
  expect(earned(of, { shells: 37 }).minutes.mean).toBeCloseTo((37 * 24) / 36, 9);
});

test('nobody plays a part of a walk, and no wallet is too small to save in', () => {
  const of = weekender(PLAIN);
  expect(earned(of, { shells: 1 })).toMatchObject({ minutes: { mean: 4 }, plays: [{ times: 1 }] });
  expect(earned(of, { shells: 3600 }).day.half).toBe(100);
  expect(earned(of, { shells: 3600 })).toMatchObject({ beyond: true, day: { low: null, high: null } });
});

test('what play never brings is named, what comes back by itself is waited for', () => {
  const of = weekender(PLAIN);
  expect(playingTime(of, { shells: 36, pearls: 1 })).toEqual({ kind: 'never', assets: ['pearls'] });
  expect(playingTime(of, { breeze: 3 })).toEqual({ kind: 'waits', ms: 3_600_000, asset: 'breeze' });
  expect(playingTime(of, { shells: 0 })).toEqual({ kind: 'nothing' });
});

test('sessions of several activities come to as many plays as their renewal function says', () => {
  const of = weekender(
    PLAIN.replace('plays: {walk: 1}', 'plays: {walk: 1, race: 1}').replace(
      'activities:',
      'activities:\n  race: {name: Race, minutes: 6, emits: {raced: {place: 1}}}',
    ),
  );
  // Ten minutes of fours and sixes: 4 4 4, 4 4 6, 4 6, 6 4, 6 6: with an eighth twice and a quarter three times.
  const plays = 2 * (3 / 8 + 3 / 8 + 2 / 4 + 2 / 4 + 2 / 4) * 0.5;
  expect(of.plays.map(({ times }) => times[0])).toEqual([plays, plays]);
});

const LIMITED = PLAIN.replace('gives: {shells: "=3 * finds"}', 'gives: {shells: "=3 * finds"}, limits: {day: 2}');

test('a limit is played: the day by half of the players, minutes of the whole day', () => {
  const of = weekender(LIMITED);
  expect(of.assets['shells']!.played).toBeDefined();
  // Twelve shells a day on average, in all 24 minutes of it.
  const time = earned(of, { shells: 120 });
  expect(time.exact).toBe(false);
  expect(time.minutes.mean).toBeGreaterThan(230);
  expect(time.minutes.mean).toBeLessThan(250);
  expect(time.minutes.low).toBeLessThan(240);
  expect(time.minutes.high).toBeGreaterThan(240);
  expect(time.day.half).toBe(10);
  expect(time.day.low).toBeLessThanOrEqual(10);
  expect(time.day.high).toBeGreaterThanOrEqual(10);
});

test('what is worked out is what a run comes to', () => {
  const exact = weekender(PLAIN);
  // A limit that never binds has it played.
  const played = weekender(PLAIN.replace('"=3 * finds"}', '"=3 * finds"}, limits: {day: 1000}'));
  for (const shells of [30, 400, 2000]) {
    const { minutes } = earned(played, { shells });
    expect(minutes.low).toBeLessThan(earned(exact, { shells }).minutes.mean * 1.01);
    expect(minutes.high).toBeGreaterThan(earned(exact, { shells }).minutes.mean * 0.99);
    expect(minutes.high! - minutes.low).toBeGreaterThan(0);
  }
});

test('sessions that a day cannot hold are played, and what comes without play is waited for', () => {
  const long = weekender(PLAIN.replace('perDay: 2, fixed: true, minutes: 10', 'perDay: 3, fixed: true, minutes: 600'));
  expect(earned(long, { shells: 360 }).exact).toBe(false);
  // Two sessions of ten hours at most fit into a day: of three a day, each that does not waits for the next.
  expect(long.minutes[29]! / 30).toBeLessThan(24 * 60);
  const ends = PLAIN.replace(
    'pearls: {name: Pearls, decimals: 2}',
    'pearls: {name: Pearls, start: 3, ends: {at: "2027-03-04T00:00", into: shells, rate: 10}}',
  ).replace('plays: {walk: 1}', 'plays: {walk: 0}');
  const of = weekender(ends);
  expect(playingTime(of, { shells: 30 })).toMatchObject({ kind: 'waits', ms: 4 * 86_400_000 });
  expect(playingTime(of, { shells: 31 })).toEqual({ kind: 'never', assets: ['shells'] });
});

test('what shops ask changes nothing, and nobody buys or leaves', () => {
  const shop = `
items: {tail: {name: Tail, kind: durable, worth: {shells: 1}}}
shops: {pier: {name: Pier, shelves: {all: {name: All, offers: {tail: {gives: tail}}}}}}
`;
  expect(weekender(LIMITED + shop)).toEqual({ ...weekender(LIMITED), worths: { tail: { shells: 1 } } });
});

test('an activity that costs what players lack is played as often as they can', () => {
  const of = weekender(PLAIN.replace('minutes: 4,', 'minutes: 4, needs: {breeze: 2},'));
  // Each takes two of at most six that are there.
  expect(of.minutes[0]).toBeLessThan(24);
  expect(of.minutes[0]).toBeGreaterThan(12);
  expect(earned(of, { shells: 36 }).exact).toBe(false);
});

describe('the ladder', () => {
  const SHOP = `
groups: {tails: {name: Tails}}
items:
  tail: {name: Tail, kind: durable, group: tails, worth: {shells: 36}}
  bell: {name: Bell, kind: durable, group: tails, worth: {shells: 90}}
  pearl_tail: {name: Pearl Tail, kind: durable, worth: {pearls: 1}}
shops:
  pier:
    name: Pier
    shelves:
      all:
        name: All
        offers:
          bell: {gives: bell}
          tail: {gives: tail}
          pair: {gives: tail, count: 2, price: [{pearls: 1}, {shells: 72}]}
          grown: {gives: bell, price: {shells: "=100 * 2 ^ owned(bell)"}}
          swap: {gives: bell, price: {tail: 2}}
          pearl_tail: {gives: pearl_tail}
          gift: {gives: tail, price: free}
          bought: {gives: tail, price: {money: {EUR: 1}}}
          back: {gives: bell, hidden: true}
sales:
  half: {name: Half, offers: [bell], percent: 50, from: "2027-03-01", until: "2027-03-08"}
`;
  const document = documentOf(PLAIN + SHOP);
  const economy = economyOf(PLAIN + SHOP);
  const ladder = ladderOf(document, economy, weekender(PLAIN + SHOP));
  const rung = (offer: string) => ladder.rungs.find((one) => one.offer === offer)!;

  test('is in the order of playing time, each with how many times the one below it takes', () => {
    expect(ladder.rungs.map(({ offer, price, factor }) => [offer, price, factor])).toEqual([
      ['tail', { shells: 36 }, undefined],
      ['pair', { shells: 72 }, 2],
      // Two tails are had for their worth.
      ['swap', { tail: 2 }, 1],
      ['bell', { shells: 90 }, 1.25],
      ['grown', { shells: 100 }, expect.closeTo(100 / 90, 9)],
    ]);
    // 36 shells a day: 36, 108, 180, 270 and 370 in all.
    expect(ladder.rungs.map(({ ownedDay }) => ownedDay)).toEqual([1, 3, 5, 8, 11]);
  });

  test('leaves apart, with the reason, what play does not pay for; hidden offers are no rungs', () => {
    expect(ladder.apart.map(({ offer, why }) => [offer, why])).toEqual([
      ['pearl_tail', 'not by play: Pearls'],
      ['gift', 'free'],
      ['bought', 'real money'],
    ]);
  });

  test('knows where the one number of a price is written, and what a sale makes of it', () => {
    expect(ladder.rungs.map(({ offer, amountAt }) => [offer, amountAt])).toEqual([
      ['tail', '/items/tail/worth/shells'],
      ['pair', '/shops/pier/shelves/all/offers/pair/price/1/shells'],
      ['swap', '/shops/pier/shelves/all/offers/swap/price/tail'],
      ['bell', '/items/bell/worth/shells'],
      ['grown', undefined],
    ]);
    expect([rung('grown').byFormula, rung('tail').byFormula]).toEqual([true, false]);
    expect(rung('bell').reduced).toEqual([
      {
        sale: 'half',
        price: { shells: 45 },
        time: expect.objectContaining({ day: { half: 2, low: 2, high: 2 } }) as unknown,
      },
    ]);
  });

  test('is of a shop, shelf or group alone', () => {
    const offers = (where: LadderWhere) =>
      ladderOf(document, economy, weekender(PLAIN + SHOP), where).rungs.map(({ offer }) => offer);
    expect(offers({ group: 'tails' })).toEqual(['tail', 'pair', 'swap', 'bell', 'grown']);
    expect(offers({ shelf: 'pier/none' })).toEqual([]);
    expect(offers({ shop: 'pier', group: 'sails' })).toEqual([]);
  });

  test('a price that takes so long is found again', () => {
    const of = weekender(LIMITED);
    for (const shells of [40, 200, 700]) {
      const taking = priceTaking(of, 'shells', earned(of, { shells }).minutes.mean)!;
      expect(Math.abs(taking - shells)).toBeLessThanOrEqual(0.03 * shells);
    }
    expect(priceTaking(of, 'pearls', 60)).toBeUndefined();
  });
});

test('words say plays, minutes with their interval, and the day', () => {
  const labels = documentLabels(documentOf(PLAIN));
  const [exact, played] = [weekender(PLAIN), weekender(LIMITED)];
  const words = (of: PersonaEarnings, basket: Record<string, number>) => {
    const time = playingTime(of, basket);
    return [playingTimeShort(time), playingTimeText(time, of.name, labels)];
  };
  expect(words(exact, { shells: 72 })).toEqual([
    '48 min, day 2',
    '12 × Beach walk; 48 min; day 2 for a Weekender, expected',
  ]);
  expect(words(exact, { shells: 3600 })[0]).toBe('40 h, about day 100');
  expect(words(exact, { pearls: 1 })).toEqual(['not by play', 'a Weekender does not earn Pearls by play']);
  expect(words(exact, { breeze: 3 })).toEqual(['waits 1 h', 'Breeze come by themselves: 1 h']);
  expect(words(played, { shells: 120 })[1]).toMatch(
    /^\d+ × Beach walk; (3 h \d+ min|4 h( \d min)?) \(3 h \d+ min to 4 h \d+ min\); day 10( \(\d+ to \d+\))? for a Weekender$/,
  );
  expect([59.6, 60, 90, 660.4, 5999, 6001].map(durationText)).toEqual([
    '1 h',
    '1 h',
    '1 h 30 min',
    '11 h',
    '100 h',
    '100 h',
  ]);
});

test('a rule that cannot pay is told', () => {
  const broken = PLAIN.replace('"=3 * finds"', '"=0 - finds"');
  expect(earningsOf(economyOf(broken.replace('gives:', 'limits: {day: 2}, gives:')), 'weekender', START)).toEqual({
    ok: false,
    problem: expect.stringContaining('"Finds" (earning/finds) cannot pay Weekender ') as string,
  });
});

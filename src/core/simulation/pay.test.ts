/** What ways of playing pay: worked out by hand where that is possible, and what players choose who play for it. */
import { documentOf, economyOf } from '../../../tests/support/economy.js';
import { economyAudit } from '../audit/index.js';
import type { EconomyDocument } from '../document/index.js';
import { activityWays, choicesText, payScope, scenarioResolve, simulateEngine } from './index.js';
import type { PlayWay } from './index.js';

/** A race pays 30 to the first and 8 to all others, more where it is harder; giving up is over after a minute. */
const RACES = `
events: {race_finished: {fields: {place: number, difficulty: number}}, found: {fields: {finds: number}}}
attributes: {level: {start: 1}}
currencies: {shells: {name: Shells}, pearls: {name: Pearls, decimals: 2}}
earning:
  prize: {name: Prize, on: race_finished, gives: {shells: "=if(place == 1, 30, 8) * difficulty"}}
  pearl: {name: Pearl, on: race_finished, when: "=place == 1", chance: 0.2, gives: {pearls: 0.5}}
  daily: {name: Daily, on: race_finished, gives: {shells: 1000}, limits: {day: 1}}
  finds: {name: Finds, on: found, gives: {shells: "=3 * finds"}}
activities:
  race:
    name: Race
    minutes: 4
    emits: {race_finished: {place: {weights: {1: 1, 2: 3}}, difficulty: {chosen: {1: 3, 2: 1, 3: 0}}}}
  give_up: {name: Give up, minutes: 1, emits: {race_finished: {place: 5, difficulty: {chosen: {1: 1, 3: 1}}}}}
  walk: {name: Walk, minutes: 6, emits: {found: {finds: {poisson: 2.5}}}}
personas:
  racer: {name: Racer, sessions: {perDay: 2, fixed: true, minutes: 20, from: 9, to: 20}, plays: {race: 1}, shops: {policy: impulse, chance: 0}}
scenarios: {week: {name: Week, start: "2027-03-01", days: 5, players: 20, seed: 3, mix: {racer: 1}}}
`;

function ways(activity: string): PlayWay[] {
  const economy = economyOf(RACES);
  return activityWays(economy, economy.activities.get(activity)!, payScope(economy));
}
const perMinute = (way: PlayWay, asset: string) => way.perMinute[asset]?.mean;

test('every choice is looked at, exactly, and what has a limit is named and left out', () => {
  const race = ways('race');
  expect(race.map(({ choices }) => choicesText(choices))).toEqual(['difficulty 1', 'difficulty 2', 'difficulty 3']);
  // A quarter of 30 and three of 8 come to 13.5, in four minutes, times the difficulty.
  expect(race.map((way) => perMinute(way, 'shells'))).toEqual([3.375, 6.75, 10.125]);
  // A quarter of races, a fifth of those, half a pearl of a hundred: 2.5 hundredths in four minutes.
  expect(perMinute(race[0]!, 'pearls')).toBeCloseTo(0.625, 12);
  expect(race[0]).toMatchObject({ exact: true, limited: ['daily'] });
  // Giving up on the hardest pays most of all.
  expect(ways('give_up').map((way) => perMinute(way, 'shells'))).toEqual([8, 24]);
});

test('what has no end of cases is tried, with an interval that holds the mean', () => {
  const [walk, ...others] = ways('walk');
  expect([walk!.exact, others]).toEqual([false, []]);
  const { low, high } = walk!.perMinute['shells']!;
  expect(low).toBeLessThan(1.25);
  expect(high).toBeGreaterThan(1.25);
  expect(high - low).toBeLessThan(0.2);
});

function played(change: (document: EconomyDocument) => void): number {
  const document = documentOf(RACES);
  change(document);
  const setup = scenarioResolve(document, 'week');
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const { activities } = simulateEngine(setup.value);
  return activities.perMinute[0]!;
}

test('a persona chooses by weights, or for the best pay', () => {
  const without = (document: EconomyDocument): void => {
    delete document.earning!['daily'];
  };
  const by = (mean: number, paid: number): void => expect(Math.abs(paid - mean) / mean).toBeLessThan(0.15);
  // Three of four at difficulty 1, one at 2.
  by(3.375 * 1.25, played(without));
  by(
    10.125,
    played((document) => {
      without(document);
      document.personas!['racer']!.playsFor = 'shells';
    }),
  );
});

test('the audit names the way that pays too well, and the one that it should not beat, with both rates', () => {
  const document = documentOf(RACES);
  const finding = economyAudit(document).filter(({ code }) => code === 'earning-loop');
  expect(finding).toMatchObject([
    {
      pointer: '/activities/give_up',
      message: expect.stringMatching(
        /^with difficulty 3 it pays 24 Shells a minute, .* pays 4\.2 Shells: more than 3 times as much; Race as it is usually played pays 4\.2 Shells$/,
      ),
    },
  ]);
  // Consolation that does not grow with difficulty mends it.
  document.earning!['prize']!.gives = { shells: '=if(place == 1, 30 * difficulty, 8)' };
  document.activities!['give_up']!.minutes = 2;
  expect(economyAudit(document).filter(({ code }) => code === 'earning-loop')).toEqual([]);
});

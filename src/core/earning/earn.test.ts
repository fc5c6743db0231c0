import { DAY, HOUR, NOW, demoEconomy, economyOf, playerWith } from '../../../tests/support/economy.js';
import type { Consumable } from '../economy/index.js';
import { playerHolds, playerUse } from '../player/index.js';
import type { Player } from '../player/index.js';
import { keptOutTold } from '../texts/index.js';
import { eventApply, eventProblems } from './index.js';
import type { RuleOutcome } from './index.js';

const economy = economyOf(`
attributes: {level: {start: 1}}
events:
  race: {fields: {place: number, mood: text}}
  storm: {}
currencies: {shells: {name: Shells, cap: 100}, pearls: {name: Pearls}}
items: {sail: {name: Sail, kind: durable, carry: 2}}
earning:
  prize: {name: Prize, on: race, gives: {shells: "=if(place == 1, 30, 8) * level"}}
  winner: {name: Winner, on: race, when: "=place == 1", gives: {pearls: 1}, limits: {day: 2}}
  calm: {name: Calm, on: race, when: '=mood == "calm"', gives: {sail: 1}, cooldown: PT4H}
  lucky: {name: Lucky, on: race, chance: 0.25, gives: {pearls: 5}}
  loss: {name: Loss, on: storm, takes: {shells: 20, sail: 1}}
`);

const race = (player: Player, place: number, more: { id?: string; mood?: string; nowMs?: number } = {}) =>
  eventApply(
    economy,
    player,
    { id: more.id ?? 'e1', name: 'race', fields: { place, mood: more.mood ?? 'wild' } },
    more.nowMs ?? NOW,
  );
const outcome = (outcomes: readonly RuleOutcome[], rule: string) => outcomes.find((one) => one.rule === rule)!;

test('a rule pays what its formula gives for the event and the player', () => {
  const { player, outcomes } = race(playerWith(economy, {}, { level: 2 }), 1);
  expect(playerHolds(economy, player, 'shells')).toBe(60);
  expect(outcome(outcomes, 'prize')).toMatchObject({ paid: true, given: { shells: 60 } });
  expect(outcome(outcomes, 'calm')).toMatchObject({ paid: false, why: 'when' });
});

test('what passes a cap is dropped, and told', () => {
  expect(outcome(race(playerWith(economy, { shells: 90 }), 1).outcomes, 'prize')).toMatchObject({
    given: { shells: 10 },
    dropped: { shells: 20 },
  });
});

test('a rule of which everything is kept out takes nothing and counts for no limit or cooldown', () => {
  const strict = economyOf(`
events: {race: {}}
currencies: {shells: {name: Shells, cap: 100}, breeze: {name: Breeze}}
items: {sail: {name: Sail, kind: durable, carry: 2}, wax: {name: Wax, kind: consumable, uses: 3}}
loot: {finds: {name: Finds, entries: {sail: {weight: 1, gives: {sail: 1}}, none: {weight: 9}}, guarantee: {entry: sail, within: 2}}}
earning:
  prize: {name: Prize, on: race, gives: {shells: 9}, takes: {breeze: 1}, limits: {day: 1}, cooldown: PT4H}
  toll: {name: Toll, on: race, takes: {wax: 2}}
`);
  const report = (player: Player) => eventApply(strict, player, { id: 'e', name: 'race', fields: {} }, NOW);
  const full = report(playerWith(strict, { shells: 100, breeze: 3, wax: 3 }));
  expect(outcome(full.outcomes, 'prize')).toEqual({
    rule: 'prize',
    paid: false,
    why: 'kept-out',
    dropped: { shells: 9 },
  });
  expect([playerHolds(strict, full.player, 'breeze'), full.player.counters]).toEqual([3, {}]);
  const paid = report({ ...full.player, balances: { ...full.player.balances, shells: { units: 99, sinceMs: null } } });
  expect(outcome(paid.outcomes, 'prize')).toMatchObject({ paid: true, given: { shells: 1 }, taken: { breeze: 1 } });
  // One use makes of three whole wax two and one that is begun, which cannot be taken.
  const begun = playerUse(strict, playerWith(strict, { wax: 2 }), strict.items.get('wax') as Consumable, 1, NOW).player;
  expect(outcome(report(begun).outcomes, 'toll')).toMatchObject({ paid: true, taken: { wax: 1 }, missed: { wax: 1 } });
});

test('where all of it is kept out nothing was paid, and why is told', () => {
  const { player, outcomes } = race(playerWith(economy, { shells: 100, sail: 2 }), 1, { mood: 'calm' });
  expect(outcome(outcomes, 'prize')).toMatchObject({ paid: false, why: 'kept-out', dropped: { shells: 30 } });
  expect(outcome(outcomes, 'calm')).toMatchObject({ paid: false, why: 'kept-out', dropped: { sail: 1 } });
  expect(playerHolds(economy, player, 'shells')).toBe(100);
  expect(keptOutTold(economy, { shells: 30, sail: 1, pearls: 2 })).toEqual([
    { asset: 'shells', units: 30, by: 'cap', most: 100, sentence: '30 Shells kept out: 100 Shells is its cap.' },
    {
      asset: 'sail',
      units: 1,
      by: 'carry',
      most: 2,
      sentence: '1 Sail kept out: 2 Sail is the most that may be carried.',
    },
    expect.objectContaining({ asset: 'pearls', by: 'ceiling', most: Number.MAX_SAFE_INTEGER }),
  ]);
});

test('a limit per day pays so often and no more, until the next day', () => {
  let player = playerWith(economy, {});
  for (const id of ['a', 'b', 'c']) player = race(player, 1, { id }).player;
  expect(outcome(race(player, 1, { id: 'd' }).outcomes, 'winner')).toEqual({
    rule: 'winner',
    paid: false,
    why: 'limit',
    resetsMs: Date.UTC(2027, 2, 2),
  });
  expect(outcome(race(player, 1, { id: 'e', nowMs: NOW + DAY }).outcomes, 'winner').paid).toBe(true);
});

test('a cooldown holds exactly as long as it says', () => {
  const { player } = race(playerWith(economy, {}), 3, { mood: 'calm' });
  expect(
    outcome(race(player, 3, { mood: 'calm', id: 'e2', nowMs: NOW + 4 * HOUR - 1 }).outcomes, 'calm'),
  ).toMatchObject({ paid: false, why: 'cooldown', resetsMs: NOW + 4 * HOUR });
  expect(outcome(race(player, 3, { mood: 'calm', id: 'e3', nowMs: NOW + 4 * HOUR }).outcomes, 'calm').paid).toBe(true);
});

test('a rule that takes never takes more than there is, and tells what it missed', () => {
  const { player, outcomes, movements } = eventApply(
    economy,
    playerWith(economy, { shells: 15, sail: 1 }),
    { id: 's', name: 'storm', fields: {} },
    NOW,
  );
  expect(outcomes).toEqual([
    { rule: 'loss', paid: true, given: {}, taken: { shells: 15, sail: 1 }, dropped: {}, missed: { shells: 5 } },
  ]);
  expect([playerHolds(economy, player, 'shells'), playerHolds(economy, player, 'sail')]).toEqual([0, 0]);
  expect(movements.every(({ to }) => to === 'world:earning')).toBe(true);
});

test('luck belongs to the event: the same one is lucky again, and about a quarter are', () => {
  const paid = (id: string) => outcome(race(playerWith(economy, {}), 3, { id }).outcomes, 'lucky').paid;
  const ids = Array.from({ length: 4000 }, (_, index) => `event-${index}`);
  const lucky = ids.filter(paid);
  expect(lucky.every(paid)).toBe(true);
  // Four standard deviations of a binomial with 4000 tries around 1000.
  expect(Math.abs(lucky.length - 1000)).toBeLessThan(4 * Math.sqrt(4000 * 0.25 * 0.75));
});

test('an event that no rule listens to does nothing', () => {
  expect(eventApply(economy, playerWith(economy, {}), { id: 'x', name: 'nothing', fields: {} }, NOW)).toMatchObject({
    movements: [],
    outcomes: [],
  });
});

test.each([
  ['race', { place: 1, mood: 'calm' }, []],
  ['race', { place: '1', mood: 'calm' }, [/"place" must be a number/]],
  ['race', { place: 1 }, [/"mood" must be a text/]],
  ['race', { place: 1, mood: 'x', wind: 3 }, [/unknown field "wind"/]],
  ['rase', {}, [/there is no event "rase"/]],
  ['constructor', {}, [/there is no event/]],
  ['race', { place: Infinity, mood: 'x' }, [/must be a number/]],
])('the event %s %j', (name, fields, messages) => {
  const problems = eventProblems(economy, name, fields);
  expect(problems).toHaveLength(messages.length);
  for (const [index, message] of messages.entries()) expect(problems[index]).toMatch(message);
});

test('in the demo, coming first pays more than any other place, at every difficulty', () => {
  const demo = demoEconomy();
  const pay = (place: number, difficulty: number) =>
    playerHolds(
      demo,
      eventApply(demo, playerWith(demo, {}), { id: 'r', name: 'race_finished', fields: { place, difficulty } }, NOW)
        .player,
      'shells',
    );
  for (const difficulty of [1, 2, 3])
    expect(Math.min(pay(1, difficulty))).toBeGreaterThan(
      Math.max(...[2, 3, 4, 5].map((place) => pay(place, difficulty))),
    );
  // Losing on purpose on the hardest level must not pay better than trying on the easiest.
  expect(pay(5, 3)).toBeLessThan(pay(2, 1));
});

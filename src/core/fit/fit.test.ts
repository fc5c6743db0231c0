/** Personas from logs of players who are known. */
import { demoDocument, documentOf } from '../../../tests/support/economy.js';
import type { EconomyDocument } from '../document/index.js';
import type { Value } from '../formula/index.js';
import { logRead } from '../log/index.js';
import { randomStream } from '../random/index.js';
import { drawValue, scenarioResolve } from '../simulation/index.js';
import { poissonMake } from '../simulation/draw.js';
import { simulateReference } from '../simulation/reference.js';
import { drawFit } from './draws.js';
import { groupsFound } from './groups.js';
import type { History, Session } from './histories.js';
import { ratesFit } from './rates.js';
import { fitPersonas } from './index.js';

/** What the made-up players of a scenario did, as a log. `session: false` leaves out which lines belong together. */
function recorded(document: EconomyDocument, scenario: string, session = true): string {
  const setup = scenarioResolve(document, scenario);
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const attributes = new Map<string, Readonly<Record<string, Value>>>();
  const lines: string[] = [];
  simulateReference(setup.value, {
    onMove: (move) => {
      const { player, atMs: at } = move;
      if (move.kind === 'joins') attributes.set(player, move.attributes);
      if (move.kind !== 'event' && move.kind !== 'buys') return;
      const base = { player, at, attributes: attributes.get(player), ...(session ? { session: move.session } : {}) };
      if (move.kind === 'event') lines.push(JSON.stringify({ ...base, event: move.name, fields: move.fields }));
      else lines.push(JSON.stringify({ ...base, offer: move.offer, pay: move.pay }));
    },
  });
  return lines.join('\n');
}

/** The demo with players of two kinds, who follow the week and the hours. */
function twoKinds(): EconomyDocument {
  const document = demoDocument();
  delete document.targets;
  const { daydreamer, racer } = document.personas!;
  document.personas = {
    daydreamer: {
      ...daydreamer!,
      attributes: { platform: 'phone' },
      sessions: { perDay: 1, minutes: 14, hours: { 8: 1, 20: 3 }, weekdays: { saturday: 2, sunday: 2 } },
      plays: { beach_walk: 6, chime_hanging: 2 },
      leaves: 0.03,
    },
    racer: { ...racer!, attributes: { platform: 'desktop' }, sessions: { perDay: 2, minutes: 40 }, leaves: 0 },
  };
  document.scenarios = {
    known: {
      name: 'Known',
      start: '2027-03-01',
      days: 21,
      players: 150,
      seed: 4,
      mix: { daydreamer: 2, racer: 1 },
    },
  };
  return document;
}

test('personas of a log made by known ones are these, and tell players who were held out', () => {
  const known = twoKinds();
  const log = recorded(known, 'known');
  const document = demoDocument();
  const read = logRead(log, document);
  expect(read.broken).toEqual([]);
  const { groups, personas, activities, scenario, sessions } = fitPersonas({ document, log: read, by: 'platform' });
  expect(sessions.isToldBy).toBe('session');
  expect(Object.keys(personas)).toEqual(['fitted_phone', 'fitted_desktop']);
  const [phone, desktop] = [personas['fitted_phone']!, personas['fitted_desktop']!];

  // Sessions within a tenth, the week and the hours as they are, leaving within its interval.
  expect(phone.sessions.perDay / ((5 + 2 * 2) / 7)).toBeCloseTo(1, 0.9);
  expect(phone.sessions.weekdays!.saturday! / phone.sessions.weekdays!.monday!).toBeGreaterThan(1.5);
  expect(phone.sessions.hours!['20']! / phone.sessions.hours!['8']!).toBeGreaterThan(2.5);
  expect(phone.sessions.minutes).toBeGreaterThan(13);
  expect(phone.sessions.minutes).toBeLessThan(15);
  expect(desktop.sessions.perDay).toBeGreaterThan(1.85);
  expect(desktop.sessions.perDay).toBeLessThan(2.15);
  expect(desktop.sessions.weekdays).toBeUndefined();
  const leaving = groups.map(({ leaving: { low, high } }) => [low, high]);
  expect([leaving[0]![0]! < 0.03, leaving[0]![1]! > 0.03, leaving[1]![0]! < 0.001]).toEqual([true, true, true]);
  // What is played, in the same parts; nothing of the economy's own activities had to be changed.
  expect(phone.plays['beach_walk']! / phone.plays['chime_hanging']!).toBeGreaterThan(2.6);
  expect(phone.plays['beach_walk']! / phone.plays['chime_hanging']!).toBeLessThan(3.4);
  expect(activities).toEqual({});
  // How they spend.
  expect(phone.shops).toMatchObject({ policy: 'impulse' });
  expect(phone.shops.chance).toBeGreaterThan(0.06);
  expect(phone.shops.chance).toBeLessThan(0.1);
  expect(desktop.shops.policy).toBe('wishlist');

  const figures = groups.flatMap((group) => group.figures);
  expect(figures.length).toBeGreaterThan(12);
  expect(figures.filter(({ holds }) => holds).length / figures.length).toBeGreaterThan(0.7);

  // What comes of it runs.
  const fitted = { ...document, personas, scenarios: { [scenario.id]: scenario.scenario } };
  delete fitted.targets;
  expect(scenarioResolve(fitted, scenario.id)).toMatchObject({ ok: true, value: { days: 21 } });
});

describe('rates', () => {
  const weekly = [0.5, 0.5, 0.5, 0.5, 0.5, 1.5, 1];
  /** Players as the model has them: a log that begins on a Monday. */
  function players(count: number, days: number, leaves: number): History[] {
    const random = randomStream(3, 'players');
    const draws = weekly.map((mean) => poissonMake(random, mean));
    return Array.from({ length: count }, (_, number): History => {
      const sessions: Session[] = [];
      for (let day = 0; day < days; day++) {
        for (let left = draws[day % 7]!(); left > 0; left--)
          sessions.push({ day, hour: 20, minutes: 10, events: [], purchases: [] });
        if (random() < leaves) break;
      }
      return { player: String(number), attributes: {}, sessions };
    }).filter(({ sessions }) => sessions.length > 0);
  }

  test('are found although nobody says who left and who has only not been back yet', () => {
    const { perDay, leaves, spread, mean } = ratesFit(players(800, 28, 0.05), 28, 0);
    perDay.forEach((rate, day) => expect(Math.abs(rate - weekly[day]!)).toBeLessThan(0.09));
    expect(leaves.low).toBeLessThan(0.05);
    expect(leaves.high).toBeGreaterThan(0.05);
    expect(mean.high - mean.low).toBeLessThan(0.1);
    expect(spread).toBeGreaterThan(0.85);
    expect(spread).toBeLessThan(1.15);
  });

  test('players of two kinds differ more than chance has it', () => {
    const some = players(200, 28, 0.01);
    const often = players(200, 28, 0.01).map((one) => ({
      ...one,
      sessions: one.sessions.flatMap((session) => [session, session, session]),
    }));
    expect(ratesFit([...some, ...often], 28, 0).spread).toBeGreaterThan(3);
  });
});

describe('distributions', () => {
  const random = randomStream(9, 'draws');
  const sample = (draw: Parameters<typeof drawValue>[0]): Value[] =>
    Array.from({ length: 2000 }, () => drawValue(draw, random, {} as never));

  test.each([
    [{ kind: 'poisson', mean: 2.5 } as const, { poisson: 2.5 }],
    [{ kind: 'range', from: 2, to: 9 } as const, { from: 2, to: 9 }],
    [{ kind: 'geometric', chance: 0.3 } as const, { geometric: 0.3 }],
    [{ kind: 'normal', mean: 40, deviation: 3 } as const, { normal: [40, 3] }],
    [{ kind: 'lognormal', mu: 1, sigma: 0.8 } as const, { lognormal: [1, 0.8] }],
    [{ kind: 'constant', value: 'calm' } as const, 'calm'],
  ])('%j is found again', (drawn, expected) => {
    const { draw } = drawFit(sample(drawn));
    const numbers = (one: unknown): number[] =>
      typeof one === 'object' ? Object.values(one as object).flatMap((value) => value as number[]) : [];
    expect(typeof draw === 'object' ? Object.keys(draw) : draw).toEqual(
      typeof expected === 'object' ? Object.keys(expected) : expected,
    );
    numbers(draw).forEach((value, place) => expect(Math.abs(value / numbers(expected)[place]! - 1)).toBeLessThan(0.07));
  });

  test('what the economy has already stays where it tells the log as well', () => {
    const values = sample({ kind: 'poisson', mean: 2.5 });
    expect(drawFit(values, { poisson: 2.5 }).draw).toEqual({ poisson: 2.5 });
    expect(drawFit(values, { poisson: 4 }).draw).not.toEqual({ poisson: 4 });
    expect(drawFit(values, '=level').draw).toBe('=level');
    // Of what players choose the weights are fitted, and it stays theirs to choose.
    expect(drawFit(values, { chosen: { 0: 1, 1: 1 } }).draw).toHaveProperty('chosen');
  });
});

test('of a thousand texts the most frequent are drawn', () => {
  const { draw } = drawFit(Array.from({ length: 3000 }, (_, n) => `spot ${n % 2 === 0 ? 0 : n}`));
  const { weights } = draw as { weights: Record<string, number> };
  expect(Object.keys(weights)).toHaveLength(100);
  expect(weights['spot 0']).toBe(50);
});

describe('groups', () => {
  const like = (count: number, often: number, minutes: number): History[] =>
    Array.from({ length: count }, (_, number) => ({
      player: `${often}-${number}`,
      attributes: {},
      sessions: Array.from({ length: often + (number % 5) }, (_, day) => ({
        day,
        hour: 12,
        minutes: minutes + (number % 7),
        events: [],
        purchases: [],
      })),
    }));

  test('are found where there are some, the most active first', () => {
    const players = [...like(40, 3, 10), ...like(30, 25, 60)];
    const { groupOf, values } = groupsFound(players, 30, [], undefined, 1);
    expect(values).toHaveLength(2);
    expect(new Set(groupOf.slice(0, 40))).toEqual(new Set([1]));
    expect(new Set(groupOf.slice(40))).toEqual(new Set([0]));
  });

  test('where all play alike there is one', () => {
    const alike = like(60, 10, 20).map((one) => ({ ...one, sessions: one.sessions.slice(0, 10) }));
    const same = alike.map((one) => ({ ...one, sessions: one.sessions.map((each) => ({ ...each, minutes: 20 })) }));
    expect(groupsFound(same, 30, [], undefined, 1).values).toHaveLength(1);
  });
});

describe('what is no log', () => {
  const document = documentOf(`
attributes: {level: {start: 1}}
events: {walk: {fields: {finds: number, where: text}}}
activities: {walk: {name: Walk, minutes: 5, emits: {walk: {finds: 1, where: beach}}}}
`);
  const fields = { finds: 2, where: 'beach' };
  const line = (more: object): string => JSON.stringify({ player: 'oda', at: '2027-03-01T10:00', ...more });

  test('every line that cannot be read is told with what is wrong with it', () => {
    const { events, broken, others, unknown } = logRead(
      [
        line({ event: 'walk', fields }),
        line({ event: 'walk', fields: { ...fields, finds: 'two' } }),
        line({ event: 'walk', fields: { finds: 1 } }),
        line({ event: 'walk', fields, offer: 'wax' }),
        line({ event: 'dive', fields: {} }),
        line({ event: 'walk', fields, session: {} }),
        line({ note: 'nothing' }),
        '{"player": ',
      ].join('\n'),
      document,
    );
    expect(events).toMatchObject([{ event: 'walk', fields, player: 'oda' }]);
    expect(broken.map(({ line: at, problem }) => `${at}: ${problem}`)).toEqual([
      '2: walk, finds: "two" is no number',
      '3: walk: there is no field "where"',
      '4: it is of an event and of an offer; write a line for each',
      '6: the session is neither text nor number',
      '8: it is no JSON object',
    ]);
    expect([others, unknown]).toEqual([1, { dive: 1 }]);
  });

  test('a table has the same in columns', () => {
    const csv =
      'player,at,session,event,field.finds,field.where,attribute.level\r\noda,2027-03-01T10:00,3,walk,2,beach,4\r\n';
    expect(logRead(csv, document).events).toMatchObject([{ session: '3', fields, attributes: { level: 4 } }]);
    expect(logRead('player,at,what\na,b,c\n', document).broken).toEqual([
      { line: 1, problem: 'there is no column "event" or "offer"; columns: player, at, what' },
    ]);
  });

  test.each([
    ['of another game', line({ event: 'dive' }), /none of the events .* may be of another game\. In the log: dive/],
    ['of purchases alone', line({ offer: 'wax' }), /purchases and no event/],
    ['of nothing', '', /no event\. An event has player/],
  ])('a log %s has nothing to fit', (_, text, problem) => {
    expect(() => fitPersonas({ document, log: logRead(text, document) })).toThrow(problem);
  });

  test('whoever plays day and night becomes a persona that may be', () => {
    const lines = Array.from({ length: 300 }, (_, n) =>
      line({
        at: `2027-03-0${1 + Math.floor(n / 100)}T${String(Math.floor((n % 100) / 5)).padStart(2, '0')}:${n % 5}0`,
        session: n,
        event: 'walk',
        fields,
      }),
    );
    const { personas } = fitPersonas({ document, log: logRead(lines.join('\n'), document), groups: 1 });
    expect(personas['fitted_1']!.sessions.perDay).toBe(48);
  });

  test('a few players are fitted, and it says what that cannot tell', () => {
    const lines = [0, 3, 40, 41].flatMap((minute) =>
      ['oda', 'ines'].map((player) =>
        line({ player, at: `2027-03-01T10:${String(minute).padStart(2, '0')}`, event: 'walk', fields }),
      ),
    );
    const { groups, notes, players } = fitPersonas({ document, log: logRead(lines.join('\n'), document) });
    expect(players).toBe(2);
    expect(groups).toMatchObject([{ players: 2, heldOut: 0, figures: [] }]);
    expect(notes.join('\n')).toMatch(/more than 30 minutes apart[^]*none is held out[^]*The log has 1 day:/);
  });
});

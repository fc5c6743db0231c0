/** What must hold is held against what happens, by the live rules: each thing that a case can ask for, and how it misses. */
import { demoDocument, economyOf } from '../../../tests/support/economy.js';
import { documentValidate } from '../document/index.js';
import type { CaseDocument, EconomyDocument } from '../document/index.js';
import { economyCompile } from '../economy/index.js';
import { caseLines } from '../texts/index.js';
import { caseKept, caseRun, casesJunit, casesProposed, casesRun } from './index.js';

const COVE = economyOf(`
attributes: {level: {start: 1}, rank: {start: 1}}
events: {race_finished: {fields: {place: number}}}
currencies:
  shells: {name: Shells, singular: Shell, start: 60}
  pearls: {name: Pearls, decimals: 2}
items:
  frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 350}}
  wax: {name: Wax, kind: consumable}
shops:
  stall:
    name: Stall
    shelves:
      main:
        name: Main
        offers:
          frame: {gives: frame, when: "=level >= 2"}
          wax: {gives: wax, price: {pearls: 1.50}, until: "2027-03-02T00:00"}
earning: {prize: {name: Prize, on: race_finished, gives: {shells: 30}}}
goals: {first: {name: First race, counts: events, event: race_finished, target: 1}}
tracks: {flyer: {name: Flyer, earns: shells, attribute: rank, levels: {"2": {costs: 30}}}}
texts: {pt: {refused.short-of: "Falta {short}."}}
`);

const ran = (written: Partial<CaseDocument>) =>
  caseRun(COVE, 'one', { name: 'One', at: '2027-03-01T10:00', ...written });
const missed = (written: Partial<CaseDocument>) => caseLines(ran(written));

const RICH = { attributes: { level: 2 }, holds: { shells: 350 } };

test('one short, exactly enough, the second time: each step has its own verdict', () => {
  const steps: CaseDocument['steps'] = [
    { take: { shells: 1 } },
    { buy: 'frame', expect: { verdict: ['short-of'], holds: { shells: 349, frame: 0 } } },
    { give: { shells: 1 } },
    { buy: 'frame', expect: { verdict: 'allowed', price: { shells: 350 }, holds: { shells: 0, frame: 1 } } },
    { buy: 'frame', expect: { verdict: ['carry-full', 'short-of'] } },
  ];
  expect(ran({ player: RICH, steps })).toEqual({
    id: 'one',
    name: 'One',
    state: 'holds',
    offers: ['frame'],
    misses: [],
    problems: [],
  });
});

test.each<[string, Partial<CaseDocument>, string[]]>([
  [
    'allowed where it is refused',
    { steps: [{ buy: 'frame', expect: { verdict: 'allowed' } }] },
    ['step 1, buy Frame at Stall: verdict: allowed expected, refused for requirement-unmet and short-of found'],
  ],
  [
    'one of two codes is not enough',
    { steps: [{ buy: 'frame', expect: { verdict: ['short-of'] } }] },
    [
      'step 1, buy Frame at Stall: verdict: refused for short-of expected, refused for requirement-unmet and short-of found',
    ],
  ],
  [
    'a code too many',
    { player: RICH, steps: [{ buy: 'frame', expect: { verdict: ['short-of'] } }] },
    ['step 1, buy Frame at Stall: verdict: refused for short-of expected, allowed found'],
  ],
  [
    'another price, and a currency that it does not ask',
    { player: RICH, steps: [{ buy: 'frame', expect: { price: { pearls: 1 } } }] },
    [
      'step 1, buy Frame at Stall: price in Pearls: 1.00 expected, 0.00 found',
      'step 1, buy Frame at Stall: price in Shells: none expected, 350 found',
    ],
  ],
  [
    'amounts in decimals, and within a range',
    {
      player: { holds: { pearls: 3 } },
      steps: [
        { buy: 'wax', expect: { price: { pearls: 1.5 }, holds: { pearls: { from: 1.51 }, shells: { to: 59 } } } },
        { give: { shells: 1 }, expect: { holds: { shells: { from: 61, to: 61 }, pearls: { from: 1, to: 1.49 } } } },
      ],
    },
    [
      'step 1, buy Wax at Stall: holds Pearls: 1.51 or more expected, 1.50 found',
      'step 1, buy Wax at Stall: holds Shells: 59 or less expected, 60 found',
      'step 2, give 1 Shell: holds Pearls: 1.00 to 1.49 expected, 1.50 found',
    ],
  ],
  [
    'levels, goals and attributes, before and after',
    {
      expect: { levels: { flyer: 2 }, goals: { first: 'reached' }, attributes: { level: 2 } },
      steps: [
        { event: 'race_finished', fields: { place: 1 }, expect: { levels: { flyer: 1 }, goals: { first: 'open' } } },
      ],
    },
    [
      'before any step: level: 2 expected, 1 found',
      'before any step: level of Flyer: 2 expected, 1 found',
      'before any step: goal First race: reached expected, open found',
      'step 1, event race_finished place=1: level of Flyer: 1 expected, 2 found',
      'step 1, event race_finished place=1: goal First race: open expected, reached found',
    ],
  ],
  [
    'what is on show',
    {
      expect: { shows: ['wax', 'frame'], hides: ['wax'] },
      steps: [{ wait: 'day', expect: { shows: ['wax', 'frame'], hides: ['wax'] } }],
    },
    [
      '/cases/one/expect/hides: "wax" is to be on show and not to be. Leave it in one of both.',
      '/cases/one/steps/0/expect/hides: "wax" is to be on show and not to be. Leave it in one of both.',
    ],
  ],
  [
    'what is on show, and when no longer',
    { expect: { hides: ['wax'] }, steps: [{ wait: 'day', expect: { shows: ['wax', 'frame'] } }] },
    [
      'before any step: Wax: not on show expected, on show found',
      'step 1, wait a day: Wax: on show expected, not on show found',
    ],
  ],
  [
    'a sentence in two languages, one of which has it',
    {
      player: { ...RICH, holds: { shells: 349 } },
      steps: [{ buy: 'frame', expect: { says: { pt: 'Falta 1 Shell.', en: 'You are short.' } } }],
    },
    [
      'step 1, buy Frame at Stall: reads in en: You are short. expected, You are 1 Shell short: it costs 350 Shells, and you have 349 Shells. found',
    ],
  ],
])('%s', (_, written, lines) => {
  expect(missed(written)).toEqual(lines);
});

test.each<[string, Partial<CaseDocument>, string]>([
  ['nothing to hold', { steps: [{ buy: 'frame' }] }, '/cases/one: nothing must hold'],
  [
    'an offer that is not there',
    { steps: [{ buy: 'frane', expect: { verdict: 'allowed' } }] },
    '/cases/one/steps/0: there is no offer "frane". Did you mean "frame"?',
  ],
  [
    'two verbs',
    { steps: [{ buy: 'frame', use: 'wax', expect: { verdict: 'allowed' } }] },
    '/cases/one/steps/0: it says to buy and to use',
  ],
  [
    'a code that nothing has',
    { steps: [{ buy: 'frame', expect: { verdict: ['shortof'] } }] },
    'nothing is ever refused for "shortof". Did you mean "short-of"?',
  ],
  [
    'more decimals than the currency has',
    { steps: [{ buy: 'frame', expect: { holds: { shells: 1.5 } } }] },
    '/cases/one/steps/0/expect/holds/shells: 1.5 has 1 decimals',
  ],
  [
    'somebody who holds what is not there',
    { player: { holds: { kite: 1 } }, expect: { holds: { shells: 0 } } },
    '/cases/one/player/holds/kite: there is no currency or item "kite"',
  ],
  [
    'an attribute of another kind',
    { player: { attributes: { level: 'two' } }, expect: { holds: { shells: 0 } } },
    '/cases/one/player/attributes/level: "level" is a number',
  ],
  [
    'a track, a goal and an offer to see',
    { expect: { levels: { flier: 1 }, goals: { frst: 'open' }, shows: ['waxx'] } },
    'there is no track "flier"',
  ],
  [
    'a time that no clock shows',
    { at: '2027-03-28T01:30', expect: { holds: { shells: 60 } } },
    '/cases/one/at: clocks in Europe/Lisbon jump over',
  ],
])('cannot be played, and says where and why: %s', (_, written, line) => {
  const result = ran(written);
  expect([result.state, result.misses]).toEqual(['unplayable', []]);
  expect(caseLines(result).join('\n')).toContain(line);
});

test('a step that could not be done at all has a code of its own', () => {
  expect(
    ran({ steps: [{ wait: 'P1D' }, { until: '2027-03-01T10:00', expect: { verdict: ['not-possible'] } }] }).state,
  ).toBe('holds');
});

test('the cases of the demo hold, and each finds the fault that it is there for', () => {
  const document = demoDocument();
  const states = (changed: EconomyDocument) =>
    casesRun(economyCompile(changed).economy, changed)
      .filter(({ state }) => state !== 'holds')
      .map(({ id }) => id);
  expect([Object.keys(document.cases!).length, states(document)]).toEqual([25, []]);
  const broken = (change: (economy: EconomyDocument) => void): string[] => {
    const changed = structuredClone(document);
    change(changed);
    return states(changed);
  };
  expect(broken(({ items }) => (items!['storm_frame']!.worth = { shells: 1399 }))).toEqual([
    'storm_frame_one_short',
    'storm_frame_exactly',
    'storm_frame_one_over',
    'storm_frame_once',
    'refusal_in_portuguese',
  ]);
  expect(
    broken(
      ({ shops }) => (shops!['festival_booth']!.shelves['ribbons']!.offers['festival_crate']!.limits = { day: 3 }),
    ),
  ).toEqual(['two_crates_a_day']);
  expect(broken(({ currencies }) => (currencies!['ribbons']!.ends!.rate = 4))).toEqual(['festival_ends']);
});

test('the same cases give the same answers, and work is bounded', () => {
  const document = demoDocument();
  const event = { event: 'lantern_lit', times: 10_000, expect: { goals: { lantern_walk: 'reached' as const } } };
  const large = (name: string): CaseDocument => ({ name, at: '2027-04-28T20:00', steps: [event] });
  document.cases = Object.fromEntries(
    Array.from({ length: 12 }, (_, place) => [`large_${place}`, large(`Large ${place}`)]),
  );
  const { economy } = economyCompile(document);
  const results = casesRun(economy, document);
  expect(results.map(({ state }) => state)).toEqual([
    ...Array<string>(9).fill('holds'),
    ...Array<string>(3).fill('unplayable'),
  ]);
  expect(caseLines(results[9]!)).toEqual([
    expect.stringMatching(/^\/cases\/large_9: all cases together are more work than/),
  ]);
  const few = Object.fromEntries(Object.entries(document.cases).slice(0, 1));
  expect(JSON.stringify(casesRun(economy, { ...document, cases: few }))).toBe(JSON.stringify(results.slice(0, 1)));
});

test.each([
  [{ name: 'X' }, '/cases/one/at'],
  [{ name: 'X', at: '2027-03-01', steps: Array.from({ length: 201 }, () => ({ wait: 'day' })) }, '/cases/one/steps'],
  [{ name: 'X', at: '9999-01-01T00:00' }, '/cases/one/at'],
  [
    { name: 'X', at: '2027-03-01', steps: [{ buy: 'frame', expect: { holds: { shells: { from: 2, to: 1 } } } }] },
    '/cases/one/steps/0/expect/holds/shells',
  ],
  [
    { name: 'X', at: '2027-03-01', steps: [{ buy: 'frame', expect: { verdict: 'refused' } }] },
    '/cases/one/steps/0/expect/verdict',
  ],
  [
    { name: 'X', at: '2027-03-01', steps: [{ buy: 'frame', expect: { verdict: [] } }] },
    '/cases/one/steps/0/expect/verdict',
  ],
  [{ name: 'X', at: '2027-03-01', expect: { verdict: 'allowed' } }, '/cases/one/expect/verdict'],
])('%j is refused where it is written', (written, pointer) => {
  const checked = documentValidate({ name: 'X', timeZone: 'UTC', cases: { one: written } });
  expect(checked.ok ? [] : checked.issues.map((issue) => issue.pointer)).toContain(pointer);
});

test('JUnit: a failure for what is broken, an error for what cannot be played, and nothing that XML forbids', () => {
  const results = [
    ran({ name: 'Holds & <holds>', expect: { holds: { shells: 60 } } }),
    ran({ name: 'Broken\u0007', expect: { holds: { shells: 61 } } }),
    ran({ name: 'Unplayable', steps: [] }),
  ];
  const xml = casesJunit('Cove', results);
  expect(xml.split('<testcase').slice(1)).toEqual([
    ' name="Holds &amp; &lt;holds&gt;" classname="cases.one"></testcase>',
    expect.stringMatching(/^ name="Broken" .*<failure message="before any step: holds Shells: 61 expected, 60 found">/),
    expect.stringMatching(/^ name="Unplayable" .*<error message="\/cases\/one: nothing must hold/),
  ]);
  expect(xml).toContain('<testsuite name="Cove" tests="3" failures="1" errors="1">');
});

describe('kept from a rehearsal', () => {
  const kept = (steps: Parameters<typeof caseKept>[1]['steps'], more: Partial<Parameters<typeof caseKept>[1]> = {}) =>
    caseKept(COVE, {
      profile: { holds: { shells: 349 }, attributes: { level: 2 } },
      atMs: Date.UTC(2027, 2, 1, 10, 0, 31),
      steps,
      ...more,
    });

  test('what happened becomes what must hold, and holds; the name says what was done first', () => {
    const written = kept(
      [
        { buy: 'frame' },
        { give: { shells: 1, pearls: 150 } },
        { buy: 'frame' },
        { buy: 'wax' },
        { event: 'race_finished', fields: { place: 1 } },
        { wait: 'day' },
        { until: Date.UTC(2027, 9, 31, 1, 30) },
      ],
      { language: 'pt', seed: 7 },
    );
    expect(written).toEqual({
      name: 'Buy Frame at Stall: refused for short-of',
      at: '2027-03-01T10:00',
      seed: 7,
      player: { attributes: { level: 2 }, holds: { shells: 349 } },
      steps: [
        { buy: 'frame', expect: { verdict: ['short-of'], says: { pt: 'Falta 1 Shell.' } } },
        { give: { shells: 1, pearls: 1.5 } },
        { buy: 'frame', expect: { verdict: 'allowed', price: { shells: 350 }, holds: { shells: 0, frame: 1 } } },
        { buy: 'wax', expect: { verdict: 'allowed', price: { pearls: 1.5 }, holds: { pearls: 0, wax: 1 } } },
        {
          event: 'race_finished',
          fields: { place: 1 },
          expect: { holds: { shells: 30 }, attributes: { rank: 2 }, levels: { flyer: 2 }, goals: { first: 'reached' } },
        },
        { wait: 'day' },
        // Clocks show it twice, so the offset is written.
        { until: '2027-10-31T01:30+00:00' },
      ],
    });
    expect(documentValidate({ name: 'X', timeZone: 'UTC', cases: { one: written } }).ok).toBe(true);
    expect(caseRun(COVE, 'one', written)).toMatchObject({ state: 'holds', misses: [] });
  });

  test('whatever the demo rehearses holds as it was kept, and the planted fault is found', () => {
    const document = demoDocument();
    const { economy } = economyCompile(document);
    const written = caseKept(economy, {
      profile: { attributes: { level: 4 }, holds: { shells: 3000, drift_crate: 2, brass_key: 1 } },
      atMs: Date.UTC(2027, 3, 27, 12),
      steps: [
        { open: 'drift_crate', times: 2 },
        { play: 'harbour_race', times: 4 },
        { buy: 'racer_kit' },
        { sell: 'comet_tail', shop: 'pier_stall' },
        { wait: 'change' },
        { use: 'storm_wax' },
      ],
    });
    expect(caseLines(caseRun(economy, 'one', written))).toEqual([]);
    document.items!['racer_kit']!.gives = { gull_frame: 1, striped_sail: 1, storm_wax: 1 };
    expect(caseLines(caseRun(economyCompile(document).economy, 'one', written)).join()).toContain('holds Storm Wax');
  });
});

describe('proposed for an offer', () => {
  const document = demoDocument();
  const { economy } = economyCompile(document);
  const lines = (offer: string, at = Date.UTC(2027, 2, 1, 10)) =>
    casesProposed(economy, [offer], at).map(({ id, lines: told }) => [id, ...told]);

  test('one short, exactly, one over, the second time, full, the wrong level', () => {
    expect(lines('storm_frame')).toEqual([
      ['storm_frame_exactly', 'level is 3, 1400 Shells', 'buy: allowed'],
      ['storm_frame_one_short', 'level is 3, 1399 Shells', 'buy: refused for short-of'],
      ['storm_frame_one_over', 'level is 3, 1401 Shells', 'buy: allowed'],
      ['storm_frame_once_more', 'level is 3, 2800 Shells', 'buy: allowed', 'buy: refused for carry-full'],
      ['storm_frame_full_of_storm_frame', 'level is 3, 1400 Shells, 1 Storm Frame', 'buy: refused for carry-full'],
      ['storm_frame_not_for', 'level is 2, 1400 Shells', 'buy: refused for requirement-unmet'],
    ]);
  });

  test('as often as a day allows, and the day after; each way to pay; when it is next on sale', () => {
    expect(lines('calm_charm').slice(3, 5)).toEqual([
      ['calm_charm_once_more', '120 Shells', 'buy 2 times: allowed', 'buy: refused for limit-reached'],
      ['calm_charm_day_after', '120 Shells', 'buy 2 times: allowed', 'the day after', 'buy: allowed'],
    ]);
    expect(lines('lantern_sail').map(([id]) => id)).toContain('lantern_sail_one_short_shells_2');
    expect(casesProposed(economy, ['festival_frame'], Date.UTC(2027, 2, 1))[0]!.case.at).toBe('2027-04-26T10:00');
    expect(lines('festival_frame', Date.UTC(2027, 5, 1))).toEqual([]);
    expect([lines('pearls_10'), lines('none')]).toEqual([[], []]);
  });

  test('all of them hold as they are, and name nothing twice', () => {
    const proposals = casesProposed(economy, [...economy.offers.keys()], Date.UTC(2027, 3, 28, 12));
    const cases = Object.fromEntries(proposals.map(({ id, case: one }) => [id, one]));
    expect(proposals.length).toBeGreaterThan(250);
    expect(Object.keys(cases).length).toBe(proposals.length);
    expect(documentValidate({ ...document, cases }).ok).toBe(true);
    const failed = casesRun(economy, { ...document, cases }).filter(({ state }) => state !== 'holds');
    expect(failed.map(({ id }) => id)).toEqual([]);
  });

  test('ids that are cut stay apart', () => {
    const long = demoDocument();
    const stem = 'a_very_long_name_of_an_offer_that_is_the_same_to';
    const { offers } = long.shops!['pier_stall']!.shelves['care']!;
    for (const end of ['one', 'two']) offers[`${stem}_${end}`] = { gives: 'sea_salt', price: { shells: 9 } };
    const ids = casesProposed(economyCompile(long).economy, [`${stem}_one`, `${stem}_two`], Date.UTC(2027, 2, 1)).map(
      ({ id }) => id,
    );
    expect(ids.length).toBeGreaterThan(6);
    expect(new Set(ids).size).toBe(ids.length);
  });
});

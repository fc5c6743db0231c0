/** Reports: one file, everything in it, nothing from elsewhere. */
import { demoDocument } from '../../../tests/support/economy.js';
import type { EconomyDocument } from '../document/index.js';
import { scenarioResolve, simulateEngine } from '../simulation/index.js';
import type { SimulationResult } from '../simulation/index.js';
import { benchReport, reportPage, runCharts } from './index.js';

function played(document: EconomyDocument, set: Record<string, unknown> = {}): SimulationResult {
  const setup = scenarioResolve(document, 'first_month', { players: 60, days: 12, set });
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  return simulateEngine(setup.value);
}
const ABOUT = {
  economy: { name: 'Saltwind Cove', zone: 'Europe/Lisbon', from: 'revision 3 of the draft' },
  madeMs: Date.UTC(2027, 2, 1, 9),
  version: '0.1.0',
};
const document = demoDocument();
const result = played(document);

test('a run and what it is held against are one page that loads nothing', () => {
  const cheaper = played(document, { '/items/storm_frame/worth/shells': 400 });
  const runs = [
    { name: 'cheaper', result: cheaper },
    { name: 'draft', result },
  ];
  const page = benchReport(runs, 1, document.targets, ABOUT);
  expect(page).toMatch(/^<!doctype html>\n<html lang="en">/);
  expect(page).toContain('<h1>First month</h1>');
  expect(page).toContain('60 players (30 Daydreamer, 21 Weekender, 9 Racer), 12 days.');
  // What it is of, in the name of the page and on it.
  expect(page).toContain('<title>First month: Saltwind Cove, revision 3 of the draft</title>');
  expect(page).toContain(
    'Saltwind Cove; revision 3 of the draft; seed 7; made on 2027-03-01 09:00 WET by Dime Stall 0.1.0.',
  );
  // Both stand to the targets, and what differs is told against the draft.
  expect(page.match(/Weekenders own the Storm Frame in the third week/g)).toHaveLength(2);
  expect(page).toContain('<h2>Against draft');
  expect(page).toMatch(/<td>cheaper<\/td><td>Racer<\/td><td>days to own<\/td><td>Storm Frame<\/td>/);
  expect(page).toContain('Weekender with Storm Frame, % by day');
  // Two lines in each chart of who owns what, the second dashed.
  expect(page).toContain('stroke-dasharray="7 3"');
  expect(page).not.toMatch(/(src|href)=|@import|url\((?!#)|https?:/);
  expect(page).not.toMatch(/NaN|undefined|Infinity/);
  expect(benchReport(runs, 1, document.targets, ABOUT)).toBe(page);
});

test('one run has nothing to be held against', () => {
  const page = benchReport([{ name: 'draft', result }], 0, document.targets, ABOUT);
  expect(page).not.toContain('Against');
  expect(page.match(/<svg /g)!.length).toBeGreaterThan(8);
});

test('names cannot become markup', () => {
  const named = demoDocument();
  named.personas!['racer']!.name = '<script>alert(1)</script>';
  named.scenarios!['first_month']!.name = 'A & "B"';
  const page = benchReport([{ name: 'draft', result: played(named) }], 0, named.targets, ABOUT);
  expect(page).toContain('<h1>A &amp; &quot;B&quot;</h1>');
  expect(page).not.toContain('<script>');
  expect(page).toContain('&lt;script&gt;alert(1)&lt;/script&gt;: Shells held');
});

test('without targets it is drawn who owns what the runs differ in, or what most own', () => {
  const titles = (blocks: ReturnType<typeof runCharts>): string[] =>
    blocks.flatMap((block) => (block.kind === 'chart' ? [block.title] : []));
  expect(titles(runCharts([{ name: 'a', result }])).filter((title) => title.endsWith('% by day'))).toHaveLength(3);
  const differences = [{ distinguishable: true, persona: 'Racer', subject: 'Storm Frame' }] as never;
  expect(titles(runCharts([{ name: 'a', result }], { differences }))[0]).toBe('Racer with Storm Frame, % by day');
  expect(runCharts([])).toEqual([]);
});

test('amounts stand to the right, words to the left', () => {
  const page = reportPage('Amounts', ABOUT, [
    {
      kind: 'table',
      head: ['offer', 'bought'],
      rows: [
        ['Wax', '12 Shells'],
        ['Reel', 3],
      ],
    },
  ]);
  expect(page).toContain('<td>Wax</td><td class="n">12 Shells</td>');
});

import { demoDocument } from '../support/economy.js';
import { scenarioResolve, simulateEngine } from '../../src/core/simulation/index.js';
import { toCsv } from '../../src/console/charts/csv.js';
import { bandRows, flowRows, ownedRows } from '../../src/core/simulation/figures.js';

const setup = scenarioResolve(demoDocument(), 'first_month', { days: 4, players: 20 });
if (!setup.ok) throw new Error();
const result = simulateEngine(setup.value);

test('bands have a row for each day, in order, and the median lies within', () => {
  const rows = bandRows(result, 1, 0);
  expect(rows.map(({ day }) => day)).toEqual([1, 2, 3, 4]);
  for (const { median, half, most } of rows)
    expect([most[0] <= half[0], half[0] <= median, median <= half[1], half[1] <= most[1]]).toEqual([
      true,
      true,
      true,
      true,
    ]);
});

test('amounts are shown in display units', () => {
  const inHundredths = { ...result, currencies: result.currencies.map((currency) => ({ ...currency, decimals: 2 })) };
  expect(bandRows(inHundredths, 0, 0)[0]!.median).toBe(bandRows(result, 0, 0)[0]!.median / 100);
  expect(flowRows(inHundredths, 0, 'in')[0]!.units).toBe(flowRows(result, 0, 'in')[0]!.units / 100);
});

test('items have a row for each persona, with a share for each day', () => {
  const rows = ownedRows(result).filter(({ item }) => item === 'drift_frame');
  expect(rows.map(({ persona }) => persona)).toEqual(['Daydreamer', 'Weekender', 'Racer']);
  for (const { share, owners, n } of rows) expect([share.length, owners <= n]).toEqual([4, true]);
});

test('CSV quotes what must be quoted, and no text can run as a formula', () => {
  expect(
    toCsv(
      ['cause', 'sum'],
      [
        ['a "b", c', 1],
        ['=cmd()', -2],
        ['@x', null],
        ['two\nlines', 0.5],
      ],
    ),
  ).toBe('cause,sum\r\n"a ""b"", c",1\r\n\'=cmd(),-2\r\n\'@x,\r\n"two\nlines",0.5\r\n');
});

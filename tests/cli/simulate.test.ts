/** simulate, compare and runs: on a folder and on the service. */
import { cpSync, existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import { resultTables, scenarioResolve, simulateEngine } from '../../src/core/simulation/index.js';
import { DEMO_FOLDER, demoDocument } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
beforeEach(async () => {
  stall = await startStall();
  folder = scratchFolder();
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

const cli = (...args: string[]) =>
  runCli(args, { env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.admin } });

test('on a folder: the same bytes each time, and two results compared', async () => {
  const run = (file: string, ...more: string[]) =>
    runCli([
      'simulate',
      'racers_only',
      '--folder',
      DEMO_FOLDER,
      '--days',
      '5',
      '--players',
      '24',
      '--out',
      join(folder.path, file),
      ...more,
    ]);
  const [first, second, dear] = await Promise.all([
    run('a.json'),
    run('b.json'),
    run('c.json', '--set', '/items/gull_frame/worth/shells=1200'),
  ]);
  expect([first.code, second.out, dear.code]).toEqual([0, first.out, 0]);
  expect(readFileSync(join(folder.path, 'a.json'))).toEqual(readFileSync(join(folder.path, 'b.json')));
  for (const heading of ['Wallets on the last day', 'Money in and out', 'Days until owned', 'Offers'])
    expect(first.out).toContain(heading);
  expect((await runCli(['compare', join(folder.path, 'a.json'), join(folder.path, 'b.json')])).out).toBe(
    'No difference can be told from chance.\n',
  );
  const compared = await runCli(['compare', join(folder.path, 'a.json'), join(folder.path, 'c.json')]);
  expect(compared.out).toMatch(/Racer +share who own +Gull Frame/);
});

test('on the service: a run with its number, which compare takes', async () => {
  const first = await cli('simulate', 'racers_only', '--days', '3', '--players', '8');
  expect(first.out).toMatch(/^Racers only \(run 1\): 8 players, 3 days, seed 11;/);
  expect(
    JSON.parse((await cli('simulate', 'racers_only', '--days', '3', '--players', '8', '--seed', '3', '--json')).out),
  ).toMatchObject({ version: 3, seed: 3 });
  const compared = await cli('compare', '1', '2');
  expect([compared.code, compared.err]).toEqual([
    1,
    'These runs cannot be compared: the runs differ in seed, start, days or players, so they do not share their luck.\n',
  ]);
});

test('a scenario that is not there, and an override to nowhere', async () => {
  expect((await runCli(['simulate', 'frist_month', '--folder', DEMO_FOLDER])).out).toMatch(
    /Did you mean "first_month"\?/,
  );
  expect((await cli('simulate', 'first_month', '--set', '/items/nothing/worth=5')).err).toMatch(
    /the override \/items\/nothing\/worth leads to nothing/,
  );
});

test('each table as CSV: every column of the result, ids for numbers, days from 1', async () => {
  const csv = join(folder.path, 'tables');
  const size = ['--days', '5', '--players', '60'];
  const run = await runCli(['simulate', 'first_month', '--folder', DEMO_FOLDER, ...size, '--csv', csv]);
  // After five days nobody has spent much yet: that a target is missed keeps no table from being written.
  expect([run.code, run.err]).toEqual([1, expect.stringMatching(/1 of 3 targets missed\. Shells do not pile up: /)]);
  const setup = scenarioResolve(demoDocument(), 'first_month', { days: 5, players: 60 });
  const result = setup.ok ? simulateEngine(setup.value) : undefined;
  const tables = resultTables(result!);
  expect(readdirSync(csv).sort()).toEqual(tables.map(({ name }) => `${name}.csv`).sort());
  const read = (name: string) =>
    parse(readFileSync(join(csv, `${name}.csv`)), { columns: true, record_delimiter: '\r\n' }) as Record<
      string,
      string
    >[];
  // Whatever tells a day says it from 1 to 5, or is a mean that counts who does not get there.
  for (const { name, columns } of tables)
    for (const column of columns)
      if (/(^|\.)(day|firstDay|lastDay|median\w*|mean\w*)$/.test(column) && name !== 'balances')
        for (const row of read(name))
          if (row[column] !== '') expect([name, column, Number(row[column]) >= 1]).toEqual([name, column, true]);
  expect(new Set(read('balances').map(({ day }) => day))).toEqual(new Set(['1', '2', '3', '4', '5']));
  expect(new Set(read('flows').map(({ persona }) => persona))).toEqual(new Set(['daydreamer', 'weekender', 'racer']));
  expect(read('targets').map(({ mark }) => mark)).toEqual(result!.targets.map(({ mark }) => mark));
  expect(read('players')).toHaveLength(60);
  expect(read('players')[0]).toMatchObject({ player: '1', persona: 'daydreamer' });
  const spent = read('flows').filter(({ cause, currency }) => cause!.startsWith('purchase:') && currency === 'shells');
  const out = spent.filter(({ direction }) => direction === 'out').reduce((sum, { units }) => sum + Number(units), 0);
  expect(
    read('prices')
      .filter(({ currency }) => currency === 'shells')
      .reduce((sum, one) => sum + Number(one['spent']), 0),
  ).toBe(out);
});

test('runs are listed, named, shown, saved and deleted', async () => {
  expect((await cli('runs')).out).toBe('No runs yet: dimestall simulate SCENARIO.\n');
  await cli('simulate', 'racers_only', '--days', '2', '--players', '5', '--name', 'As it is');
  expect((await cli('runs')).out).toMatch(/1 +As it is +racers_only +5 players +done/);
  expect((await cli('runs', '1', '--rename', 'Quiet days')).out).toBe('Run 1 is Quiet days.\n');
  const file = join(folder.path, 'run.json');
  expect((await cli('runs', '1', '--out', file)).out).toMatch(/\(run 1\): 5 players, 2 days/);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ version: 3, days: 2 });
  expect((await cli('runs', '1', '--delete')).out).toBe('Deleted run 1, Quiet days.\n');
  expect(await cli('runs', '1')).toMatchObject({ code: 1, err: 'There is no run 1. There are none yet.\n' });
  expect(await cli('runs', 'x')).toMatchObject({ code: 2 });
});

describe('reports', () => {
  const run = (...args: string[]) => runCli([...args, '--folder', DEMO_FOLDER]);
  const small = ['--players', '80', '--days', '26', '--seed', '4'];

  test('what is printed, with pictures, is one file; a missed target is the first thing that it says', async () => {
    const file = join(folder.path, 'run.html');
    const told = await run(
      'simulate',
      'first_month',
      ...small,
      '--set',
      '/items/storm_frame/worth/shells=2600',
      '--report',
      file,
    );
    const page = readFileSync(file, 'utf8');
    expect(page).toContain('<h1>simulate first_month</h1>');
    // Of what, from where, with which luck, when, and by what.
    expect(page).toContain('<title>simulate first_month: Saltwind Cove, folder saltwind-cove</title>');
    expect(page).toMatch(
      /<small>Saltwind Cove; folder saltwind-cove; seed 4; made on \d{4}-\d\d-\d\d \d\d:\d\d \w+ by Dime Stall \d+\.\d+\.\d+\.<\/small>/,
    );
    expect(told.code).toBe(1);
    expect(page.indexOf(told.err.trim().slice(0, 20))).toBeLessThan(page.indexOf('<table'));
    expect(page).toMatch(/<figure><figcaption>Weekender with Storm Frame, % by day<\/figcaption><svg /);
    expect(page).toContain('<h2>Money in and out <small>all players, all days</small></h2>');
    // Every row of the terminal's tables is there.
    expect(page).toContain(`<td>${/Paper Lantern/.exec(told.out)![0]}</td>`);
  });

  test('a comparison draws the runs over each other', async () => {
    const [one, other] = [join(folder.path, 'dear.json'), join(folder.path, 'cheap.json')];
    await run('simulate', 'first_month', ...small, '--out', one);
    await run('simulate', 'first_month', ...small, '--set', '/items/storm_frame/worth/shells=400', '--out', other);
    const file = join(folder.path, 'both.html');
    expect((await runCli(['compare', one, other, '--report', file])).code).toBe(0);
    const page = readFileSync(file, 'utf8');
    expect(page).toMatch(/>dear<\/text>.*>cheap<\/text>|>cheap<\/text>.*>dear<\/text>/s);
    expect(page).toContain('with Storm Frame, % by day');
  });

  test('a report that cannot be made says so, and what cannot be saved ends with 2', async () => {
    const json = await run('pay', '--report', join(folder.path, 'pay.html'), '--json');
    expect([json.code, json.err]).toEqual([2, expect.stringMatching(/leave --json or --report out/)]);
    const nowhere = await run('pay', '--report', join(folder.path, 'no/such/pay.html'));
    expect([nowhere.code, nowhere.err]).toEqual([2, expect.stringMatching(/pay\.html" is not there/)]);
    const refused = join(folder.path, 'refused.html');
    expect((await run('simulate', 'frist_month', '--report', refused)).code).toBe(1);
    expect(existsSync(refused)).toBe(false);
  });
});

test('names that a spreadsheet would run are guarded in every CSV that leaves', async () => {
  const own = join(folder.path, 'formulas');
  cpSync(DEMO_FOLDER, own, { recursive: true });
  const players = join(own, 'players.yaml');
  writeFileSync(players, readFileSync(players, 'utf8').replace('name: Racer', 'name: "=1+1"'));
  const csv = join(folder.path, 'guarded');
  await runCli(['simulate', 'first_month', '--folder', own, '--days', '2', '--players', '20', '--csv', csv]);
  const texts = readdirSync(csv).map((file) => readFileSync(join(csv, file), 'utf8'));
  expect(texts.filter((text) => /(^|[,\n])"?=1\+1/.test(text))).toEqual([]);
});

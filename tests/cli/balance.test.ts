/** Targets, tune and sensitivity: on a folder and on the service. */
import { cpSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { SensitivityResult, TuneResult } from '../../src/core/balance/index.js';
import { runCli, runProcess } from '../support/cli.js';
import { DEMO_FOLDER } from '../support/economy.js';
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
const SIZE = ['--players', '160', '--seed', '4'];
/** One thread, whose engine is warm sooner; that their number changes nothing is a test of its own. */
const ONE = ['--workers', '1'];
const SEARCH = ['--players', '60', '--seed', '4', ...ONE];
/** Few steps, so that few runs are needed. */
const COARSE = ['--lever', '/items/storm_frame/worth/shells=560..1400:280'];

test('a missed target is told with by how much, and ends with 1; one that is met or open does not', async () => {
  const run = (...more: string[]) => runCli(['simulate', 'first_month', '--folder', DEMO_FOLDER, ...SIZE, ...more]);
  const missed = await run();
  expect([missed.code, missed.err]).toEqual([
    1,
    expect.stringMatching(/^1 of 3 targets missed\. Weekenders own .*: day \d+ .*, wanted day 15 to 21\.$/m),
  ]);
  expect(missed.out).toMatch(/↑ too late +Weekenders own the Storm Frame/);
  const met = await run('--set', '/items/storm_frame/worth/shells=640');
  expect([met.code, met.err]).toEqual([0, '']);
  expect(met.out).not.toMatch(/↑|↓/);
});

test('tune finds a price on a folder and writes it there, with any number of threads', async () => {
  const own = join(folder.path, 'cove');
  cpSync(DEMO_FOLDER, own, { recursive: true });
  const file = join(folder.path, 'answer.json');
  const ask = (...more: string[]) => runCli(['tune', 'first_month', '--folder', own, ...COARSE, ...SEARCH, ...more]);
  const json = JSON.parse((await ask('--json')).out) as TuneResult;
  expect(json).toMatchObject({ stopped: false, players: { small: 60, full: 60 } });
  const price = json.answers[0]!.set['/items/storm_frame/worth/shells'] as number;
  const report = join(folder.path, 'tuned.html');
  const taken = await ask('--workers', '2', '--take', '--out', file, '--report', report);
  // The economy as it is and what was found, drawn over each other.
  expect(readFileSync(report, 'utf8')).toMatch(
    /seed 4; made on .*<figcaption>Weekender with Storm Frame, % by day<\/figcaption>.*>answer 1<\/text>/s,
  );
  expect(taken.code).toBe(0);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toEqual(json);
  expect(taken.out).toMatch(new RegExp(`Storm Frame, worth in Shells +1400 +${price}`));
  const { low, high } = json.answers[0]!.range!;
  expect(taken.out).toContain(low === high ? 'One step up or down is not as well.' : `As well from ${low} to ${high}.`);
  expect(taken.out).toMatch(/Storm Frame, worth in Shells.*1400.*\n1 change; written:/);
  const items = readFileSync(join(own, 'items.yaml'), 'utf8');
  expect(items).toMatch(new RegExp(`storm_frame:\\n.*worth: \\{ shells: ${price} \\}`));
  expect(items).toContain('# Frames: one of each, bought once.');
});

test('on the service: the answer becomes a revision of the draft with its note', async () => {
  const out = (await cli('tune', 'first_month', ...COARSE, ...SEARCH, '--take', '--json')).out;
  expect(JSON.parse(out)).toMatchObject({ saved: { revision: 2, changes: [expect.anything()] } });
  const { items } = await stall.as('read').call('GET /draft/revisions', { query: {} });
  expect(items[0]).toMatchObject({ why: 'tuned first_month' });
  expect(
    (await cli('tune', 'first_month', '--source', 'live', '--lever', 'storm_frame', ...SEARCH, '--take')).err,
  ).toMatch(/Only the draft can be changed, and this would be of live/);
});

test('levers begin where the scenario has their numbers', async () => {
  const own = join(folder.path, 'cove');
  cpSync(DEMO_FOLDER, own, { recursive: true });
  const players = join(own, 'players.yaml');
  const month = readFileSync(players, 'utf8').replace(
    '    seed: 7\n',
    '    seed: 7\n    set: { /items/storm_frame/worth/shells: 640 }\n',
  );
  writeFileSync(players, month);
  const ask = ['tune', 'first_month', '--folder', own, ...COARSE, ...SEARCH, '--json'];
  const { before, answers } = JSON.parse((await runCli(ask)).out) as TuneResult;
  // At 1400, where the economy has it, nobody owns it before the 24th day.
  expect((before[0] as { value: number }).value).toBeLessThan(20);
  expect(answers[0]!.settings).toMatchObject([{ before: 640 }]);
});

test('no answer within the bounds: which target stands in the way, and exit code 1', async () => {
  const none = await cli(
    'tune',
    'first_month',
    '--lever',
    '/items/storm_frame/worth/shells=2600..2800:100',
    ...SIZE,
    ...ONE,
  );
  expect([none.code, none.err]).toEqual([1, expect.stringMatching(/without "Weekenders own .*", the rest can be met/)]);
  expect(none.out).toMatch(/this comes nearest/);
  expect(none.out).toMatch(/No lever here moves "Daydreamers seldom lack money"\./);
});

test('sensitivity as a table and as JSON', async () => {
  const ask = ['sensitivity', 'first_month', '--folder', DEMO_FOLDER, '--lever', 'storm_frame', ...ONE];
  const file = join(folder.path, 'effects.json');
  const told = await runCli([...ask, '--players', '300', '--out', file]);
  expect(told.out).toMatch(/Storm Frame +20 +Weekenders own .* \+0\.\d+ days .* away/);
  const { effects } = JSON.parse(readFileSync(file, 'utf8')) as SensitivityResult;
  expect(effects).toHaveLength(3);
  expect(effects[0]).toMatchObject({ lever: 'storm_frame', target: 'storm_frame_in_reach', helps: -1 });
});

test.each([
  [['tune', 'first_month', '--lever', 'strom_frame'], 1, /Did you mean "storm_frame"/],
  [['tune', 'first_month', '--lever', '/items/storm_frame/name=1..3'], 1, /is no number/],
  [['tune', 'first_month', '--target', 'gulls'], 2, /Targets: storm_frame_in_reach/],
  [['tune', 'first_month', '--target', 'storm'], 2, /Did you mean "storm_frame_in_reach"/],
  [['tune', 'racers_only'], 2, /No target of the economy is meant for Racers only/],
  [['sensitivity', 'frist_month'], 1, /Did you mean "first_month"/],
  [['tune', 'first_month', '--set', '/items/nothing=1'], 1, /leads to nothing/],
])('%j is refused', async (args, code, words) => {
  const { code: exit, out, err } = await runCli([...args, '--folder', DEMO_FOLDER]);
  expect([exit, out + err]).toEqual([code, expect.stringMatching(words)]);
});

test('an economy without levers or targets says what to write', async () => {
  writeFileSync(join(folder.path, 'economy.yaml'), 'name: Bare\ntimeZone: Europe/Lisbon\n');
  const scenario = ['personas: {p: {name: P, sessions: {perDay: 1, minutes: 1}, plays: {}, shops: {policy: impulse}}}'];
  scenario.push('scenarios: {s: {name: S, start: "2027-03-01", days: 2, players: 3, mix: {p: 1}}}', '');
  writeFileSync(join(folder.path, 'players.yaml'), scenario.join('\n'));
  const bare = (...args: string[]) => runProcess([...args, '--folder', folder.path]);
  expect((await bare('tune', 's')).err).toMatch(/no levers\. Name a number that may move/);
});

test('pay ranks ways of playing, on a folder with choices and on the service', async () => {
  const own = join(folder.path, 'cove');
  cpSync(DEMO_FOLDER, own, { recursive: true });
  const players = join(own, 'players.yaml');
  writeFileSync(
    players,
    readFileSync(players, 'utf8')
      .replace('difficulty: { from: 1, to: 3 }', 'difficulty: { chosen: { 1: 3, 2: 2, 3: 1 } }')
      .replace(
        '  beach_walk:\n',
        '  give_up:\n    name: Give up at once\n    minutes: 1\n    emits:\n      race_finished: { place: 6, difficulty: { chosen: { 1: 1, 3: 1 } } }\n  beach_walk:\n',
      ),
  );
  const told = await runCli(['pay', '--folder', own]);
  expect(told.out.split('\n').slice(1, 3)).toEqual([
    expect.stringMatching(/^Give up at once +difficulty 3 +12 Shells +12 Shells/),
    expect.stringMatching(/^Give up at once +difficulty 1 +8 Shells +8 Shells .* 1 of 1\.5$/),
  ]);
  expect(told.out).toMatch(/Harbour race +difficulty 1 .* 1 of 1\.5/);
  expect(told.out).toMatch(
    /Thanks of the village is told as for a player in no team; .*25 % of it goes to the Festival side\./,
  );
  expect((await runCli(['audit', own])).out).toMatch(
    /earning-loop: Give up at once: with difficulty 3 it pays 12 Shells a minute.*Harbour race as it is usually played pays/,
  );
  const report = join(folder.path, 'pay.html');
  await cli('pay', '--report', report);
  expect(readFileSync(report, 'utf8')).toMatch(/<title>pay: Saltwind Cove, revision \d+ of the draft<\/title>/);
  expect(JSON.parse((await cli('pay', '--json')).out)).toContainEqual(
    expect.objectContaining({ activity: 'Harbour race', asset: 'shells', exact: true }),
  );
  expect((await cli('pay', '--attribute', 'levl=3')).err).toMatch(/no attribute "levl"\. Did you mean "level"/);
});

test('ladder lists prices by playing time, on a folder and on the service, and its pointers set prices by a rule', async () => {
  const frames = ['--persona', 'weekender', '--shelf', 'pier_stall/frames'];
  const told = await runCli(['ladder', '--folder', DEMO_FOLDER, ...frames]);
  expect(told.out.split('\n').slice(0, 3)).toEqual([
    expect.stringMatching(/^offer +price +minutes of play +earned +times the one before +all so far owned$/),
    expect.stringMatching(/^Drift Frame +150 Shells +\d+ min \(\d+ min to \d+ min\) +day \d +day \d+$/),
    expect.stringMatching(/^First Flight Kit +200 Shells .* x 1\.3\d +day \d+$/),
  ]);
  expect(told.out).toMatch(
    /half of 200 made-up players have earned it\. Limits, requirements and stock are not in it\./,
  );
  const json = JSON.parse((await cli('ladder', '--json', ...frames)).out) as {
    persona: string;
    players: number;
    rungs: { name: string; amountAt?: string; time: object }[];
  };
  expect(json).toMatchObject({ persona: 'weekender', players: 200 });
  expect(json.rungs[0]).toMatchObject({ name: 'Drift Frame', time: { kind: 'earned', exact: false, beyond: false } });
  const at = json.rungs.flatMap(({ amountAt }) => amountAt ?? []);
  const changed = await cli('edit', 'ladder', ...at, '--first', '100', '--factor', '1.4', '--preview');
  expect(changed.out).toMatch(/Drift Frame, worth in Shells: 150 -> 100/);
  expect(changed.out).toMatch(/Gull Frame, worth in Shells: 450 -> 270/);
  const all = await runCli(['ladder', '--folder', DEMO_FOLDER]);
  expect(all.out).toMatch(/^Not on it, real money: Handful of pearls, /m);
  expect(all.out).toMatch(/for a Daydreamer\.$/m);
  expect(await runCli(['ladder', '--folder', DEMO_FOLDER, '--persona', 'weekendr'])).toMatchObject({
    code: 2,
    err: expect.stringContaining('There is no persona "weekendr". Did you mean "weekender"?') as string,
  });
  expect((await runCli(['ladder', '--folder', DEMO_FOLDER, '--shelf', 'frames'])).err).toMatch(
    /There is no shelf "frames"/,
  );
});

import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { cpSync, existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { DEMO_FOLDER } from '../support/economy.js';
import { CLI, runCli, runProcess } from '../support/cli.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
beforeEach(async () => {
  stall = await startStall();
  folder = scratchFolder();
  const admin = stall.as('admin');
  for (const [id, shells] of [
    ['mateo', 1340],
    ['oda', 1339],
  ] as const) {
    await admin.call('POST /players', { body: { id, name: id, attributes: { level: 3 } } });
    await admin.call('POST /players/{player}/grants', {
      params: { player: id },
      body: { gives: { shells }, reason: 'wallet' },
      key: 'wallet',
    });
  }
});
afterEach(async () => {
  await stall.stop();
  folder.remove();
});

const cli = (...args: string[]) =>
  runCli(args, { env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.admin } });
const copyOfDemo = (change: (text: string) => string = (text) => text, file = 'items.yaml') => {
  const path = join(folder.path, 'cove');
  cpSync(DEMO_FOLDER, path, { recursive: true });
  writeFileSync(join(path, file), change(readFileSync(join(path, file), 'utf8')));
  return path;
};

describe('may this player buy this?', () => {
  test('exactly enough is allowed, with before and after', async () => {
    const { code, out } = await cli('check', 'storm_frame', '--player', 'mateo');
    expect(code).toBe(0);
    expect(out).toMatchInlineSnapshot(`
     "Allowed: Storm Frame, at 2027-03-01 09:00 WET
       price: 1400 Shells
       gives: 1 Storm Frame
                    before  after
       Shells         1400      0
       Storm Frame       0      1
     "
    `);
  });

  test('one short is refused, with the reason and exit code 1', async () => {
    const { code, out, err } = await cli('check', 'storm_frame', '--player', 'oda');
    expect([code, err]).toEqual([1, '']);
    expect(out).toContain(
      'Refused: Storm Frame, at 2027-03-01 09:00 WET\n  short-of: Shells: short by 1. It costs 1400 and the player has 1399.',
    );
  });

  test('the same on a folder, without a service', async () => {
    const ask = (shells: number) =>
      runCli([
        'check',
        'storm_frame',
        '--folder',
        DEMO_FOLDER,
        '--attribute',
        'level=3',
        '--holds',
        `shells=${shells}`,
        '--at',
        '2027-03-01T09:00',
        '--json',
      ]);
    const [short, enough] = await Promise.all([ask(1399), ask(1400)]);
    expect([short.code, enough.code]).toEqual([1, 0]);
    expect(JSON.parse(short.out)).toMatchObject({ allowed: false, reasons: [{ code: 'short-of', short: 1 }] });
    expect(JSON.parse(enough.out)).toMatchObject({ allowed: true, after: { shells: 0, storm_frame: 1 } });
  });

  test('the shop, as a player sees it at an instant', async () => {
    const { code, out } = await cli(
      'front',
      'lantern_wagon',
      '--attribute',
      'level=2',
      '--holds',
      'pearls=12',
      '--at',
      '2027-06-01T12:00',
    );
    expect(code).toBe(0);
    expect(out).toMatchInlineSnapshot(`
    "Lantern Wagon for a made-up player at 2027-06-01 12:00 WEST (release 1)
    has 60 Shells, 12 Pearls, 5 Breeze and 0 Ribbons

    Rare goods
    offer         name                                    price  verdict
    lantern_sail  Lantern Sail [Rare]  12 Pearls or 2600 Shells  can buy
    lucky_charm   Lucky Charm                          2 Pearls  can buy

    Tonight, until 2027-06-02 09:00 WEST
    offer         name                price  verdict
    tide_sail     Tide Sail      680 Shells  Shells: short by 620. It costs 680 and the player has 60.
    wagon_charms  Calm Charm x3  110 Shells  Shells: short by 50. It costs 110 and the player has 60.

    Exchange
    offer         name                 price  verdict
    shell_purse   Purse of shells    1 Pearl  can buy
    breeze_flask  Flask of breeze  50 Shells  can buy

    Crates and keys
    offer        name              price  verdict
    drift_crate  Drift Crate  120 Shells  Shells: short by 60. It costs 120 and the player has 60.
    tide_crate   Tide Crate   260 Shells  Shells: short by 200. It costs 260 and the player has 60.
    brass_key    Brass Key      2 Pearls  can buy

    Can buy now, best first: lantern_sail, breeze_flask, lucky_charm, brass_key, shell_purse
    Next to save for: wagon_charms, short of 50 Shells
    Flyer level: level 2, 150 of 650 Shells to level 3
    First race: 0 of 1
    Two races a day: 0 of 2
    Beachcomber: 0 of 60
    Friend of the village: 0 of 12
    Collector of tails: 0 of 3
    A kite for every wind: 0 of 2
    Good customer: 0 of 1000 Shells
    Lantern walk: 0 of 12
    "
    `);
  });

  test('the same shop on a folder, without a service', async () => {
    const asked = ['front', 'lantern_wagon', '--holds', 'pearls=12', '--at', '2027-06-01T12:00'];
    const served = (await cli(...asked)).out;
    const read = (await runCli([...asked, '--folder', DEMO_FOLDER])).out;
    expect(read).toBe(served.replace('(release 1)', `(${DEMO_FOLDER})`));
    expect(await runCli(['front', 'lantern_wagn', '--folder', DEMO_FOLDER])).toMatchObject({
      code: 2,
      err: 'There is no shop "lantern_wagn". Did you mean "lantern_wagon"?\n',
    });
    expect((await runCli(['front', 'lantern_wagon', '--player', 'oda', '--folder', DEMO_FOLDER])).err).toMatch(
      /A folder has no players/,
    );
  });
});

test('buying takes and gives once for a key, and a refusal has exit code 1', async () => {
  const bought = await cli('buy', 'mateo', 'storm_frame', '--key', 'a');
  expect([bought.code, bought.out]).toEqual([0, expect.stringContaining('Purchase 1, under release 1.')]);
  expect((await cli('buy', 'mateo', 'storm_frame', '--key', 'a')).out).toBe(bought.out);
  const again = await cli('buy', 'mateo', 'storm_frame');
  expect(again.code).toBe(1);
  expect(again.out).toContain('carry-full: No room: at most 1 Storm Frame can be held, 1 is held and 1 would arrive.');
  expect(
    JSON.parse((await cli('buy', 'oda', 'wax_1', '--times', '2', '--expect', 'shells=30', '--json')).out),
  ).toMatchObject({ purchase: 2, verdict: { times: 2 } });
});

test('events, grants and what a player has', async () => {
  expect((await cli('event', 'mateo', 'race_finished', 'place=2', 'difficulty=3', '--id', 'r1')).out).toBe(
    'race_prize: gave 27 Shells\nwinners_pearl: nothing, its condition does not hold\nFirst race reached: 10 Shells and 2 Glide Wax\nTwo races a day: 1 of 2\n',
  );
  expect((await cli('event', 'mateo', 'race_finished', 'place=2', 'difficulty=3', '--id', 'r1')).out).toMatch(
    /^Event r1 was handled before: nothing changed\./,
  );
  expect((await cli('grant', 'mateo', 'pearls=3', '--take', 'shells=9999', '--reason', 'swap')).out).toBe(
    'Gave: 3 Pearls\nTook: 1437 Shells\nNot there to take: 8562 Shells\n',
  );
  const { out } = await cli('player', 'mateo', '--ledger', '2');
  expect(out).toContain('wallet: 0 Shells, 5 Pearls, 5 Breeze');
  expect(out).toContain('player:mateo   world:support  grant:admin');
  expect((await cli('player')).out).toContain('mateo  mateo');
  expect(JSON.parse((await cli('player', 'nina', '--create', '--attribute', 'level=4', '--json')).out)).toMatchObject({
    id: 'nina',
    attributes: { level: 4 },
  });
});

describe('from folder to release', () => {
  test('push, diff, publish, pull', async () => {
    const path = copyOfDemo((text) => text.replace('shells: 1400', 'shells: 1250'));
    expect((await cli('push', path)).out).toBe(
      'Draft revision 2 saved: 1 change. Audit: 0 errors, 0 warnings, 0 hints.\n',
    );
    expect((await cli('diff')).out).toBe('Storm Frame, worth in Shells: 1400 -> 1250\n');
    expect(JSON.parse((await cli('diff', '--patch')).out)).toEqual([
      { op: 'replace', path: '/items/storm_frame/worth/shells', value: 1250 },
    ]);
    expect((await cli('publish', '--note', 'cheaper')).out).toMatch(
      /^Release 2 is published on live\.\nThese cases do not hold in it: storm_frame_one_short, .*\n$/,
    );
    expect((await cli('diff')).out).toBe('Nothing differs from live.\n');
    expect((await cli('pull', path)).out).toMatch(/already holds draft revision 2/);
    expect((await cli('push', path)).out).toMatch(/^Draft revision 2 already holds this: 0 changes\./);
    await stall.as('admin').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1300 }],
      revision: 2,
    });
    expect((await cli('pull', path)).out).toMatch(/^Draft revision 3 is in .*; written: .*items\.yaml\.\n$/);
    const pulled = readFileSync(join(path, 'items.yaml'), 'utf8');
    expect(pulled).toContain('shells: 1300');
    expect(pulled).toContain('# Frames: one of each, bought once.');
    expect((await cli('diff', path, DEMO_FOLDER)).out).toBe('Storm Frame, worth in Shells: 1300 -> 1400\n');
  });

  test('a pull writes nothing outside of its folder, whatever the service says', async () => {
    const name = '../../escaped.png';
    const lying = createServer((request, response) => {
      const isList = request.url!.endsWith('/pictures');
      const body = isList
        ? { items: [{ name, type: 'image/png', hash: 'x', savedMs: 0, savedBy: 'x' }], next: null }
        : { revision: 1, savedMs: 0, savedBy: 'x', document: { name: 'Mine', timeZone: 'UTC' } };
      const isPicture = request.url!.includes('escaped');
      response.setHeader('Content-Type', isPicture ? 'image/png' : 'application/json');
      response.end(isPicture ? 'picture' : JSON.stringify(body));
    });
    lying.listen(0, '127.0.0.1');
    await once(lying, 'listening');
    const { port } = lying.address() as AddressInfo;
    const path = join(folder.path, 'a', 'b', 'c');
    const { code, err } = await runCli(['--url', `http://127.0.0.1:${port}`, '--token', 'x', 'pull', path]);
    lying.closeAllConnections();
    lying.close();
    expect([code, err]).toEqual([1, expect.stringContaining('no name that a picture can have')]);
    const all = readdirSync(folder.path, { recursive: true, encoding: 'utf8' });
    expect(all.filter((file) => file.includes('escaped'))).toEqual([]);
  });

  test('a pull begins a folder, and a push from what was pulled overwrites nobody', async () => {
    const path = join(folder.path, 'pulled');
    mkdirSync(path);
    expect((await cli('pull', path)).out).toMatch(/^Draft revision 1 is in .*pulled; written: .*items\.yaml/);
    // The order of files is no change.
    expect((await cli('push', path)).out).toMatch(/^Draft revision 1 already holds this: 0 changes\./);
    await cli('edit', 'set', '/items/oak_reel/worth/shells', '210');
    await runCli(['edit', 'set', '/items/drift_frame/carry', '3', '--folder', path]);
    const refused = await cli('push', path, '--from', '1');
    expect([refused.code, refused.err]).toEqual([
      1,
      expect.stringMatching(
        / {2}changed: Oak Reel, worth in Shells: 200 -> 210\n {2}yours: Drift Frame, carry: 1 -> 3\n$/,
      ),
    ]);
    await runCli(['edit', 'set', '/items/oak_reel/worth/shells', '210', '--folder', path]);
    expect((await cli('push', path, '--from', '2')).out).toMatch(/^Draft revision 3 saved: 1 change\./);
    expect((await cli('pull', join(path, 'items.yaml'))).err).toContain('is a file. Name a folder, which may be new.');
  });

  test('a push that is published in one act, or not at all when the audit has errors', async () => {
    const good = copyOfDemo((text) => text.replace('shells: 1400', 'shells: 1250'));
    expect((await cli('push', good, '--publish', 'cheaper')).out).toMatch(/^Release 2 is published on live\.$/m);
    const bad = copyOfDemo((text) => text.replace('Winds in twice as fast.', 'Now 5 shells.'));
    const pushed = await cli('push', bad, '--publish', 'oops');
    expect([pushed.code, pushed.err]).toEqual([1, expect.stringContaining('1 error stands against publishing')]);
    const refused = await cli('publish', '--note', 'oops');
    expect([refused.code, refused.out]).toEqual([
      1,
      expect.stringContaining(
        'error text-states-other-price: Oak Reel at Pier Stall: a text says 5 Shells, and the price is 200 Shells',
      ),
    ]);
  });

  test('every problem of a folder with its file, line and column; nothing is pushed', async () => {
    const path = copyOfDemo((text) =>
      text
        .replace('kind: bundle', 'kind: bundel')
        .replace('worth: { shells: 15 }', 'worth: { shells: -15 }, colour: red'),
    );
    for (const args of [
      ['audit', path],
      ['push', path],
    ]) {
      const { code, out, err } = await cli(...args);
      expect([code, err]).toEqual([1, `3 problems in ${path}\n`]);
      expect(out).toMatch(/items\.yaml:\d+:\d+ {2}Write one of: durable, consumable, timed, bundle, box\./);
      expect(out).toMatch(/unknown-field: items glide_wax: unknown field "colour"/);
      expect(out).toMatch(/bad-amount: items glide_wax: the amount -15 is below zero/);
    }
    expect((await stall.as('read').call('GET /draft')).revision).toBe(1);
  });

  test('the audit of a folder needs no service, and its exit code says whether it may be published', async () => {
    const clean = await runCli(['audit', DEMO_FOLDER]);
    expect([clean.code, clean.out]).toEqual([0, 'Nothing found (1 hint silenced).\n']);
    const path = copyOfDemo(
      (text) => text.replace('gives: glide_wax, count: 5', 'gives: glide_wx, count: 5'),
      'shops.yaml',
    );
    const { code, out } = await runCli(['audit', path]);
    expect(code).toBe(1);
    expect(out).toMatch(
      /error dangling-reference: .*there is no currency or item "glide_wx"\n.*shops\.yaml:\d+:\d+ {2}Did you mean "glide_wax"\?/,
    );
    expect((await runCli(['audit', '--folder', DEMO_FOLDER])).out).toBe((await runCli(['audit', DEMO_FOLDER])).out);
    expect(JSON.parse((await runCli(['schema'])).out)).toMatchObject({ title: 'Economy file' });
    expect((await runCli(['audit', DEMO_FOLDER, '--folder', DEMO_FOLDER])).err).toBe(
      'Name one folder: alone, or with --folder.\n',
    );
  });
});

describe('exit codes and messages', () => {
  test.each([
    [['frobnicate'], 2, /unknown command 'frobnicate'/],
    [['check'], 2, /missing required argument 'offer'/],
    [['check', 'wax_1', '--times', 'many'], 2, /"many" should be a whole number/],
    [['check', 'wax_1', '--player', 'mateo', '--holds', 'shells=5'], 2, /Use one or the other/],
    [['grant', 'mateo', 'shells', '--reason', 'x'], 2, /should look like shells=120/],
    [['grant', 'mateo', 'shells=1.5', '--reason', 'x'], 2, /decimals/],
    [['grant', 'mateo', 'gold=1', '--reason', 'x'], 2, /no currency or item "gold"/],
    [['audit', 'no/such/folder'], 2, /There is no folder "no\/such\/folder"/],
    [['compare', 'a.json', 'b.json'], 2, /There is no file "a\.json"/],
    [['front', 'nowhere'], 1, /There is no shop "nowhere"/],
    [['player', 'nobody'], 1, /There is no player "nobody"/],
    [['--token', 'ds_wrong', 'whoami'], 2, /Give a token with --token/],
    [['--url', 'http://127.0.0.1:9', 'whoami'], 3, /Start it with: dimestall serve/],
  ])('%j ends with %d', async (args, code, message) => {
    const { code: ended, err, out } = await cli(...args);
    expect([ended, out]).toEqual([code, '']);
    expect(err).toMatch(message);
  });

  test('a token that may not is told what it is', async () => {
    const { code, err } = await runCli(['--url', stall.url, '--token', stall.tokens.read, 'publish', '--note', 'x']);
    expect([code, err]).toEqual([2, expect.stringContaining('has the role read; this needs publish')]);
  });

  test('help lists every command', async () => {
    const { out, code } = await runProcess(['--help']);
    expect(code).toBe(0);
    for (const command of [
      'serve',
      'push',
      'pull',
      'audit',
      'diff',
      'publish',
      'front',
      'check',
      'buy',
      'event',
      'grant',
      'player',
      'simulate',
      'compare',
      'demo',
      'verify',
      'token',
      'whoami',
    ])
      expect(out).toMatch(new RegExp(`^ {2}${command} `, 'm'));
  });

  test.each([
    ['csv import', /^Usage: dimestall csv import \[options\] <sheet> <file>/],
    ['edit tiers', /^Usage: dimestall edit tiers /],
    ['audit', /^Usage: dimestall audit /],
    ['serve', /^Usage: dimestall serve [^]*--port/],
  ])('help %s is the help of that command', async (words, help) => {
    const { code, out } = await runProcess(['help', ...words.split(' ')]);
    expect([code, out]).toEqual([0, expect.stringMatching(help)]);
  });

  test('a reader that has seen enough ends it quietly', async () => {
    const child = spawn('sh', ['-c', `"${process.execPath}" "${CLI}" --help | head -n 1`], {
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let err = '';
    child.stderr.on('data', (chunk: Buffer) => {
      err += chunk.toString();
    });
    const simulated = spawn(
      'sh',
      [
        '-c',
        `"${process.execPath}" "${CLI}" simulate racers_only --folder "${DEMO_FOLDER}" --days 3 --players 9 --json | head -c 10`,
      ],
      { stdio: ['ignore', 'pipe', 'pipe'] },
    );
    simulated.stderr.on('data', (chunk: Buffer) => {
      err += chunk.toString();
    });
    await Promise.all([once(child, 'close'), once(simulated, 'close')]);
    expect(err).toBe('');
  });

  test('no colour or control character reaches a pipe', async () => {
    const settings: Record<string, string>[] = [{}, { CI: 'true' }, { FORCE_COLOR: '1', TERM: 'xterm-256color' }];
    for (const env of settings) {
      const { out } = await runProcess(['front', 'pier_stall', '--player', 'mateo'], {
        env: { DIMESTALL_URL: stall.url, DIMESTALL_TOKEN: stall.tokens.admin, ...env },
      });
      expect(out).toContain('can buy');
      expect(out).not.toContain('\u001b');
    }
  });
});

test('the demo comes up with its players, again with its data, and anew when told', async () => {
  const demo = async (...args: string[]) => {
    const child = spawn(process.execPath, [CLI, 'demo', '--port', '0', '--data', folder.path, ...args], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let text = '';
    const way = await new Promise<string>((resolve) =>
      child.stdout.on('data', (chunk: Buffer) => {
        text += chunk.toString();
        const found = /(http\S+)\/#token=(\S+)\n/.exec(text);
        if (found) resolve(found[0]);
      }),
    );
    const [url, token] = way.trim().split('/#token=') as [string, string];
    const stop = async () => {
      const exited = once(child, 'exit');
      child.kill('SIGTERM');
      return (await exited)[0] as number;
    };
    return { text, stop, run: (...words: string[]) => runCli(['--url', url, '--token', token, ...words]) };
  };
  const first = await demo();
  expect(first.text).toMatch(/^Saltwind Cove is set up\./);
  expect((await first.run('player')).out.match(/\n/g)).toHaveLength(7);
  expect((await first.run('buy', 'mateo', 'storm_frame')).code).toBe(0);
  expect((await first.run('check', 'storm_frame', '--player', 'oda')).code).toBe(1);
  expect(await first.stop()).toBe(0);
  const second = await demo();
  expect(second.text).toMatch(/^Saltwind Cove is back/);
  expect((await second.run('player', 'mateo')).out).toContain('Storm Frame');
  // The designer takes something away that a demo player was given: the demo comes back all the same.
  const path = copyOfDemo((text) => text.replace(/ {2}wind_chime:\n.*\n/, ''));
  for (const name of ['shops.yaml', 'texts.yaml', 'cases.yaml']) {
    const file = join(path, name);
    writeFileSync(
      file,
      readFileSync(file, 'utf8')
        .replace(/^ {2}chimes_cost_more:\n(?: {4}.*\n)+/m, '')
        .replace(/.*wind_chime.*\n/g, ''),
    );
  }
  expect((await second.run('push', path, '--publish', 'no chimes')).out).toContain('Release 3 is published on live.');
  expect(await second.stop()).toBe(0);
  expect((await runProcess(['verify', '--data', join(folder.path, 'demo.sqlite')])).out).toMatch(
    /^6 players, \d+ movements, 1 purchase: all agree/,
  );
  const running = await demo();
  const port = /:(\d+)\//.exec(running.text)![1]!;
  const refused = await runProcess(['demo', '--fresh', '--port', port, '--data', folder.path]);
  expect(refused).toMatchObject({
    code: 1,
    err: `Port ${port} is in use. Stop what uses it, or choose another with --port.\n`,
  });
  expect((await running.run('player', 'mateo')).out).toContain('Storm Frame');
  await running.stop();
  const fresh = await demo('--fresh');
  expect((await fresh.run('player', 'mateo')).out).not.toContain('Storm Frame');
  await fresh.stop();
});

test('what would move the cursor, clear the screen or name the window is printed as a mark, and kept in JSON', async () => {
  const name = '\u001b[2J\u001b]0;owned\u0007Oda\u009b31m\rMe \u001b[8mhidden';
  await stall.as('admin').call('POST /players', { body: { id: 'odd', name } });
  const { out } = await cli('player', 'odd');
  expect(out).toContain('Oda');
  // oxlint-disable-next-line no-control-regex
  expect(out).not.toMatch(/[\x00-\x08\x0b-\x1f\x7f-\x9f]/);
  const json = (await cli('player', 'odd', '--json')).out;
  expect(json).toMatch(/^[\x20-\x7e\n]*$/);
  expect((JSON.parse(json) as { name: string }).name).toBe(name);
});

test('serve says when its port is in use, and verify when there is no database', async () => {
  const port = new URL(stall.url).port;
  const { code, err } = await runProcess([
    'serve',
    '--port',
    port,
    '--data',
    join(folder.path, 'x.sqlite'),
    '--log',
    'silent',
  ]);
  expect([code, err]).toEqual([1, `Port ${port} is in use. Stop what uses it, or choose another with --port.\n`]);
  expect(await runProcess(['verify', '--data', join(folder.path, 'none.sqlite')])).toMatchObject({
    code: 1,
    err: expect.stringContaining('There is no database') as string,
  });
});

test('a token made on the command line, beside the service that runs, signs in; it makes no database', async () => {
  const data = join(folder.path, 'stall.sqlite');
  expect(await runProcess(['token', '--data', data])).toMatchObject({
    code: 1,
    err: `There is no database ${data}. Name it with --data.\n`,
  });
  expect(existsSync(data)).toBe(false);
  const served = await startStall({ data, publish: false });
  const made = await runProcess(['token', '--data', data, '--role', 'design', '--name', 'ada']);
  expect((await runCli(['--url', served.url, '--token', made.out.trim(), 'whoami'])).out).toBe(
    'ada, with the role design\n',
  );
  await served.stop();
});

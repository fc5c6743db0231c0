/** Time on the command line: calendar, rotations, channels, releases at set times, history, the player's words. */
import { cpSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DAY, DEMO_FOLDER, HOUR, NOW } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let stall: Stall;
const scratch = scratchFolder();
const cove = join(scratch.path, 'cove');
beforeAll(async () => {
  stall = await startStall();
  cpSync(DEMO_FOLDER, cove, { recursive: true });
});
afterAll(async () => {
  await stall.stop();
  scratch.remove();
});
const cli = (...args: string[]) => runCli([...args, '--url', stall.url, '--token', stall.tokens.admin]);
const iso = (ms: number) => new Date(ms).toISOString();

test('the calendar reads as a table, the same from a folder as from the service', async () => {
  const args = ['calendar', '--from', '2027-03-26', '--to', '2027-03-28', '--shop', 'pier_stall'];
  const { out, code } = await cli(...args);
  expect(code).toBe(0);
  expect(out).toMatchInlineSnapshot(`
   "2027-03-26 00:00 WET to 2027-03-28 00:00 WET

   Pier Stall
   from              until             what
   Fri 26 Mar 00:00  Sun 28 Mar 00:00  sale  Spring Sails: Linen Sail, Ripple Sail, Cotton Sail, Striped Sail and 1 more
   Fri 26 Mar 18:00  Sat 27 Mar 00:00  sale  Linen Evening: Linen Sail
   Sat 27 Mar 00:00  Sun 28 Mar 00:00  sale  Wax Weekend: Glide Wax, Glide Wax x5
   "
  `);
  expect((await runCli([...args, '--folder', cove])).out).toBe(out);
  const json = JSON.parse((await cli(...args, '--json')).out) as { lanes: { entries: { kind: string }[] }[] };
  expect(json.lanes[0]!.entries.map(({ kind }) => kind)).toEqual(['sale', 'sale', 'sale']);
});

test('as iCalendar it goes into a file, and a wrong stretch is wrong use', async () => {
  const { out } = await cli('calendar', '--from', '2027-04-26', '--to', '2027-05-11', '--ics');
  expect(out.startsWith('BEGIN:VCALENDAR\r\n')).toBe(true);
  expect(out).toContain('SUMMARY:End of Ribbons');
  const folder = await runCli(['calendar', '--folder', cove, '--from', '2027-04-26', '--to', '2027-05-11', '--ics']);
  expect(folder.out.match(/BEGIN:VEVENT/g)).toHaveLength(out.match(/BEGIN:VEVENT/g)!.length);
  expect((await cli('calendar', '--from', '2027-03-02', '--to', '2027-03-01')).code).toBe(2);
  const refused = await runCli(['calendar', '--folder', cove, '--from', 'soon']);
  expect([refused.code, refused.err]).toEqual([2, '"soon" is not an instant. Write it as 2027-03-01T09:00.\n']);
});

test('a rotation is looked at, pinned, redrawn, and all of it is taken back', async () => {
  const look = async (...args: string[]) => (await cli('rotation', 'lantern_wagon/tonight', ...args)).out;
  const before = await look();
  expect(before).toMatch(
    /^Tonight at Lantern Wagon \(lantern_wagon\/tonight\), 2027-03-01 09:00 WET to 2027-03-02 09:00 WET\n {2}on show: [^,]+, [^,]+\n$/,
  );
  const pool = ['spiral_tail', 'tide_sail', 'twin_frame', 'wagon_silk', 'wagon_reel'];
  const names = ['Spiral Tail', 'Tide Sail', 'Twin Frame', 'Silk Sail', 'Brass Reel'];
  const absent = names.findIndex((name) => !before.includes(name));
  const pinned = await look('--pin', pool[absent]!, '--why', 'asked for');
  expect(pinned).toContain(`${names[absent]} [pinned]`);
  expect(pinned).toContain(`record 1: pinned ${pool[absent]} by admin: asked for`);
  expect(await look('--undo', '1')).toBe(before);
  const redrawn = await look('--redraw');
  expect(redrawn).toMatch(/record 2: taken out \w+ by admin\n {2}record 3: taken out/);
  await cli('rotation', '--undo', '2');
  expect(await look('--undo', '3')).toBe(before);
  const past = await cli('rotation', 'lantern_wagon/tonight', '--redraw', '--at', '2027-02-01');
  expect([past.code, past.err]).toEqual([2, expect.stringContaining('That period is over')]);
  expect((await cli('rotation', '--redraw')).err).toContain('Name the shelf as SHOP/SHELF');
});

test('a release is set for a time, comes, and is gone back from; channels come and go', async () => {
  await cli('edit', 'set', '/items/oak_reel/worth', '{"shells": 250}');
  const diff = await cli('diff', '--at', '2027-12-01T00:00');
  expect(diff.out).toBe('Oak Reel, worth in Shells: 200 -> 250, from 2027-12-01 00:00 WET\n');
  const set = await cli('publish', '--note', 'dearer', '--at', iso(NOW + HOUR));
  expect(set.out).toBe('Release 2 is set to go live at 2027-03-01 10:00 WET.\n');
  expect((await cli('channel')).out).toMatch(
    /live {3,}1 {2}2027-03-01 09:00 WET {2}admin {2}release 2 at 2027-03-01 10:00 WET \(move 2\)/,
  );
  stall.clock.nowMs = NOW + HOUR;
  expect((await cli('channel', 'live')).out).toMatch(/2 +2 {2}2027-03-01 10:00 WET {2}admin {2}dearer/);
  expect((await cli('channel', 'live', '--back')).out).toBe('The channel live points at release 1.\n');
  expect((await cli('channel', 'phone', '--to', '2', '--at', iso(NOW + DAY))).out).toMatch(
    /^Release 2 is set to go phone at 2027-03-02 09:00/,
  );
  const [{ coming }] = JSON.parse((await cli('channel', '--json')).out).filter(
    ({ name }: { name: string }) => name === 'phone',
  ) as [{ coming: { move: number }[] }];
  expect((await cli('channel', 'phone', '--delete')).err).toMatch(/is in use: release 2 is to come on it/);
  expect((await cli('channel', 'phone', '--cancel', String(coming[0]!.move))).out).toMatch(
    /^Release 2 will not come on phone/,
  );
  expect((await cli('channel', 'phone', '--back')).err).toContain('has never pointed at another release');
  expect((await cli('channel', 'phone', '--to', '2')).code).toBe(0);
  expect((await cli('channel', 'phone', '--delete')).out).toBe('The channel phone is deleted.\n');
  expect((await cli('channel', 'live', '--to', '2', '--back')).code).toBe(2);
  expect((await cli('channel', 'live', '--to', '77')).code).toBe(1);
  const past = await cli('publish', '--note', 'late', '--at', '2027-01-01');
  expect([past.code, past.err]).toEqual([2, expect.stringContaining('is past: it is')]);
});

test('push --publish in a pipeline stops at errors with a list of them by file and line', async () => {
  const items = join(cove, 'items.yaml');
  const good = readFileSync(items, 'utf8');
  writeFileSync(
    items,
    good.replace(
      'carry: 1, worth: { shells: 200 }, description: "Winds',
      'carry: 1, worth: { shells: 0 }, description: "Winds',
    ),
  );
  const refused = await cli('push', cove, '--publish', 'oops');
  expect(refused.code).toBe(1);
  expect(refused.out).toMatch(/error zero-price: Oak Reel at Pier Stall: .*\n {2}.*cove\/\w+\.yaml:\d+:\d+ {2}\w/);
  expect(refused.err).toContain('1 error stands against publishing.');
  writeFileSync(items, good);
  const set = await cli('push', cove, '--publish', 'as it was', '--channel', 'test', '--at', iso(NOW + 2 * DAY));
  expect(set.out).toMatch(/Release \d+ is set to go test at 2027-03-03 09:00 WET\.\n$/);
});

test('history tells who, when and what, and brings back any revision', async () => {
  const list = await cli('history', '--limit', '2');
  expect(list.out.split('\n')[0]).toMatch(/^revision +when +by +why$/);
  expect(list.out.trim().split('\n')).toHaveLength(3);
  expect((await cli('history', '2')).out).toBe(
    'Revision 2, by admin at 2027-03-01 09:00 WET: Oak Reel, worth in Shells: 200 -> 250\n  Oak Reel, worth in Shells: 200 -> 250\n',
  );
  expect((await cli('history', '2', '--back')).out).toMatch(/^Draft revision \d+ is what revision 2 was\.\n$/);
  expect((await stall.as('read').call('GET /draft')).document.items!['oak_reel']!.worth).toEqual({ shells: 250 });
  expect((await cli('history', '999')).err).toContain('There is no revision 999');
});

test("the player's words: the question where it may be bought, the refusals where not", async () => {
  const check = async (holds: string, language: string, ...more: string[]) =>
    (
      await runCli([
        'check',
        'gull_frame',
        '--folder',
        cove,
        '--at',
        '2027-03-01T09:00',
        '--holds',
        holds,
        '--language',
        language,
        ...more,
      ])
    ).out
      .split('\n')
      .filter((line) => line.startsWith('  "'));
  expect(await check('shells=450', 'en')).toEqual(['  "Buy Gull Frame for 450 shells?"']);
  expect(await check('shells=449', 'pt')).toEqual(['  "Faltam-te 1 concha: custa 450 conchas e tens 449 conchas."']);
  expect(await check('shells=900', 'de')).toEqual(['  "Buy Gull Frame for 450 shells?"']);
  const front = await cli('front', 'lantern_wagon', '--attribute', 'level=1', '--language', 'pt');
  expect(front.out).toContain('A carroça para para voadores de nível 2.');
  const sale = await cli('check', 'linen_sail', '--holds', 'shells=60', '--at', '2027-03-26T19:00');
  expect(sale.out).toContain(
    '  sale: Linen Evening, 60 Shells instead of 90 Shells, until 2027-03-27 00:00 WET\n  Spring Sails runs too, and would make it 72 Shells\n',
  );
});

/** The designer's tools on the command line: on a folder with no service, and on the draft of one. */
import { cpSync, existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DEMO_FOLDER } from '../support/economy.js';
import { runCli } from '../support/cli.js';
import { POINT_PNG, scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let scratch: ReturnType<typeof scratchFolder>;
let cove: string;
let stall: Stall;
beforeAll(async () => {
  stall = await startStall();
});
afterAll(() => stall.stop());
beforeEach(() => {
  scratch = scratchFolder();
  cove = join(scratch.path, 'cove');
  cpSync(DEMO_FOLDER, cove, { recursive: true });
});
afterEach(() => scratch.remove());

const file = (name: string) => readFileSync(join(cove, name), 'utf8');
const cli = (...args: string[]) => runCli([...args, '--folder', cove]);
const online = (...args: string[]) => runCli([...args, '--url', stall.url, '--token', stall.tokens.admin]);

test('a reprice of a folder: shown first, then written, comments and the rest untouched', async () => {
  const args = ['edit', 'reprice', '10', '--group', 'festival', '--asset', 'shells', '--round', '5', '--way', 'up'];
  const shown = await cli(...args, '--preview');
  expect(shown.out).toContain('Flag Garland, worth in Shells: 80 -> 90\n');
  expect(shown.out.trim().split('\n').at(-1)).toBe('6 changes; nothing was saved.');
  expect(file('items.yaml')).toBe(readFileSync(join(DEMO_FOLDER, 'items.yaml'), 'utf8'));
  expect((await cli(...args)).code).toBe(0);
  expect(file('items.yaml')).toContain('worth: { shells: 90 }, description: "From your door to the next."');
  expect(file('items.yaml')).toContain('# Frames: one of each, bought once.');
  expect(file('shops.yaml')).toMatch(/wagon_chimes: .*shells: 210/);
  expect(file('shops.yaml')).toContain('# Every morning at nine another two of these eight');
});

test('tiers, duplicating, moving, setting and removing', async () => {
  const tiers = await cli('edit', 'tiers', 'storm_wax', '3:5', '5:12.5');
  expect(tiers.out).toMatch(/Storm Wax x3 at Pier Stall: added\nStorm Wax x5 at Pier Stall: added\n/);
  expect(tiers.out).toContain('Storm Wax x5: 35 shells for each\n');
  await cli('edit', 'move', '/shops/pier_stall/shelves/care/offers/storm_wax_5', '--before', 'wax_1');
  expect(file('shops.yaml').indexOf('storm_wax_5')).toBeLessThan(file('shops.yaml').indexOf('wax_1:'));
  await cli('edit', 'duplicate', '/shops/festival_booth', '--name', 'Second Booth');
  expect(file('shops.yaml')).toContain('name: Second Booth');
  await cli('edit', 'set', '/items/oak_reel/worth', '{"shells": 210}');
  expect(file('items.yaml')).toMatch(/name: Oak Reel.*worth: \{ ?shells: 210 ?\}/s);
  const refused = await cli('edit', 'remove', '/items/old_coin');
  expect([refused.code, refused.err]).toEqual([1, '5 problems; nothing was changed\n']);
  expect(refused.out).toMatch(/loot\.yaml:\d+:\d+ {2}Remove it together with what refers to it/);
  expect((await cli('edit', 'remove', '/items/old_coin', '--mend')).code).toBe(0);
  expect((await runCli(['audit', cove])).out).not.toContain('dangling-reference');
  // What players read of it is gone too.
  expect(file('texts.yaml')).not.toContain('old_coin');
});

test('a price that is set is one line of the file, and a new section a file beside the others', async () => {
  const before = file('items.yaml').split('\n');
  await cli('edit', 'set', '/items/oak_reel/worth/shells', '210');
  expect(
    file('items.yaml')
      .split('\n')
      .filter((line, number) => line !== before[number]),
  ).toEqual([expect.stringMatching(/^ {4}\{ name: Oak Reel, .*worth: \{ shells: 210 \}/)]);
  rmSync(join(cove, 'balance.yaml'));
  // From wherever it is asked.
  const target = '{"name": "No flood", "measure": "net-flow", "currency": "shells", "to": 5}';
  const set = ['edit', 'set', '/targets/no_flood', target, '--folder', cove];
  expect((await runCli(set, { cwd: scratch.path })).out).toContain('written: cove/balance.yaml.');
  expect(file('balance.yaml')).toContain('  no_flood:\n    name: No flood\n');
  expect(existsSync(join(scratch.path, 'balance.yaml'))).toBe(false);
});

test('a file that is not UTF-8 is told with its line, and left as it is', async () => {
  const bytes = Buffer.from('groups:\n  caf: { name: Caf\u00e9 }\n', 'latin1');
  writeFileSync(join(cove, 'GROUPS.YML'), bytes);
  const refused = await cli('edit', 'set', '/items/oak_reel/worth/shells', '210');
  expect([refused.code, refused.err]).toEqual([
    2,
    `"${join(cove, 'GROUPS.YML')}" is not UTF-8 in line 2. Save it as UTF-8, and try again.\n`,
  ]);
  expect(readFileSync(join(cove, 'GROUPS.YML'))).toEqual(bytes);
  writeFileSync(join(cove, 'GROUPS.YML'), bytes.toString('latin1'));
  expect((await runCli(['audit', cove])).out).not.toContain('UTF-8');
});

test('wrong use is told with the way out', async () => {
  expect(await cli('edit', 'reprice', 'much', '--group', 'frames')).toMatchObject({ code: 2 });
  expect((await cli('edit', 'reprice', '10')).err).toMatch(/Say which prices/);
  expect((await cli('edit', 'tiers', 'storm_wax', 'three')).err).toMatch(/such as 5:10/);
  expect((await cli('edit', 'tiers', 'storm_wx', '3:5')).err).toMatch(/There is no offer "storm_wx"/);
  expect((await cli('odds', 'oak_reel')).err).toMatch(/no loot table or box "oak_reel"/);
  expect(await cli('where', 'kite', 'oak_reel')).toMatchObject({ code: 2 });
  expect((await cli('csv', 'export', 'kites')).err).toMatch(/Sheets: items, offers, loot, currencies, groups, stores/);
});

test('a sheet goes out, is worked on, and comes back; a slip is told by file, line and column', async () => {
  const out = join(scratch.path, 'offers.csv');
  await cli('csv', 'export', 'offers', '--out', out);
  expect((await cli('csv', 'import', 'offers', out)).out).toBe(
    '68 rows read, 0 of them new\n0 changes; nothing to write.\n',
  );
  writeFileSync(out, readFileSync(out, 'utf8').replace('glide_wax,5,65 shells', 'glide_wax,5,66 shells'));
  expect((await cli('csv', 'import', 'offers', out, '--preview')).out).toContain(
    'Glide Wax x5 at Pier Stall: 65 -> 66 Shells\n',
  );
  writeFileSync(out, 'shop,shelf,id,gives,price\npier_stall,care,wax_9,glide_wax,a lot\n');
  const wrong = await cli('csv', 'import', 'offers', out);
  expect([wrong.code, wrong.out]).toEqual([
    1,
    `${out}:2 price: "a lot" should be an amount and an id, such as 900 shells or 2.50 pearls\n`,
  ]);
});

test('odds, uses, flows and money read as tables', async () => {
  expect((await cli('odds', 'rare_finds')).out).toMatchInlineSnapshot(`
"Rare finds: 1 pick an opening; nothing at all: 0%
comet_tail: once for each player; the long run is of the openings after that
asset       chance  expected  long-run chance  long-run expected  openings: mean  50%  90%  99%
Old Coin       60%       0.6          66.667%            0.66667          1.6667    1    3    6
Star Charm     30%       0.3          33.333%            0.33333          3.3333    2    7   13
Comet Tail     10%       0.1               0%                  0              10    7   22   44
"
`);
  expect((await cli('where', 'asset', 'brass_key')).out).toBe(
    'case The wagon serves nobody below level 2, steps 2 expect holds Brass Key  /cases/wagon_level/steps/2/expect/holds/brass_key\n' +
      'case A tide crate needs a key, which stays in the lock, player holds Brass Key  /cases/crate_opens/player/holds/brass_key\n' +
      'case A tide crate needs a key, which stays in the lock, steps 0 expect holds Brass Key  /cases/crate_opens/steps/0/expect/holds/brass_key\n' +
      'Tide Crate, opensWith item  /items/tide_crate/opensWith/item\nBrass Key at Lantern Wagon, gives  /shops/lantern_wagon/shelves/crates/offers/brass_key/gives\n',
  );
  expect(await cli('where', 'item', 'brass_key')).toEqual(await cli('where', 'asset', 'brass_key'));
  expect((await cli('flow', 'ribbon')).err).toBe('There is no currency or item "ribbon". Did you mean "ribbons"?\n');
  expect((await cli('flow', 'ribbons')).out).toContain('  currency Ribbons: what is left when it ends\n');
  expect((await cli('money')).out).toMatch(
    /pearls_55 +harbour_store +cove_pearls_55 +EUR 4\.99 +EUR 0\.94 +EUR 1\.22 +EUR 2\.83/,
  );
  const set = async (...assets: string[]) => cli('odds', 'drift_finds', '--together', ...assets);
  expect((await set('sea_glass', 'sea_glass', 'driftwood')).out).toBe((await set('sea_glass', 'driftwood')).out);
  expect((await set('sea_glas')).err).toMatch(/no currency or item "sea_glas"\. Did you mean "sea_glass"\?/);
  const eleven = Array.from({ length: 11 }, () => 'driftwood');
  expect((await set(...eleven)).err).toMatch(/11 assets in the set, more than 10\. Name 10 at the most/);
  const json = JSON.parse((await runCli(['odds', 'rare_finds', '--folder', cove, '--json'])).out) as {
    assets: object[];
  };
  expect(json.assets).toHaveLength(3);
});

test('safe ways out are taken, hints silenced, and the rules told', async () => {
  const faulty = join(scratch.path, 'faulty');
  cpSync(join(DEMO_FOLDER, '../faulty'), faulty, { recursive: true });
  // A folder from before a field was renamed is read after it.
  const loot = join(faulty, 'loot.yaml');
  writeFileSync(loot, readFileSync(loot, 'utf8').replaceAll('picks:', 'rolls:'));
  expect((await runCli(['audit', faulty])).out).toContain('"rolls" is called "picks" now');
  const { out } = await runCli(['audit', faulty, '--mend']);
  expect(out).toContain('mended /loot/drift_finds/rolls: it is called "picks" now\n');
  expect(readFileSync(loot, 'utf8')).not.toContain('rolls');
  expect(out).toContain('mended dangling-reference: commet_tail at Pier Stall: write comet_tail for commet_tail\n');
  expect(readFileSync(join(faulty, 'shops.yaml'), 'utf8')).not.toContain('commet_tail');
  await runCli(['silence', 'missing-text', '/items/dew_charm', 'Its picture comes in spring.', '--folder', faulty]);
  expect((await runCli(['audit', faulty])).out).not.toContain('missing-text');
  expect((await runCli(['audit', faulty, '--all'])).out).toContain('missing-text');
  expect((await runCli(['audit', '--rules'])).out).toMatch(/money-loop +error +A circle of buying/);
});

test('the same tools on the draft of a service, and what players do', async () => {
  expect(await online('edit', 'reprice', '100', '--id', 'sea_salt')).toEqual({
    code: 0,
    out: 'Sea Salt, worth in Shells: 8 -> 16\nDraft revision 2 saved: 1 change.\n',
    err: '',
  });
  expect((await online('csv', 'export', 'currencies')).out).toMatch(/^id,symbol,name/);
  expect(
    (await online('odds', 'rare_finds', '--set', '/loot/rare_finds/entries/comet_tail/weight=91', '--source', 'draft'))
      .out,
  ).toMatch(/Comet Tail +91%/);
  expect((await online('flow', 'ribbons', '--source', 'live')).out).toMatch(/Festival Crate at Festival Booth/);
  await stall.as('admin').call('POST /players', { body: { id: 'ines' } });
  await stall.as('admin').call('POST /players/{player}/grants', {
    params: { player: 'ines' },
    body: { gives: { old_coin: 2, storm_wax: 1, drift_crate: 1, pilot_licence: 1 }, reason: 'test' },
    key: 'w',
  });
  expect((await online('sell', 'ines', 'old_coin', 'pier_stall', '--times', '2')).out).toBe(
    'Sold 2 Old Coin\n  takes: 2 Old Coin\n  gives: 50 Shells\n',
  );
  expect((await online('use', 'ines', 'pilot_licence')).out).toBe("Used Pilot's Licence\n  pilot is now true\n");
  const short = await online('use', 'ines', 'storm_wax', '--times', '4');
  expect([short.code, short.out]).toEqual([1, 'Refused: use 4 Storm Wax\n  not-held: Storm Wax: 4 wanted, 3 held.\n']);
  expect((await online('open', 'ines', 'drift_crate')).out).toMatch(/^Opened Drift Crate\n {2}takes: 1 Drift Crate\n/);
  expect((await online('collect', 'ines', 'mussel_rope')).code).toBe(1);
});

test('pictures travel with the folder', async () => {
  const picture = join(scratch.path, 'reel.png');
  writeFileSync(picture, POINT_PNG);
  expect((await online('picture', 'put', picture)).out).toBe('Uploaded: write icon: pictures/reel.png\n');
  const fresh = join(scratch.path, 'fresh');
  await online('pull', fresh);
  expect(readFileSync(join(fresh, 'pictures', 'reel.png')).equals(POINT_PNG)).toBe(true);
  await online('picture', 'remove', 'reel.png');
  expect((await online('push', fresh)).out).toContain('Pictures sent: reel.png.');
  expect((await online('picture', 'list')).out).toMatch(/reel\.png +image\/png/);
  expect(existsSync(join(fresh, 'loot.yaml'))).toBe(true);
  const wrong = await online('picture', 'put', join(fresh, 'loot.yaml'));
  expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining("cannot be a picture's name") as string]);
});

test('real money is shown as what it costs, never as free', async () => {
  const { out, code } = await runCli(['check', 'pearls_55', '--folder', DEMO_FOLDER]);
  expect(code).toBe(1);
  expect(out).toContain('  price: EUR 4.99 or USD 5.49\n');
  expect(out).toContain('receipt-needed: It is bought with real money (EUR 4.99, USD 5.49)');
  const front = await online('front', 'pearl_counter');
  expect(front.out).toMatch(/pearls_10 +Handful of pearls +EUR 0\.99 or USD 1\.09/);
  expect(front.out).not.toContain('free');
});

/** demo/faulty is the demo with faults planted in it: the audit must find each, where it is, with a way to mend it. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { documentMend, economyAudit } from '../../src/core/audit/index.js';
import { economyLoad } from '../../src/core/economy/index.js';
import { runCli } from '../support/cli.js';

const FOLDER = join(__dirname, '../../demo/faulty');
const files = readdirSync(FOLDER).map((path) => ({ path, text: readFileSync(join(FOLDER, path), 'utf8') }));
const { document, placeOf } = economyLoad(files);
const findings = economyAudit(document!, { placeOf });

/** The code, and words that stand in the line that the finding points at. */
const PLANTED: [code: string, file: string, line: RegExp][] = [
  ['no-price', 'shops.yaml', /heron_frame: /],
  ['zero-price', 'shops.yaml', /sea_salt: .*shells: 0/],
  ['price-formula-fails', 'shops.yaml', /=100 - 150 \* level/],
  ['price-above-cap', 'shops.yaml', /twin_frame: /],
  ['price-unreachable', 'shops.yaml', /silk_sail: .*tickets/],
  ['own-once-never-buyable', 'shops.yaml', /bell_tail: .*count: 2/],
  ['never-on-show', 'shops.yaml', /festival_drum: .*2027-06-01/],
  ['text-states-other-price', 'items.yaml', /Only 30 shells/],
  ['own-once-stays-buyable', 'items.yaml', /moth_frame:/],
  ['money-loop', 'shops.yaml', /drift_frame: /],
  ['buyback-at-cost', 'shops.yaml', /buyback: .*rate: 1,/],
  ['tier-unit-price-rises', 'shops.yaml', /wax_10: /],
  ['bundle-dearer-than-parts', 'shops.yaml', /racer_kit: .*790/],
  ['circular-table', 'loot.yaml', /again: .*drift_finds/],
  ['weight-not-positive', 'loot.yaml', /comet_tail: .*weight: 0/],
  ['key-unobtainable', 'items.yaml', /opensWith: \{ item: brass_key \}/],
  ['dangling-reference', 'shops.yaml', /commet_tail/],
  ['wish-never-sold', 'players.yaml', /comet_tail/],
  ['circular-bundle', 'items.yaml', /first_flight_kit: 1/],
  ['earning-loop', 'players.yaml', /harbour_race_given_up:/],
  ['limit-never-binds', 'shops.yaml', /lifetime: 1, day: 3/],
  ['missing-text', 'items.yaml', /name: Dew Charm|dew_charm:/],
  ['product-missing', 'shops.yaml', /cove_pearls_55 \}/],
  ['loot-own-once', 'loot.yaml', /sash: /],
  ['price-after-end', 'shops.yaml', /festival_crate: /],
  ['currency-without-source', 'currencies.yaml', /tickets:/],
  ['item-unobtainable', 'items.yaml', /brass_key:/],
  ['silence-without-effect', 'economy.yaml', /missing-text \/items\/oak_reel/],
];

test.each(PLANTED)('%s is found in %s, in its line, with a way out', (code, file, line) => {
  const found = findings.filter((finding) => finding.code === code && finding.place?.file === file);
  const lines = files.find(({ path }) => path === file)!.text.split('\n');
  expect(found.map(({ place }) => lines[place!.line - 1])).toEqual(expect.arrayContaining([expect.stringMatching(line)]));
  for (const { fix, message } of found) expect(Math.min(fix.length, message.length)).toBeGreaterThan(8);
});

test('nothing is found that was not planted', () => {
  expect([...new Set(findings.filter(({ silenced }) => !silenced).map(({ code }) => code))].sort()).toEqual(
    [...new Set(PLANTED.map(([code]) => code))].sort(),
  );
});

test('what can be mended without asking is mended, and brings nothing new', () => {
  const { document: after, mended } = documentMend(document!);
  expect(mended.length).toBeGreaterThanOrEqual(5);
  const left = economyAudit(after);
  expect(left.filter(({ mend, silenced }) => mend && !silenced)).toEqual([]);
  const before = new Set(findings.map(({ code }) => code));
  expect(left.filter(({ code }) => !before.has(code))).toEqual([]);
});

test('the command line lists them with file, line and column, and says that it may not be published', async () => {
  const { code, out } = await runCli(['audit', FOLDER]);
  expect(code).toBe(1);
  expect(out).toMatch(/error money-loop: Shells: a circle that gains 45 Shells a round/);
  expect(out).toMatch(/shops\.yaml:\d+:\d+ {2}Raise a price/);
  expect(out.trim().split('\n').at(-1)).toMatch(/^\d+ errors, \d+ warnings, \d+ hints \(1 hint silenced\)$/);
});

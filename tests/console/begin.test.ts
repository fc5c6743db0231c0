/** What an empty stall offers to begin with; docs/from-nothing.md goes on from there. */
import { mkdtempSync, readFileSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import type { Browser, Page } from 'playwright-core';
import { economyAudit } from '../../src/core/audit/index.js';
import { economyLoad } from '../../src/core/economy/index.js';
import { launch, openConsole } from '../support/browser.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const STARTERS = join(__dirname, '../../demo/starters');
const starters = readdirSync(STARTERS);
const filesOf = (starter: string) =>
  readdirSync(join(STARTERS, starter)).map((path) => ({
    path,
    text: readFileSync(join(STARTERS, starter, path), 'utf8'),
  }));

test('the small economies to begin with are three, and nothing is found in any', () => {
  expect(starters).toHaveLength(3);
  for (const starter of starters) {
    const { document, issues } = economyLoad(filesOf(starter));
    expect([starter, issues, economyAudit(document!)]).toEqual([starter, [], []]);
  }
});

describe('an empty stall', () => {
  let browser: Browser;
  let stall: Stall;
  let page: Page;
  beforeAll(async () => {
    browser = await launch();
  });
  afterAll(() => browser.close());
  beforeEach(async () => {
    stall = await startStall({ publish: false });
    ({ page } = await openConsole(browser, stall, '/overview'));
  });
  afterEach(async () => {
    for (const context of browser.contexts()) await context.close();
    await stall.stop();
  });
  const draft = async () => (await stall.as('read').call('GET /draft')).document;
  const step = (words: string) => page.getByRole('listitem').filter({ hasText: words });

  test('begins with a small one, which is published in two steps', async () => {
    await page.getByRole('button', { name: 'Begin with: A pier stall' }).click();
    await page.getByRole('heading', { name: 'A pier stall' }).waitFor();
    await step('How players earn').getByText('(done)').waitFor();
    await page.getByRole('link', { name: 'Publish', exact: true }).last().click();
    await page.getByLabel(/^Note/).fill('Open');
    await page.getByRole('button', { name: 'Publish to live' }).click();
    await page.getByText('release 1 is live').waitFor();
    await page.getByRole('link', { name: 'Overview' }).click();
    await page.getByRole('heading', { name: 'In the stall' }).waitFor();
    await page.getByRole('heading', { name: 'The way to a first shop' }).waitFor({ state: 'detached' });
  });

  test('begins with a zip of a folder; one that is too large or leads outside is refused before it is unpacked', async () => {
    const files = page.getByLabel('Choose files');
    const zipped = (entries: Record<string, string>, name = 'cove.zip') => ({
      name,
      mimeType: 'application/zip',
      buffer: Buffer.from(
        zipSync(Object.fromEntries(Object.entries(entries).map(([path, text]) => [path, strToU8(text)]))),
      ),
    });
    await files.setInputFiles([zipped({ '../../etc/cove.yaml': 'name: Cove\n' })]);
    await page.getByRole('alert').filter({ hasText: 'which leads outside of it' }).waitFor();
    // Twelve million blanks are a few kilobytes when packed.
    await files.setInputFiles([zipped({ 'a.yaml': ' '.repeat(7_000_000), 'b.yaml': ' '.repeat(7_000_000) })]);
    await page.getByRole('alert').filter({ hasText: 'come to 14 MB; 12 MB are the most' }).waitFor();
    const huge = join(mkdtempSync(join(tmpdir(), 'dimestall-')), 'huge.zip');
    writeFileSync(huge, '');
    truncateSync(huge, 200_000_000);
    await files.setInputFiles(huge);
    await page.getByRole('alert').filter({ hasText: 'huge.zip has 200 MB; 20 MB are the most' }).waitFor();
    rmSync(dirname(huge), { recursive: true });
    await files.setInputFiles([{ name: 'a.zip', mimeType: 'application/zip', buffer: Buffer.from('PK, or so') }]);
    await page.getByRole('alert').filter({ hasText: 'cannot be unpacked' }).waitFor();
    expect((await draft()).name).toBe('New economy');
    const folder = Object.fromEntries(filesOf('1-pier-stall').map(({ path, text }) => [`cove/${path}`, text]));
    await files.setInputFiles([
      zipped({ ...folder, '__MACOSX/cove/._shops.yaml': 'nothing: [', 'cove/readme.txt': 'x' }),
    ]);
    await page.getByRole('heading', { name: 'A pier stall' }).waitFor();
    expect(Object.keys((await draft()).shops!)).toContain('pier_stall');
  });

  test('begins with files that are there; what they hold wrong is told with its place', async () => {
    const files = page.getByLabel('Choose files');
    const named = (name: string, text: string) => ({ name, mimeType: 'text/yaml', buffer: Buffer.from(text) });
    await files.setInputFiles([named('a.yaml', 'name: Cove\ntimeZone: Moon/Base\n')]);
    await page.getByRole('alert').filter({ hasText: 'is not a time zone' }).waitFor();
    await files.setInputFiles([named('picture.txt', 'x')]);
    await page.getByRole('alert').filter({ hasText: 'None of these is a YAML or JSON file' }).waitFor();
    await files.setInputFiles(filesOf('3-wind-festival').map(({ path, text }) => named(path, text)));
    await page.getByRole('heading', { name: 'A wind festival' }).waitFor();
    expect(Object.keys((await draft()).shops!)).toContain('festival_booth');
  });
});

/** Logs of a game in the browser: personas and replays from a file, which stays there. */
import { readFileSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { Browser, Page } from 'playwright-core';
import { packageRoot } from '../../src/service/index.js';
import { launch, openConsole, pick } from '../support/browser.js';
import type { Visit } from '../support/browser.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
let folder: ReturnType<typeof scratchFolder>;
let visit: Visit;
beforeAll(async () => {
  browser = await launch();
});
afterAll(() => browser.close());
beforeEach(async () => {
  stall = await startStall();
  folder = scratchFolder();
});
afterEach(async () => {
  expect(visit.complaints).toEqual([]);
  await visit.page.close();
  await stall.stop();
  folder.remove();
});

/** What some of the players of the demo's log did in its first week. */
const lines = gunzipSync(readFileSync(join(packageRoot(), 'demo/log/saltwind-cove.ndjson.gz')))
  .toString()
  .split('\n')
  .filter((line) => /"p[0-9]?[0-9]?[05]"/.test(line) && /"2027-02-0[1-7]/.test(line));

async function choose(page: Page, name: string, text: string): Promise<void> {
  const file = join(folder.path, name);
  writeFileSync(file, text);
  await page.getByLabel('Log file').setInputFiles(file);
  await page.getByText(name).waitFor();
}

test('personas of a log go into the draft in one step, are played on the bench, and are taken back', async () => {
  visit = await openConsole(browser, stall, '/simulate');
  const { page } = visit;
  await page.getByRole('link', { name: 'From a log' }).click();
  await choose(page, 'week.ndjson', lines.join('\n'));
  await pick(page, 'Groups by', 'platform');
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  await page.getByText(/players, .* events and .* purchases in 7 days: 2 groups\./).waitFor();
  const phone = page.getByRole('table', { name: 'phone against players held out' });
  expect(await phone.getByRole('row', { name: /^sessions a day \d/ }).count()).toBe(1);
  expect(await phone.getByRole('row', { name: /^leave, .* %/ }).count()).toBe(1);
  expect(await page.getByRole('table', { name: 'phone: what events say' }).innerText()).toMatch(
    /Beach walk: finds\s+\d.*Poisson, mean 2\.5/s,
  );
  await page.getByRole('button', { name: 'Put into the draft' }).click();
  await page.getByRole('link', { name: 'Play it on the bench' }).click();
  await page.getByRole('combobox', { name: 'Scenario' }).getByText('As in the log').waitFor();
  await page.getByText(/\d+ of \d+ players; .* events/).waitFor();
  const draft = async () => (await stall.as('read').call('GET /draft')).document;
  expect(Object.keys((await draft()).personas!)).toEqual(expect.arrayContaining(['fitted_phone', 'fitted_desktop']));
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('combobox', { name: 'Scenario' }).getByText('First month').waitFor();
  await page.getByText('draft 3', { exact: true }).waitFor();
  expect(Object.keys((await draft()).personas!)).toEqual(['daydreamer', 'weekender', 'racer', 'patron']);
});

test('a replay tells broken lines first, then what is refused and why; it is saved as a table', async () => {
  visit = await openConsole(browser, stall, '/simulate?view=replay');
  const { page } = visit;
  await choose(
    page,
    'bought.csv',
    [
      'player,at,offer,paid.shells,attribute.level',
      'oda,2027-03-01T10:00,drift_frame,150,2',
      'oda,some day,drift_frame,150,2',
      'mateo,2027-03-03T10:00,storm_frame,1000,2',
      '',
    ].join('\n'),
  );
  await page.getByRole('button', { name: 'Replay', exact: true }).click();
  await page.getByText('1 line cannot be read; nothing was done.').waitFor();
  await page.getByText('line 3: "some day" is no instant').waitFor();
  await page.getByRole('button', { name: 'Leave them out' }).click();
  await page.getByText('1 would be refused').waitFor();
  expect(await page.getByText(/line 4, mateo, Storm Frame: It needs level >= 3/).count()).toBe(1);
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save each as CSV' }).click(),
  ]);
  expect(readFileSync(await saved.path(), 'utf8').split('\r\n')[2]).toMatch(
    /^4,mateo,.*,storm_frame,refused,1000 shells,/,
  );
});

test('a log of another game, a torn one and one that is too large say so, and nothing hangs', async () => {
  visit = await openConsole(browser, stall, '/simulate?view=fit');
  const { page } = visit;
  await page.getByRole('button', { name: 'Replay purchases' }).click();
  await page.getByLabel('of this service').check();
  await page.getByRole('button', { name: 'Replay', exact: true }).click();
  await page.getByText('Nothing was bought from this service yet.').waitFor();
  await page.getByRole('button', { name: 'Fit personas' }).click();
  const fit = page.getByRole('button', { name: 'Fit', exact: true });
  await choose(page, 'other.csv', 'player,at,event\noda,2027-03-01,dive\n');
  await fit.click();
  await page.getByText(/so it may be of another game\. In the log: dive/).waitFor();
  const torn = join(folder.path, 'torn.ndjson.gz');
  writeFileSync(torn, readFileSync(join(packageRoot(), 'demo/log/saltwind-cove.ndjson.gz')).subarray(0, 5000));
  await page.getByLabel('Log file').setInputFiles(torn);
  await fit.click();
  await page.getByText('It cannot be unpacked: what gzip packed is not whole.').waitFor();
  const large = join(folder.path, 'large.csv');
  writeFileSync(large, '');
  truncateSync(large, 201e6);
  await page.getByLabel('Log file').setInputFiles(large);
  await page.getByText('This file has 201 MB; 200 MB are the most.').waitFor();
  expect(await fit.isDisabled()).toBe(true);
});

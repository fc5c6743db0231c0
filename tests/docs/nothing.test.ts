/** docs/from-nothing.md, followed in the console by hand, and on the command line by its commands. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { packageRoot } from '../../src/service/index.js';
import { launch, openConsole, pick } from '../support/browser.js';
import { scratchFolder, startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';
import { tourSteps } from '../support/tour.js';

const docs = (path: string) => readFileSync(join(packageRoot(), 'docs', path), 'utf8');

let browser: Browser;
let clicked: Stall;
let typed: Stall;
beforeAll(async () => {
  browser = await launch();
  [clicked, typed] = [await startStall({ publish: false }), await startStall({ publish: false })];
});
afterAll(async () => {
  await browser.close();
  await clicked.stop();
  await typed.stop();
});
const draftOf = async (stall: Stall) => (await stall.as('read').call('GET /draft')).document;

test('the commands give what the page says', async () => {
  const folder = scratchFolder();
  const path = `${join(packageRoot(), 'script')}:${process.env['PATH']}`;
  const env = { ...process.env, PATH: path, DIMESTALL_URL: typed.url, DIMESTALL_TOKEN: typed.tokens.admin };
  const steps = tourSteps(docs('from-nothing.md'));
  expect(steps).toHaveLength(4);
  for (const { command, output } of steps) {
    const child = spawn('bash', ['-c', command], { cwd: folder.path, env, stdio: ['ignore', 'pipe', 'inherit'] });
    let said = '';
    child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
    await once(child, 'close');
    expect(`$ ${command}\n${said.trim()}`).toBe(`$ ${command}\n${output}`);
  }
  folder.remove();
});

test('the console comes to the same economy, without an id, a key or JSON', async () => {
  const { page, complaints } = await openConsole(browser, clicked, '/overview');
  page.on('response', (response) => {
    if (response.status() >= 400) complaints.push(`${response.status()} ${response.url()}`);
  });
  const enter = async (label: string, text: string, from: Pick<Page, 'getByLabel'> = page) => {
    await from.getByLabel(label, { exact: true }).last().fill(text);
    await page.keyboard.press('Enter');
  };
  const room = (name: string) => page.getByRole('link', { name, exact: true }).first().click();
  const section = (name: string) =>
    page.getByRole('navigation', { name: 'Sections' }).getByRole('button', { name }).click();
  const heading = (name: string) => page.getByRole('heading', { name, exact: true }).waitFor();
  // 1 and 2. The whole, and two currencies.
  await enter('Name', 'Saltwind Cove');
  await enter('Time zone', 'lisbon');
  await page.getByRole('link', { name: 'A currency' }).click();
  await enter("New currency's name", 'Shells');
  await heading('Shells');
  await enter('New players have', '60');
  await enter("New currency's name", 'Pearls');
  await heading('Pearls');
  await pick(page, 'Sold for money', 'yes');
  // 3. Six items.
  await page.getByRole('tab', { name: 'Items' }).click();
  await page.getByRole('button', { name: 'CSV and paste ...' }).click();
  await page.getByLabel(/or paste rows/).fill(docs('tutorial/first-items.csv'));
  await page.getByRole('button', { name: 'Bring in 6 changes' }).click();
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  // 4. On the shelf.
  await room('Shops');
  await page.getByRole('tab', { name: 'Arrange' }).click();
  await enter("New shop's name", 'Pier Stall');
  await heading('Shop: Pier Stall');
  await enter("New shelf's name", 'On the pier');
  for (const [begun, name] of [
    ['drift', 'Drift Frame'],
    ['gull', 'Gull Frame'],
    ['linen', 'Linen Sail'],
    ['chime', 'Wind Chime'],
    ['wax', 'Glide Wax'],
    ['moon', 'Moon Lantern'],
  ] as const) {
    await enter('Item to offer', begun);
    await heading(`Offer: ${name}`);
  }
  // 5. A sale.
  await room('Calendar');
  await enter("New sale's name", 'Opening Days');
  await enter('Percent off', '20');
  await enter('From', '2027-03-01');
  await enter('Until', '2027-03-08');
  // 6. An event, and what it pays.
  await room('Earning');
  await section('Events');
  await enter("New event's name", 'Race finished');
  await enter('Fields: add a name', 'place');
  await section('Earning rules');
  await enter("New earning rule's name", 'Race prize');
  await enter('Gives: Shells', '=if(place == 1, 30, 12)');
  // 7. What they work towards, alone and together.
  await section('Attributes');
  await enter("New attribute's name", 'Flyer level');
  await enter('New players have', '1');
  await section('Goals');
  await enter("New goal's name", 'Five races');
  await enter('Target', '5');
  await enter('Gives: add a currency or item', 'shells');
  await enter('Gives: Shells', '20');
  await section('Tracks');
  await enter("New track's name", 'Flyer');
  await page.getByRole('button', { name: 'Add level 3' }).click();
  await enter('Level 3: costs', '150');
  await enter('Level 3: gives', '1 pearls');
  await section('Teams');
  await enter("New kind of team's name", 'Crew');
  await section('Rankings');
  await enter("New ranking's name", 'Fullest purse');
  // 8 and 9. Who plays what, and for how long.
  await room('Simulate');
  await room('Who plays');
  await section('Activities');
  await enter("New activity's name", 'Harbour race');
  await enter('Reports: add an event', 'race');
  await enter('Race finished: place', '1-5');
  await section('Personas');
  await enter("New persona's name", 'Weekender');
  await pick(page, 'Way of spending', 'saves for wishes');
  for (const wish of ['linen', 'drift', 'gull']) await enter('Wishes: add an item', wish);
  await section('Scenarios');
  await enter("New scenario's name", 'First days');
  await enter('Begins', '2027-03-01');
  await enter('Days', '10');
  await page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
  expect(await draftOf(clicked)).toEqual(await draftOf(typed));
  // 10. Live, a first team, and a first run.
  await room('Publish');
  await page.getByLabel(/^Note/).fill('Open');
  await page.getByRole('button', { name: 'Publish to live' }).click();
  await page.getByText('release 1 is live').waitFor();
  await room('Earning');
  await section('Teams');
  await page.getByRole('gridcell', { name: 'crew, name: Crew' }).click();
  await page.getByRole('button', { name: 'Open crew' }).click();
  await enter("New team's name", 'The Gulls');
  await page.getByRole('region', { name: 'The Gulls' }).getByText('0 of 20 members').waitFor();
  await room('Simulate');
  await page.getByText(/3,024 events, 301 purchases/).waitFor();
  // A sale that begins behind its end is refused until the end is written.
  expect(complaints.filter((one) => !/\b422\b/.test(one))).toEqual([]);
});

/** docs/tutorial.md, followed to the letter: its command-line half by its commands, its console half in a browser. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import type { EconomyDocument } from '../../src/core/economy/index.js';
import { packageRoot } from '../../src/service/index.js';
import { launch, pick } from '../support/browser.js';
import { Tour, timeless, tourSteps } from '../support/tour.js';

const docs = (path: string) => readFileSync(join(packageRoot(), 'docs', path), 'utf8');
const tutorial = docs('tutorial.md');

let browser: Browser;
const typed = new Tour();
const clicked = new Tour();
beforeAll(async () => {
  browser = await launch();
  await Promise.all([typed.greeting, clicked.greeting]);
});
afterAll(async () => {
  await browser.close();
  await typed.stop();
  await clicked.stop();
});

const draftOf = async (tour: Tour): Promise<EconomyDocument> => {
  const [url, token] = (await tour.link()).split('/#token=') as [string, string];
  const response = await fetch(`${url}/api/v1/draft`, { headers: { Authorization: `Bearer ${token}` } });
  return ((await response.json()) as { document: EconomyDocument }).document;
};

test('the command line gives what the tutorial says', async () => {
  const steps = tourSteps(tutorial.slice(tutorial.indexOf('## On the command line')));
  expect(steps.length).toBeGreaterThan(15);
  for (const { command, output } of steps)
    expect(`$ ${command}\n${timeless(await typed.run(command))}`).toBe(`$ ${command}\n${timeless(output)}`);
}, 120_000);

test('the console, as the tutorial tells it, comes to the same economy', async () => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(15_000);
  await page.goto(await clicked.link());
  const room = (name: string) => page.getByRole('link', { name, exact: true }).click();
  const tab = (name: string) => page.getByRole('tab', { name }).click();
  const enter = async (label: string, text: string) => {
    await page.getByLabel(label, { exact: true }).fill(text);
    await page.keyboard.press('Enter');
  };
  const bringIn = async (sheet: string, count: number) => {
    await page.getByRole('button', { name: 'CSV and paste ...' }).click();
    await page.getByLabel(/or paste rows/).fill(docs(`tutorial/${sheet}.csv`));
    await page.getByRole('button', { name: `Bring in ${count} changes` }).click();
    await page.getByRole('dialog').waitFor({ state: 'detached' });
  };
  const saved = () => page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();

  // 1. A group, and ten items.
  await room('Catalog');
  await tab('Groups');
  await enter("New group's name", 'Gale');
  await enter('name', 'Gale week');
  await tab('Items');
  await bringIn('items', 10);
  // 2. A shelf, offers, tiers.
  await room('Shops');
  await tab('Arrange');
  await enter("New shelf's name", 'Gale');
  await enter('name', 'Gale week');
  await room('Catalog');
  await tab('Offers');
  await bringIn('offers', 10);
  await room('Shops');
  await tab('Arrange');
  await page.locator('[data-offer=gale_wax]').click();
  await page.getByRole('button', { name: 'Volume tiers ...' }).click();
  await page.getByLabel(/Count and discount/).fill('3:5 5:12');
  await page.getByText('Gale Wax x5: 21 shells for each').waitFor();
  await page.getByRole('button', { name: 'Make 2 tiers' }).click();
  await page.locator('[data-offer=gale_wax_5]').waitFor();
  // 3. A crate with odds.
  await room('Loot');
  await enter("New table's name", 'Gale finds');
  await enter('name', 'Finds of a gale crate');
  await enter('rolls', '2');
  await room('Catalog');
  await tab('Loot entries');
  await bringIn('loot', 4);
  await room('Loot');
  await page.getByRole('button', { name: 'Finds of a gale crate', exact: true }).click();
  await page.getByRole('gridcell', { name: /^nothing, id:/ }).click();
  await page.keyboard.press('Delete');
  await page.getByRole('gridcell', { name: /^nothing, id:/ }).waitFor({ state: 'detached' });
  await room('Catalog');
  await page.getByLabel('Find').fill('gale_crate');
  await page.getByRole('gridcell', { name: /^gale_crate, id:/ }).click();
  await page.getByRole('button', { name: 'Open gale_crate' }).click();
  await enter('loot', 'gale_finds');
  await saved();
  await room('Loot');
  await page.getByRole('button', { name: 'Finds of a gale crate', exact: true }).click();
  await page.getByRole('row', { name: /Old Coin 5\.91 %.* 12 38 76/ }).waitFor();
  await page.getByRole('gridcell', { name: /^coin, weight:/ }).click();
  await page.keyboard.type('8');
  await page.getByRole('row', { name: /Old Coin 14\.66 %.* 5 15 30/ }).waitFor();
  await page.keyboard.press('Enter');
  // 4. Three findings.
  await room('Publish');
  await page.getByRole('button', { name: 'Mend: write gale for gales' }).click();
  await page.getByRole('button', { name: 'Mend: let a player own one' }).click();
  await page.getByRole('link', { name: 'Oilskin Sail at Pier Stall' }).click();
  await descriptionOf(page, 'Rain runs off it.');
  await saved();
  // 5. Ten percent dearer.
  await page.getByRole('button', { name: 'Reprice ...' }).click();
  await pick(page, 'Group', 'Gale week');
  await pick(page, 'Currency', 'Shells');
  await page.getByText('Chain Tail, worth in Shells: 240 -> 265').waitFor();
  await page.getByRole('button', { name: 'Change 11 prices' }).click();
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  await room('Publish');
  await page.getByText('0 errors').first().waitFor();
  await page.getByLabel('Note: what is this release about?').fill('Gale week');
  await page.getByRole('button', { name: 'Publish to live' }).click();
  await page.getByText('release 2 is live').waitFor();
  await page.close();

  expect(await draftOf(clicked)).toEqual(await draftOf(typed));
}, 120_000);

async function descriptionOf(page: Page, text: string): Promise<void> {
  await page.getByLabel('description', { exact: true }).fill(text);
  await page.keyboard.press('Tab');
}

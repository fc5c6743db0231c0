/// <reference lib="dom" />
/** What is typed right after something was added goes to the new thing, however slow the processor. */
import type { Browser, Page } from 'playwright-core';
import { launch, openConsole } from '../support/browser.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
beforeAll(async () => {
  browser = await launch();
  stall = await startStall();
});
afterAll(async () => {
  await browser.close();
  await stall.stop();
});

const draft = async () => (await stall.as('read').call('GET /draft')).document;

/** A page whose processor is four times slower than this one. */
async function slowPage(path: string): Promise<Page> {
  const { page } = await openConsole(browser, stall, path);
  const session = await page.context().newCDPSession(page);
  await session.send('Emulation.setCPUThrottlingRate', { rate: 4 });
  return page;
}

/** Adds one and types its second name at once, without waiting for anything to be drawn. */
async function addAndRename(page: Page, field: string, name: string, better: string): Promise<void> {
  await page.getByLabel(field, { exact: true }).fill(name);
  await page.keyboard.press('Enter');
  await page.keyboard.type(better);
  await page.keyboard.press('Enter');
  await page.waitForFunction(() => !document.body.textContent.includes('saving'));
}

/** Waits until the draft says so: it is saved after it is shown. */
async function saved(said: () => Promise<unknown>, wanted: unknown): Promise<void> {
  for (let tries = 0; tries < 100 && JSON.stringify(await said()) !== JSON.stringify(wanted); tries++)
    await new Promise((done) => setTimeout(done, 50));
  expect(await said()).toEqual(wanted);
}

test('loot tables, one after the other; those that were there keep their names', async () => {
  const before = Object.values((await draft()).loot!).map(({ name }) => name);
  const page = await slowPage('/loot');
  await page.getByRole('heading', { name: 'Finds of a drift crate' }).waitFor();
  for (const n of [1, 2, 3]) await addAndRename(page, "New table's name", `Gusts ${n}`, `Finds of gust ${n}`);
  await saved(
    async () => Object.values((await draft()).loot!).map(({ name }) => name),
    [...before, 'Finds of gust 1', 'Finds of gust 2', 'Finds of gust 3'],
  );
  // Coming back to it later takes nobody's focus.
  await page.getByRole('button', { name: 'Rare finds', exact: true }).click();
  await page.getByRole('button', { name: 'Finds of gust 3', exact: true }).click();
  await page.getByRole('heading', { name: 'Finds of gust 3' }).waitFor();
  expect(await page.evaluate(() => document.activeElement!.tagName)).toBe('BUTTON');
  await page.context().close();
});

test('an item in the catalog, a shop and a shelf', async () => {
  const catalog = await slowPage('/catalog?open=/items/storm_frame');
  await catalog.getByRole('heading', { name: 'Storm Frame' }).waitFor();
  await addAndRename(catalog, "New item's name", 'Gale Kite', 'Kite of the gale');
  await saved(
    async () => [(await draft()).items!['gale_kite']?.name, (await draft()).items!['storm_frame']!.name],
    ['Kite of the gale', 'Storm Frame'],
  );
  await catalog.context().close();

  const shops = await slowPage('/shops?mode=arrange');
  await shops.getByRole('heading', { name: 'Shop: Pier Stall' }).waitFor();
  await addAndRename(shops, "New shop's name", 'Net Loft', 'The Net Loft');
  await addAndRename(shops, "New shelf's name", 'Floats', 'Floats and corks');
  await saved(async () => {
    const { shops: all } = await draft();
    return [all!['net_loft']?.name, all!['net_loft']?.shelves['floats']?.name, all!['pier_stall']!.name];
  }, ['The Net Loft', 'Floats and corks', 'Pier Stall']);
  await shops.context().close();
});

/// <reference lib="dom" />
/** A game that has many of everything: what is long is told in a few lines, with the way to the rest. */
import type { Browser } from 'playwright-core';
import { follow, launch, openConsole } from '../support/browser.js';
import { demoDocument } from '../support/economy.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const MANY = 40;
let browser: Browser;
let stall: Stall;
beforeAll(async () => {
  const document = demoDocument();
  for (let n = 0; n < MANY; n++) {
    document.currencies![`token_${n}`] = { name: `Token of the ${n}th pier` };
    document.shops![`booth_${n}`] = { name: `Booth at the ${n}th pier`, shelves: {} };
  }
  [browser, stall] = await Promise.all([launch(), startStall({ document, publish: false })]);
  await stall.as('admin').call('PUT /draft', { body: document, revision: 0 });
});
afterAll(async () => {
  await browser.close();
  await stall.stop();
});

test('findings are told by kind, and what is picked of a long list is in sight', async () => {
  const { page } = await openConsole(browser, stall, '/publish');
  const rows = page.getByRole('listitem').filter({ hasText: /nothing gives it to players/ });
  const more = page.getByRole('button', { name: `${MANY - 4} more of this kind` });
  await more.first().waitFor();
  expect(await rows.count()).toBe(4);
  await more.first().click();
  await rows.nth(MANY - 1).waitFor();

  // Where there is room for few, each is of another kind.
  await follow(page, '/overview');
  const foremost = page
    .locator('section')
    .filter({ has: page.getByRole('heading', { name: 'Findings' }) })
    .getByRole('listitem');
  await foremost.filter({ hasText: 'nothing gives it to players' }).first().waitFor();
  await foremost.filter({ hasText: 'nothing costs it' }).first().waitFor();
  expect(await foremost.count()).toBe(5);

  await follow(page, `/shops?mode=arrange&shop=booth_${MANY - 1}`);
  const shops = page.getByRole('navigation', { name: 'Shops to arrange' });
  const picked = shops.getByRole('button', { name: `Booth at the ${MANY - 1}th pier` });
  await picked.and(page.locator('[aria-current=true]')).waitFor();
  const [list, button] = [(await shops.boundingBox())!, (await picked.boundingBox())!];
  expect(list.height).toBeLessThan(150);
  expect(button.y).toBeGreaterThanOrEqual(list.y);
  expect(button.y + button.height).toBeLessThanOrEqual(list.y + list.height + 1);

  // A wallet of many currencies says the first of them, and all when asked.
  await follow(page, '/shops?source=draft&shop=pier_stall&player=(made up)');
  const wallet = page.getByText(/^wallet 60 Shells/);
  await wallet.getByRole('button', { name: `and ${MANY - 6} more` }).click();
  await wallet.getByText(`0 Token of the ${MANY - 1}th pier`).waitFor();

  // What is picked of hundreds is found by its name.
  await follow(page, '/check?source=draft');
  await page.getByRole('combobox', { name: 'Offer', exact: true }).fill('storm fr');
  await page.keyboard.press('Enter');
  await page.waitForURL(/offer=storm_frame/);
  await page.getByText(/^Storm Frame at /).waitFor();
});

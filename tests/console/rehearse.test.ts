/** Rehearsing in a browser: every press is a step; purse, belongings and verdicts move; and nothing is kept. */
import type { Browser, Page } from 'playwright-core';
import { eachWithDemo, openConsole, pick, violations } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const MADE_UP = 'player=(made up)&attributes=level%3D3&holds=shells%3D1399&at=2027-03-01T10:00';
const open = (more = '') => openConsole(browser, stall, `/shops?mode=rehearse&shop=pier_stall&${MADE_UP}${more}`);
const steps = (page: Page) => page.getByRole('list', { name: 'Steps, the last first' }).locator('> li');
const belongings = (page: Page) => page.getByRole('list', { name: 'Purse and belongings' });
const told = (page: Page, number: number, words: RegExp) =>
  steps(page)
    .filter({ hasText: new RegExp(`^${number}`) })
    .filter({ hasText: words })
    .waitFor();

test('earn a little, press buy, run short, sell, go back, go on, begin again; a price that changes plays it all anew', async () => {
  const { page, complaints } = await open();
  await page.getByRole('button', { name: 'Buy Storm Frame', exact: true }).click();
  await told(page, 1, /refused.*short by 1/s);
  await page.getByRole('button', { name: 'Harbour race' }).click();
  await told(page, 2, /done.*First race reached/s);
  await page.getByRole('button', { name: 'Buy Storm Frame', exact: true }).click();
  await told(page, 3, /done.*-1400 Shells/s);
  await belongings(page).getByText('1 Storm Frame').waitFor();
  await page.getByRole('button', { name: 'Buy Storm Frame', exact: true }).click();
  await told(page, 4, /carry-full/);
  await page.getByLabel(/^Given: an amount/).fill('2 drift crate');
  await page.keyboard.press('Enter');
  await told(page, 5, /give 2 Drift Crate/);
  await page.getByLabel(/^Given: an amount/).fill('1 brass key');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Open Drift Crate' }).click();
  await told(page, 7, /open Drift Crate.*done/s);
  await page.getByRole('button', { name: 'Use Glide Wax' }).click();
  await page.getByRole('group', { name: 'Time' }).getByRole('button', { name: 'a day' }).click();
  await told(page, 9, /wait a day.*done/s);
  // Back by one, forward by one, and on from the third.
  await page.getByRole('button', { name: 'Step back' }).click();
  await steps(page).nth(7).waitFor();
  await page.getByRole('button', { name: 'Redo step' }).click();
  await told(page, 9, /wait a day/);
  await page.getByRole('button', { name: 'Go on from step 3' }).click();
  await steps(page).nth(3).waitFor({ state: 'detached' });
  // It is a link.
  await page.reload();
  await told(page, 3, /done.*-1400 Shells/s);
  // Another price in the draft: the same steps, another outcome.
  const { revision } = await stall.as('read').call('GET /draft');
  await stall.as('admin').call('PATCH /draft', {
    body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1399 }],
    revision,
  });
  await told(page, 1, /was refused.*done.*-1399 Shells/s);
  await told(page, 3, /was done.*refused.*carry-full/s);
  await page.getByRole('button', { name: 'Begin again' }).click();
  await page.getByText('Press Buy, play a race').waitFor();
  expect((await stall.as('read').call('GET /players')).items.map(({ id }) => id)).not.toContain('profile');
  expect((await stall.as('read').call('GET /purchases')).items.filter(({ offer }) => offer === 'storm_frame')).toEqual(
    [],
  );
  expect(complaints).toEqual([]);
});

test('in the words of the player, with another luck, by keys alone', async () => {
  const { page, complaints } = await open('&language=pt');
  await page.getByRole('button', { name: 'Buy Armação Tempestade', exact: true }).focus();
  await page.keyboard.press('Enter');
  await told(page, 1, /1\.400 conchas/);
  await page.getByLabel('Luck', { exact: true }).fill('12');
  await pick(page, 'Event', /Race finished/);
  await page.getByRole('button', { name: 'Report' }).focus();
  await page.keyboard.press('Enter');
  await told(page, 2, /event race_finished/);
  expect(complaints).toEqual([]);
});

test('the rare one comes, things are taken and attributes set by hand, and a release can be rehearsed', async () => {
  const { page, complaints } = await open('&source=draft');
  await page.getByLabel(/^Given: an amount/).fill('1 drift crate');
  await page.keyboard.press('Enter');
  await told(page, 1, /give 1 Drift Crate.*done/s);
  await page.getByLabel('In luck: what comes of it').fill('star charm');
  await page.keyboard.press('Enter');
  await told(page, 2, /open Drift Crate, in luck: Star Charm.*done.*\+1 Star Charm/s);
  await page.getByLabel(/^Taken: an amount/).fill('1399 shells');
  await page.keyboard.press('Enter');
  await told(page, 3, /take 1399 Shells.*done/s);
  await pick(page, 'Attribute', 'Harbour pilot');
  await page.getByLabel("Attribute's value").fill('true');
  await page.keyboard.press('Enter');
  await told(page, 4, /set pilot=true.*done/s);
  await pick(page, 'Economy', 'release 1: first');
  await told(page, 4, /set pilot=true.*done/s);
  expect(new URL(page.url()).searchParams.get('source')).toBe('1');
  // Only the draft keeps cases.
  await page.getByRole('button', { name: 'Keep as a case' }).waitFor({ state: 'detached' });
  expect(complaints).toEqual([]);
});

test('Shops opens where the work is: on the draft where it differs, and on Arrange while nothing is on the shelves', async () => {
  const at = async () => {
    const { page } = await openConsole(browser, stall, '/shops');
    await page.getByRole('tab', { selected: true }).waitFor();
    const tab = await page.getByRole('tab', { selected: true }).innerText();
    const source = tab === 'Arrange' ? undefined : await page.getByLabel('Economy', { exact: true }).innerText();
    return { page, tab, source: source?.replace(/[^a-z ]/g, '').trim() };
  };
  expect(await at()).toMatchObject({ tab: 'As players see them', source: 'what is live' });
  await stall.as('design').call('PATCH /draft', {
    body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1399 }],
    revision: 1,
  });
  expect(await at()).toMatchObject({ tab: 'As players see them', source: 'the draft' });
  await stall.as('design').call('PUT /draft', {
    body: {
      name: 'New cove',
      timeZone: 'UTC',
      items: { wax: { name: 'Wax', kind: 'consumable' } },
      shops: { stall: { name: 'Stall', shelves: { main: { name: 'Main', offers: {} } } } },
    },
    revision: 2,
  });
  const { page, tab } = await at();
  expect(tab).toBe('Arrange');
  // The first offer leads nobody away.
  await page.getByLabel('Item to offer').fill('wax');
  await page.keyboard.press('Enter');
  await page.locator('[data-offer=wax]').waitFor();
  await page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
  expect(await page.getByRole('tab', { selected: true }).innerText()).toBe('Arrange');
});

test('the way to a first shop ticks a rehearsal that ended in a purchase and a refusal', async () => {
  await stall.as('design').call('PUT /draft', {
    body: {
      name: 'New cove',
      timeZone: 'UTC',
      currencies: { shells: { name: 'Shells', start: 10 } },
      items: { wax: { name: 'Wax', kind: 'consumable', worth: { shells: 10 } } },
      shops: { stall: { name: 'Stall', shelves: { main: { name: 'Main', offers: { wax: { gives: 'wax' } } } } } },
    },
    revision: 1,
  });
  await stall.as('admin').call('PUT /channels/{channel}', { params: { channel: 'test' }, body: { release: 1 } });
  const { page } = await openConsole(browser, stall, '/shops?mode=rehearse&player=(made up)');
  await page.getByRole('button', { name: 'Buy Wax', exact: true }).click();
  await told(page, 1, /done/);
  expect(await page.evaluate(() => localStorage.getItem('rehearsed'))).toBe(null);
  await page.getByRole('button', { name: 'Buy Wax', exact: true }).click();
  await told(page, 2, /refused/);
  expect(await page.evaluate(() => localStorage.getItem('rehearsed'))).toBe('yes');
});

test('a shop is arranged beside what players see and press: a price that changes plays the steps anew, what moves is marked', async () => {
  const offer = '/shops/pier_stall/shelves/frames/offers/first_flight_kit';
  const { page, complaints } = await openConsole(
    browser,
    stall,
    `/shops?mode=arrange&shop=pier_stall&source=live&open=${offer}&player=(made up)&holds=shells%3D500&at=2027-03-01T10:00`,
  );
  const beside = page.getByRole('region', { name: 'As players see it' });
  // There is no room for both at this width until it is asked for.
  await page.getByLabel('Price: Shells').waitFor();
  expect(await beside.count()).toBe(0);
  await page.getByRole('button', { name: "Players' view" }).click();
  await beside.getByRole('button', { name: 'Buy First Flight Kit' }).click();
  await told(page, 1, /done.*-200 Shells/s);
  await beside.locator('.moved').filter({ hasText: '1 of 1 per lifetime' }).waitFor();
  await beside.locator('.moved').filter({ hasText: 'Good customer: 200 of 1000 Shells' }).waitFor();
  expect(await beside.locator('.moved').filter({ hasText: 'First race' }).count()).toBe(0);
  await page.getByLabel('Price: Shells').fill('501');
  await page.keyboard.press('Enter');
  await told(page, 1, /was done.*refused.*short by 1/s);
  // It is kept in the address, and closed again.
  await page.reload();
  await told(page, 1, /refused.*short by 1/s);
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: "Players' view" }).click();
  await beside.waitFor({ state: 'detached' });
  expect(complaints).toEqual([]);
});

/** The Calendar in a browser: looking, moving, stretching, pinning; publishing at a set time; the player's own words. */
import type { Browser, Page } from 'playwright-core';
import { HOUR, NOW } from '../support/economy.js';
import { eachWithDemo, follow, openConsole, pick } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const sale = async (id: string) => (await stall.as('read').call('GET /draft')).document.sales![id]!;
const block = (page: Page, name: RegExp) => page.getByRole('button', { name }).first();
const saved = (page: Page) => page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();

test('sales, rotations, hours and ends stand by shop, from an hour to a season, and as a table', async () => {
  const { page, complaints } = await openConsole(browser, stall, '/calendar?from=2027-03-24T00:00&scale=week');
  await block(page, /^sale: Spring Sails, Wed,? 24 Mar/).waitFor();
  await block(page, /^on show: Tonight.*: \w+/).waitFor();
  await pick(page, 'Shows', 'A season');
  await block(page, /^ends: End of Ribbons/).waitFor();
  await block(page, /^open: Festival Booth is open, Mon,? 26 Apr,? 10:00/).waitFor();
  await pick(page, 'Shows', 'An hour');
  await block(page, /^on show: Tonight/).waitFor();
  await block(page, /^sale: Linen Evening/).waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'As a table' }).click();
  await page
    .getByRole('table', { name: 'Calendar' })
    .getByRole('row', { name: /Spring Sails/ })
    .waitFor();
  // By time, whatever it is of.
  await pick(page, 'Shows', 'Two weeks');
  const rows = page.getByRole('table', { name: 'Calendar' }).getByRole('row');
  await rows.filter({ hasText: 'Linen Evening' }).waitFor();
  const told = (await rows.allInnerTexts()).join('\n');
  expect(told.indexOf('Tonight')).toBeLessThan(told.indexOf('Linen Evening'));
  expect(told.lastIndexOf('Tonight')).toBeGreaterThan(told.indexOf('Linen Evening'));
  expect(complaints).toEqual([]);
});

test('a sale is moved and stretched by mouse, keeps its local hours over the change of clocks, and is undone', async () => {
  const { page } = await openConsole(browser, stall, '/calendar?from=2027-03-20T00:00&scale=fortnight&shop=pier_stall');
  const spring = page.locator('[data-entry="sale spring_sails"]').first();
  const box = (await spring.boundingBox())!;
  const track = (await spring.locator('..').boundingBox())!;
  const day = track.width / 14;
  const drag = async (fromX: number, byDays: number) => {
    await page.mouse.move(fromX, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(fromX + (byDays * day) / 2, box.y + 5, { steps: 4 });
    await page.mouse.move(fromX + byDays * day, box.y + 5, { steps: 4 });
    await page.mouse.up();
    await saved(page);
  };
  await drag(box.x + box.width / 2, 2);
  expect(await sale('spring_sails')).toMatchObject({ from: '2027-03-22T00:00', until: '2027-04-01T00:00' });
  const moved = (await spring.boundingBox())!;
  await drag(moved.x + moved.width - 2, -3);
  expect(await sale('spring_sails')).toMatchObject({ from: '2027-03-22T00:00', until: '2027-03-29T00:00' });
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await saved(page);
  expect(await sale('spring_sails')).toMatchObject({ from: '2027-03-20T00:00', until: '2027-03-30T00:00' });
});

test('a link to a sale shows it where it begins, or alone where it does not run in what is shown', async () => {
  const { page } = await openConsole(browser, stall, '/calendar');
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Find anything' }).fill('spring sails');
  await page.getByRole('option', { name: /Spring Sails/ }).click();
  await page.getByText('Lowers').waitFor();
  expect(await page.getByLabel('Percent off').inputValue()).toBe('20');
  // What is shown stays where it is when the panel is left.
  const from = await page.getByLabel('From', { exact: true }).first().inputValue();
  expect(from).toMatch(/^2027-03-20/);
  await page.getByLabel('Percent off').press('Escape');
  await page.getByText('Lowers').waitFor({ state: 'detached' });
  expect(await page.getByLabel('From', { exact: true }).first().inputValue()).toBe(from);
  await follow(page, '/calendar?open=/sales/spring_sails');
  await page.getByText('Lowers').waitFor();
  await page.getByRole('button', { name: 'Earlier' }).click();
  await page.getByText('It does not run in what is shown.').waitFor();
  await page.getByLabel('Percent off').fill('25');
  await page.keyboard.press('Enter');
  await saved(page);
  expect(await sale('spring_sails')).toMatchObject({ percent: 25 });
});

test('by keyboard too; what recurs is moved as a whole', async () => {
  const { page } = await openConsole(browser, stall, '/calendar?from=2027-03-20T00:00&scale=week&shop=pier_stall');
  await block(page, /^sale: Linen Evening/).focus();
  await page.keyboard.press('Alt+ArrowRight');
  await block(page, /^sale: Linen Evening, Fri,? 26 Mar,? 19:00/).waitFor();
  await saved(page);
  expect(await sale('linen_evening')).toMatchObject({ from: '2027-03-26T19:00', until: '2027-03-27T01:00' });
  await block(page, /^sale: Wax Weekend/).focus();
  await page.keyboard.press('Alt+Shift+ArrowLeft');
  await block(page, /^sale: Wax Weekend, Sat,? 20 Mar,? 00:00 to Sun,? 21 Mar,? 23:00/).waitFor();
  await saved(page);
  expect((await sale('wax_weekend')).runs).toEqual({
    weekends: { starts: '2027-01-02T00:00', repeats: 'FREQ=WEEKLY;BYDAY=SA', lasts: 'P1DT23H' },
  });
});

test('a new sale is added, changed in its panel, and warned of where it meets a closed shop', async () => {
  const { page } = await openConsole(
    browser,
    stall,
    '/calendar?from=2027-03-20T00:00&scale=fortnight&shop=festival_booth',
  );
  await page.getByLabel("New sale's name").fill('Early Ribbons');
  await page.keyboard.press('Enter');
  await block(page, /^sale: Early Ribbons.*Warning: Festival Booth is closed/).click();
  await page.getByRole('heading', { name: 'Conflicts' }).waitFor();
  await page.getByLabel('Percent off', { exact: true }).fill('30');
  await page.keyboard.press('Enter');
  await saved(page);
  expect(await sale('early_ribbons')).toMatchObject({ name: 'Early Ribbons', shops: ['festival_booth'], percent: 30 });
  await page.getByRole('button', { name: 'Delete Early Ribbons' }).click();
  await block(page, /^sale: Early Ribbons/).waitFor({ state: 'detached' });
  // What is live is only looked at.
  await pick(page, 'Economy', 'what is live');
  await page.getByText('What is live cannot be moved here').waitFor();
});

test('a weekly sale: its panel opens by itself, stays while it is moved about, and one choice lets it come again', async () => {
  const { page } = await openConsole(browser, stall, '/calendar?from=2027-03-20T00:00&scale=fortnight&shop=pier_stall');
  await page.getByLabel("New sale's name").fill('Kite Friday');
  await page.keyboard.press('Enter');
  const panel = page.getByRole('region', { name: 'Panel' });
  const enter = async (label: string, text: string) => {
    await panel.getByLabel(label, { exact: true }).fill(text);
    await page.keyboard.press('Enter');
    await saved(page);
  };
  await enter('Percent off', '25');
  // It goes out of what is shown, and back: what is typed stays, and so does the panel.
  await enter('Until', '2027-06-26');
  await enter('From', '2027-06-25');
  await panel.getByText('It does not run in what is shown.').waitFor();
  expect(await panel.getByLabel('Percent off', { exact: true }).inputValue()).toBe('25');
  // From lies behind Until for a moment, which is refused, and is right once Until is mended.
  await panel.getByLabel('Until', { exact: true }).fill('2027-03-27');
  await page.keyboard.press('Enter');
  await page.getByRole('alert').filter({ hasText: 'Not saved' }).first().waitFor();
  await enter('From', '2027-03-26');
  await page.getByRole('alert').first().waitFor({ state: 'detached' });
  expect(await sale('kite_friday')).toMatchObject({ from: '2027-03-26', until: '2027-03-27' });
  await pick(page, 'Comes again', 'every week');
  await saved(page);
  expect(await sale('kite_friday')).toEqual({
    name: 'Kite Friday',
    shops: ['pier_stall'],
    percent: 25,
    runs: { weekly: { starts: '2027-03-26T00:00', repeats: 'FREQ=WEEKLY', lasts: 'P1D' } },
  });
  await page.goto(`${stall.url}/publish`);
  await page.getByText('25 % off at Pier Stall every week on Friday for 1 day').first().waitFor();
});

test('an offer is pinned into a period, which is recorded, and taken back', async () => {
  const { page } = await openConsole(
    browser,
    stall,
    '/calendar?from=2027-03-10T00:00&scale=week&shop=lantern_wagon&source=live',
  );
  await block(page, /^on show: Tonight, Fri,? 12 Mar/).click();
  const [absent] = (await stall.as('read').call('GET /rotations', { query: { at: '2027-03-12T12:00' } })).items.map(
    ({ pool, shown }) => pool.find(({ id }) => !shown.some((one) => one.id === id))!,
  );
  await pick(page, 'Put on show in this period', absent!.name);
  await page.getByRole('button', { name: 'Pin', exact: true }).click();
  await page.getByText(new RegExp(`pinned: ${absent!.name}, by admin`)).waitFor();
  await block(page, new RegExp(`^on show: Tonight, Fri,? 12 Mar.*: .*${absent!.name}`)).waitFor();
  await page.getByRole('list', { name: 'Recorded for this period' }).getByRole('button', { name: 'Undo' }).click();
  await page.getByText(/pinned:/).waitFor({ state: 'detached' });
});

test('a release is set to come at a time, is told to whoever is here when it comes, and is gone back from', async () => {
  await stall.as('design').call('PATCH /draft', {
    body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1250 }],
    revision: 1,
  });
  const { page } = await openConsole(browser, stall, '/publish');
  await page.getByLabel(/^Note/).fill('Festival');
  await page.getByLabel(/^From/).first().fill('2027-03-01 10:00');
  await page.keyboard.press('Tab');
  await page.getByText('Storm Frame, worth in Shells: 1400 -> 1250, from 2027-03-01 10:00 WET').waitFor();
  await page.getByRole('button', { name: 'Publish to live at that time' }).click();
  await page.getByText(/release 2 will be live at 1 Mar 2027/).waitFor();
  await page.getByText('live: release 1').waitFor();
  await page.locator('html[data-hearing]').waitFor();
  stall.clock.nowMs = NOW + HOUR;
  await stall.service.writer.submit(() => stall.service.channels.reach());
  await page.getByRole('status', { name: 'What others do' }).getByText('live now points at release 2').waitFor();
  await page.getByText('live: release 2').waitFor();
  await page.getByRole('button', { name: 'Go back to release 1' }).click();
  await page.getByRole('button', { name: 'Make release 1 live' }).click();
  await page.getByText('live: release 1').waitFor();
});

test('the history tells what each revision changed, and the draft goes back to one', async () => {
  await stall.as('design').call('PATCH /draft', {
    body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1250 }],
    revision: 1,
    query: { why: 'try' },
  });
  const { page } = await openConsole(browser, stall, '/publish');
  await page.getByRole('button', { name: 'What changed in 2' }).click();
  await page
    .getByRole('table', { name: 'History of the draft' })
    .getByText('Storm Frame, worth in Shells: 1400 -> 1250')
    .waitFor();
  await page.getByRole('button', { name: 'Back to 1' }).click();
  await page.getByRole('button', { name: 'Back to revision 1' }).click();
  await page.getByText('back to revision 1', { exact: true }).waitFor();
  expect((await stall.as('read').call('GET /draft')).document.items!['storm_frame']!.worth).toEqual({ shells: 1400 });
});

test('texts stand beside the original; what is written is kept, another language is added, and the overview tells what is on show', async () => {
  const { page } = await openConsole(browser, stall, '/catalog?view=texts&language=pt');
  await page.getByText('nothing is missing').waitFor();
  await page.getByRole('textbox', { name: 'Find' }).fill('oak_reel');
  const name = page.getByLabel('Oak Reel, name', { exact: true });
  await name.fill('');
  await name.press('Enter');
  await page.getByText('1 missing').waitFor();
  await name.fill('Carreto Novo');
  await name.press('Enter');
  await saved(page);
  expect((await stall.as('read').call('GET /draft')).document.texts!['pt']!['item.oak_reel.name']).toBe('Carreto Novo');
  await name.fill('{open');
  await name.press('Enter');
  await page.getByRole('alert').filter({ hasText: 'it is not in ICU MessageFormat' }).waitFor();
  expect(await name.inputValue()).toBe('{open');
  await page.getByRole('button', { name: 'Take back' }).click();
  expect(await name.inputValue()).toBe('Carreto Novo');
  await page.getByLabel('Another language').fill('fren');
  await page.keyboard.press('Enter');
  await page.getByText(/\d+ missing/).waitFor();
  await saved(page);
  expect((await stall.as('read').call('GET /draft')).document.texts!['fr']).toEqual({});
  await page.goto(`${stall.url}/overview`);
  const [tonight] = (await stall.as('read').call('GET /rotations')).items;
  const row = page
    .getByRole('table', { name: 'On show now and next' })
    .getByRole('row', { name: /Tonight at Lantern Wagon/ });
  for (const offer of tonight!.shown) await row.getByText(offer.name).first().waitFor();
});

test("a shop in the player's words: question, price and refusal as they are charged", async () => {
  const { page } = await openConsole(
    browser,
    stall,
    '/shops?shop=pier_stall&at=2027-03-26T19:00&player=(made up)&attributes=level=1&holds=shells=89',
  );
  await pick(page, 'In the words of', 'the player: pt');
  const offer = (id: string) => page.locator(`[data-offer=${id}]`);
  await offer('linen_sail').getByText('Comprar Vela de Linho por 60 conchas?').waitFor();
  await offer('linen_sail').getByText('90 conchas').waitFor();
  await offer('linen_sail').getByText('lower than Spring Sails').waitFor();
  await offer('storm_frame').getByText('Chega ao nível 3 de voador para a pilotar.').waitFor();
  await page.getByText('89 conchas, 2 pérolas').waitFor();
});

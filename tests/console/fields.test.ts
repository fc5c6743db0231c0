/** The fields that panels, windows and rooms are made of: by name, by keyboard, as people say things. */
import type { Browser, Locator, Page } from 'playwright-core';
import { SECTIONS } from '../../src/core/document/schema.js';
import { economyJsonSchema } from '../../src/core/document/index.js';
import type { JsonNode } from '../../src/core/catalog/index.js';
import { eachWithDemo, follow, openConsole, pick, violations } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));
afterEach(() => {
  expect(heard.splice(0).flat()).toEqual([]);
});
/** What pages complained about. */
const heard: string[][] = [];

const draft = async () => (await stall.as('read').call('GET /draft')).document;
const revision = (page: Page, number: number) => page.getByText(`draft ${number}`, { exact: true }).waitFor();
const open = async (path: string): Promise<Page> => {
  const { page, complaints } = await openConsole(browser, stall, path);
  heard.push(complaints);
  return page;
};
/** A window gives the focus back once it is gone, which takes a moment. */
const hasFocus = async (page: Page, one: Locator): Promise<unknown> =>
  page.waitForFunction((element) => element === document.activeElement, await one.elementHandle());

describe('what a field names', () => {
  test('is found by name or id, by keyboard alone, left as it was, taken away, or made anew', async () => {
    const page = await open('/catalog?open=/items/tide_crate');
    const group = page.getByLabel('Group', { exact: true });
    await group.focus();
    await page.keyboard.press('ArrowDown');
    await page.getByRole('option', { name: /^Crates and finds/ }).waitFor();
    expect(await violations(page)).toEqual([]);
    await page.keyboard.type('fram');
    await page.keyboard.press('Escape');
    expect(await group.inputValue()).toBe('Crates and finds');
    // By its id.
    await group.fill('care');
    await page.keyboard.press('Enter');
    await revision(page, 2);
    expect([(await draft()).items!['tide_crate']!.group, await group.inputValue()]).toEqual(['care', 'Care and luck']);
    // What is typed and not picked is dropped.
    await group.fill('tail');
    await page.keyboard.press('Tab');
    expect(await group.inputValue()).toBe('Care and luck');
    await group.fill('Sea finds');
    await page.getByRole('option', { name: 'Make a new group: Sea finds' }).waitFor();
    await page.keyboard.press('Enter');
    await revision(page, 4);
    expect((await draft()).groups!['sea_finds']).toEqual({ name: 'Sea finds' });
    expect((await draft()).items!['tide_crate']!.group).toBe('sea_finds');
    await group.fill('');
    await page.keyboard.press('Tab');
    await revision(page, 5);
    expect((await draft()).items!['tide_crate']).not.toHaveProperty('group');
  });

  test('stands in rows with its amount; one that is added is ready to be typed over', async () => {
    const page = await open('/catalog?open=/items/tide_crate');
    await page.getByLabel('Worth: add a currency or item', { exact: true }).fill('pea');
    await page.keyboard.press('Enter');
    await revision(page, 2);
    await page.keyboard.type('4');
    await page.keyboard.press('Enter');
    await revision(page, 3);
    expect((await draft()).items!['tide_crate']!.worth).toEqual({ shells: 260, pearls: 4 });
    await page.getByLabel('Worth: Shells').fill('many');
    await page.keyboard.press('Enter');
    await page.getByRole('alert').filter({ hasText: 'should be an amount' }).waitFor();
    expect(await page.getByLabel('Worth: Shells').inputValue()).toBe('many');
    await page.keyboard.press('Escape');
    await page.getByRole('alert').waitFor({ state: 'detached' });
    expect(await page.getByLabel('Worth: Shells').inputValue()).toBe('260');
    await page.getByLabel('Worth: without Pearls').click();
    await revision(page, 4);
    await page.getByLabel('Tags: add a tag', { exact: true }).fill('brass');
    await page.keyboard.press('Enter');
    await page.getByLabel('Tags: without brass').waitFor();
  });
});

test('amounts and names are read as in a cell, and a form that was begun stays as typed while one looks elsewhere', async () => {
  const page = await open('/catalog?open=/items/tide_crate');
  const add = page.getByLabel('Worth: add a currency or item', { exact: true });
  await add.fill('4 pea');
  await page.getByRole('option', { name: /4 Pearls/ }).waitFor();
  await page.keyboard.press('Enter');
  await revision(page, 2);
  expect((await draft()).items!['tide_crate']!.worth).toEqual({ shells: 260, pearls: 4 });
  await add.fill('2 Glide Wax; 3 ribbons; 1 pennant');
  await page.getByRole('option', { name: /1 Pennant/ }).waitFor();
  await page.keyboard.press('Enter');
  await revision(page, 4);
  expect((await draft()).items!['tide_crate']!.worth).toEqual({
    shells: 260,
    pearls: 4,
    glide_wax: 2,
    ribbons: 3,
    pennant: 1,
  });
  // A form of three fields, of which two are written.
  await follow(page, '/catalog?view=currencies&open=/currencies/pearls');
  await page.getByRole('button', { name: 'Add Refill' }).click();
  await page.getByLabel('Amount', { exact: true }).fill('1');
  await page.getByLabel('Every', { exact: true }).fill('20 min');
  await page.getByRole('tab', { name: 'Items' }).click();
  await page.getByRole('tab', { name: 'Currencies' }).click();
  await follow(page, '/catalog?view=currencies&open=/currencies/pearls');
  expect(await page.getByLabel('Every', { exact: true }).inputValue()).toBe('20 min');
  await page.getByLabel('Up to', { exact: true }).fill('5');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Keep Refill' }).click();
  await revision(page, 5);
  expect((await draft()).currencies!['pearls']!.refill).toEqual({ amount: 1, every: 'PT20M', upTo: 5 });
});

test('what the service refuses stays in its field with the reason, and can be mended or taken back', async () => {
  const page = await open('/catalog?open=/items/tide_crate');
  const carry = page.getByLabel('Carry limit', { exact: true });
  await carry.fill('-4');
  await page.keyboard.press('Enter');
  const why = page.getByRole('alert').filter({ hasText: 'Not saved: a whole number of 1 or more is needed here' });
  await why.last().waitFor();
  expect(await carry.inputValue()).toBe('-4');
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Take back' }).click();
  await why.last().waitFor({ state: 'detached' });
  expect(await carry.inputValue()).toBe('5');
  // In a group of fields, the field that is wrong says so; what else was typed is kept until all is right.
  await page.getByRole('button', { name: 'Close the panel' }).click();
  await page.goto(`${stall.url}/catalog?view=currencies&open=/currencies/breeze`);
  const upTo = page.getByLabel('Up to', { exact: true });
  await upTo.fill('-1');
  await page.keyboard.press('Enter');
  await page.getByRole('alert').filter({ hasText: 'Not saved' }).waitFor();
  await upTo.fill('7');
  await page.keyboard.press('Enter');
  await revision(page, 2);
  await page.getByRole('alert').waitFor({ state: 'detached' });
  expect((await draft()).currencies!['breeze']!.refill).toMatchObject({ upTo: 7 });
  // The browser's own word on each answer that refuses.
  expect(heard.splice(0).flat()).toEqual(Array(2).fill(expect.stringContaining('422')));
});

test('a panel is left with Escape, once nothing typed is left in it, and the focus goes back to where it came from', async () => {
  const page = await open('/simulate?view=made&section=personas');
  const rule = page.getByRole('button', { name: /^Racer/ });
  await rule.focus();
  await page.keyboard.press('Enter');
  const name = page.getByLabel('Name', { exact: true });
  await name.fill('Another');
  await page.keyboard.press('Escape');
  expect(await name.inputValue()).toBe('Racer');
  // A list that is open closes first.
  await page.getByLabel('Plays for', { exact: true }).focus();
  await page.keyboard.press('ArrowDown');
  await page.getByRole('option').first().waitFor();
  await page.keyboard.press('Escape');
  await page.getByRole('option').first().waitFor({ state: 'detached' });
  expect(await name.isVisible()).toBe(true);
  await page.keyboard.press('Escape');
  await name.waitFor({ state: 'detached' });
  await hasFocus(page, rule);
});

test('what another field makes wrong says so, and is saved once that is mended', async () => {
  const page = await open('/calendar?from=2027-03-24T00:00&scale=week');
  const [id, { from, until }] = Object.entries((await draft()).sales!).find(([, sale]) => sale.from && sale.until)!;
  await page.locator(`[data-entry="sale ${id}"]`).first().click();
  const panel = page.getByRole('region', { name: 'Panel' });
  const begins = panel.getByLabel('From', { exact: true });
  await begins.fill('2027-12-01');
  await page.keyboard.press('Enter');
  await page
    .getByRole('alert')
    .filter({ hasText: /^Not saved: until: / })
    .waitFor();
  await panel.getByLabel('Until', { exact: true }).fill('2027-12-31');
  await page.keyboard.press('Enter');
  // What was refused is tried again by itself.
  await revision(page, 3);
  expect(from).not.toContain('2027-12');
  expect(until).not.toContain('2027-12');
  expect((await draft()).sales![id]).toMatchObject({ from: '2027-12-01', until: '2027-12-31' });
  expect(heard.splice(0).flat()).toEqual([expect.stringContaining('422')]);
});

test('a window gives the focus back when it is left', async () => {
  const page = await open('/catalog');
  for (const name of ['CSV and paste ...', 'Reprice ...', 'Find anything']) {
    const button = page.getByRole('button', { name });
    await button.focus();
    await page.keyboard.press('Enter');
    await page.getByRole('dialog').waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await hasFocus(page, button);
  }
});

test('a thing that somebody else deletes while its panel is open says so, and takes nothing more', async () => {
  const page = await open('/catalog?open=/items/moth_frame');
  const name = page.getByLabel('Name', { exact: true });
  await name.fill('Night Moth');
  const { document, revision: at } = await stall.as('design').call('GET /draft');
  const { moth_frame: _gone, ...items } = document.items!;
  await stall.as('design').call('PUT /draft', { body: { ...document, items }, revision: at });
  await page.getByText('It is not in the draft. Undo brings back what was deleted.').waitFor();
  await page.getByRole('button', { name: 'Close the panel' }).click();
  expect((await draft()).items).not.toHaveProperty('moth_frame');
  expect(await page.getByRole('alert').count()).toBe(0);
});

test('what is typed is kept when one goes back, and who leaves the page before it is saved is asked', async () => {
  const page = await open('/overview');
  const description = page.getByLabel('Description', { exact: true });
  await follow(page, '/catalog?open=/items/tide_crate');
  await description.fill('Found after a storm.');
  await page.goBack();
  await revision(page, 2);
  await follow(page, '/catalog?find=tide_crate');
  await page.getByRole('gridcell', { name: 'tide_crate, name: Tide Crate' }).dblclick();
  await page.keyboard.type('s');
  await page.goBack();
  await revision(page, 3);
  expect((await draft()).items!['tide_crate']).toMatchObject({
    name: 'Tide Crates',
    description: 'Found after a storm.',
  });
  // What belongs to the address is left with it.
  await follow(page, '/simulate?players=40');
  await page.getByLabel('Storm Frame, number').fill('900');
  await page.goBack();
  await page.getByRole('heading', { name: 'Saltwind Cove' }).waitFor();

  let send = (): void => undefined;
  const held = new Promise<void>((go) => (send = go));
  await page.route('**/api/v1/draft*', async (route) => {
    if (route.request().method() === 'PATCH') await held;
    await route.continue();
  });
  await follow(page, '/catalog?open=/items/tide_crate');
  await description.click();
  await description.fill('Washed up at night.');
  const asked = page.waitForEvent('dialog');
  await page.evaluate(() => setTimeout(() => location.reload()));
  const dialog = await asked;
  expect(dialog.type()).toBe('beforeunload');
  await dialog.dismiss();
  // Once it is saved nobody is asked, though what depends on it is still on its way.
  const audit = '**/api/v1/draft/audit';
  await page.route(audit, () => undefined);
  send();
  await revision(page, 4);
  page.on('dialog', () => expect('asked').toBe('not asked'));
  await page.unroute(audit);
  await page.reload();
  expect(await description.inputValue()).toBe('Washed up at night.');
  await description.fill('Washed up by day.');
  await page.keyboard.press('Control+s');
  await revision(page, 5);
  await page.keyboard.type('!');
  expect(await description.inputValue()).toMatch(/^!|!$/);
});

test('a service that is away loses nothing that is typed', async () => {
  const page = await open('/catalog?open=/items/tide_crate');
  const name = page.getByLabel('Name', { exact: true });
  await page.route('**/api/v1/draft', (route) =>
    route.request().method() === 'PATCH' ? route.abort() : route.continue(),
  );
  await name.fill('Ebb Crate');
  await page.keyboard.press('Enter');
  await page.getByRole('alert').filter({ hasText: 'Not saved' }).last().waitFor();
  expect(await name.inputValue()).toBe('Ebb Crate');
  await page.unroute('**/api/v1/draft');
  await name.fill('Ebb Crates');
  await page.keyboard.press('Enter');
  await revision(page, 2);
  expect((await draft()).items!['tide_crate']!.name).toBe('Ebb Crates');
  expect(heard.splice(0).flat()).toEqual([expect.stringContaining('ERR_FAILED')]);
});

test('a picker whose text is taken away is empty with Enter, and keeps what it needs', async () => {
  const { page } = await openConsole(
    browser,
    stall,
    '/simulate?view=made&section=targets&open=/targets/storm_frame_in_reach',
  );
  const target = async () => (await draft()).targets!['storm_frame_in_reach']!;
  await page.getByLabel('Persona', { exact: true }).fill('');
  await page.keyboard.press('Enter');
  await page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
  expect((await target()).persona).toBeUndefined();
  await page.goto(`${stall.url}/earning?section=tracks&open=/tracks/flyer`);
  await page.getByLabel('Earned', { exact: true }).fill('');
  await page.keyboard.press('Enter');
  expect(await page.getByLabel('Earned', { exact: true }).inputValue()).toBe('Shells');
  expect((await draft()).tracks!['flyer']!.earns).toBe('shells');
});

test('a formula completes names, is marked where it is wrong, and tells its value for whom one chooses', async () => {
  await stall.as('admin').call('POST /players', { body: { id: 'oda', name: 'Oda', attributes: { level: 5 } } });
  const page = await open(
    '/shops?mode=arrange&shop=pier_stall&open=/shops/pier_stall/shelves/frames/offers/drift_frame',
  );
  const only = page.getByLabel('Only if', { exact: true });
  await only.fill('lev');
  await page.getByRole('option', { name: /^level/ }).waitFor();
  await page.keyboard.press('Enter');
  await page.keyboard.type(' >= 4 and owned(gull');
  await page.getByRole('option', { name: /^Gull Frame/ }).waitFor();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await page.keyboard.type(') == 0');
  const told = page.getByRole('status').filter({ hasText: 'for' });
  await told.getByText('does not hold').waitFor();
  await told.getByRole('combobox').selectOption('Oda');
  await told.getByText('holds', { exact: true }).waitFor();
  await only.fill('lvl >= 4');
  await page.locator('mark').filter({ hasText: 'lvl' }).waitFor();
  await only.fill('level >= 4');
  await page.keyboard.press('Enter');
  await revision(page, 2);
  expect((await draft()).shops!['pier_stall']!.shelves['frames']!.offers['drift_frame']!.when).toBe('=level >= 4');
});

test('a price, limits, stock and dates are rows, words and days', async () => {
  const page = await open(
    '/shops?mode=arrange&shop=pier_stall&open=/shops/pier_stall/shelves/frames/offers/drift_frame',
  );
  const offer = async () => (await draft()).shops!['pier_stall']!.shelves['frames']!.offers['drift_frame']!;
  await page.getByRole('combobox', { name: 'It asks' }).click();
  await page.getByRole('option', { name: 'Asks a price of its own' }).click();
  await revision(page, 2);
  await page.getByLabel('Price: Shells').fill('140');
  await page.keyboard.press('Enter');
  await revision(page, 3);
  await page.getByRole('button', { name: 'Add one in real money' }).click();
  await revision(page, 4);
  await page.getByLabel('Alternative 2 in money: EUR').fill('1.99');
  await page.keyboard.press('Enter');
  await revision(page, 5);
  expect((await offer()).price).toEqual([{ shells: 140 }, { money: { EUR: 1.99 } }]);
  await page.getByLabel('Limits: add a period, such as 3 days', { exact: true }).fill('3 days');
  await page.keyboard.press('Enter');
  await revision(page, 6);
  await page.keyboard.type('2');
  await page.keyboard.press('Enter');
  await revision(page, 7);
  await page.getByLabel('From', { exact: true }).fill('2027-04-26 18:00');
  await page.keyboard.press('Enter');
  await revision(page, 8);
  expect(await offer()).toMatchObject({ limits: { P3D: 2 }, from: '2027-04-26T18:00' });
  await page.getByLabel('Until', { exact: true }).fill('26.4.2027');
  await page.keyboard.press('Enter');
  await page.getByRole('alert').filter({ hasText: 'Write it as 2027-04-26 18:00' }).waitFor();
});

/** Where each section is edited, at the first thing of it. */
const ROOM: Record<(typeof SECTIONS)[number], (id: string) => string> = {
  attributes: (id) => `/earning?section=attributes&open=/attributes/${id}`,
  events: (id) => `/earning?section=events&open=/events/${id}`,
  groups: (id) => `/catalog?view=groups&open=/groups/${id}`,
  currencies: (id) => `/catalog?view=currencies&open=/currencies/${id}`,
  items: (id) => `/catalog?open=/items/${id}`,
  cases: (id) => `/shops?mode=cases&open=/cases/${id}`,
  loot: (id) => `/loot?table=${id}`,
  stores: (id) => `/catalog?view=stores&open=/stores/${id}`,
  shops: (id) => `/shops?mode=arrange&shop=${id}`,
  sales: (id) => `/calendar?from=2027-03-20T00:00&scale=season&open=/sales/${id}`,
  texts: () => '/catalog?view=texts',
  earning: (id) => `/earning?section=earning&open=/earning/${id}`,
  goals: (id) => `/earning?section=goals&open=/goals/${id}`,
  tracks: (id) => `/earning?section=tracks&open=/tracks/${id}`,
  teams: (id) => `/earning?section=teams&open=/teams/${id}`,
  rankings: (id) => `/earning?section=rankings&open=/rankings/${id}`,
  activities: (id) => `/simulate?view=made&section=activities&open=/activities/${id}`,
  personas: (id) => `/simulate?view=made&section=personas&open=/personas/${id}`,
  scenarios: (id) => `/simulate?view=made&section=scenarios&open=/scenarios/${id}`,
  targets: (id) => `/simulate?view=made&section=targets&open=/targets/${id}`,
  levers: (id) => `/simulate?view=made&section=levers&open=/levers/${id}`,
};
/** Shelves and entries are lists of their own; an item shows the fields of its kind. */
const ELSEWHERE = ['shelves', 'offers', 'entries'];
const OF_SOME_KINDS = ['uses', 'lasts', 'gives', 'loot', 'opensWith', 'onUse', 'yields'];

test('every field of every section has a place, under its name', async () => {
  const schema = economyJsonSchema() as JsonNode;
  const document = await draft();
  const { page } = await openConsole(browser, stall, '/overview');
  for (const section of SECTIONS.filter((one) => one !== 'texts' && one !== 'sales')) {
    const [id] = Object.keys(document[section]!);
    await follow(page, ROOM[section](id!));
    const fields = Object.entries((schema.properties![section]!.additionalProperties as JsonNode).properties!);
    for (const [name, { title }] of fields) {
      if (ELSEWHERE.includes(name) || (section === 'items' && OF_SOME_KINDS.includes(name))) continue;
      await page
        .getByText(title!, { exact: true })
        .first()
        .waitFor()
        .catch(() => {
          throw new Error(`${section}: ${name} (${title!}) is nowhere`);
        });
    }
  }
});

test('a persona, what it does and the run it is for are made from nothing, without a key or JSON', async () => {
  const page = await open('/earning');
  const make = async (section: string, what: string, name: string) => {
    await page.getByRole('navigation', { name: 'Sections' }).getByRole('button', { name: section }).click();
    await page.getByLabel(`New ${what}'s name`).fill(name);
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name }).waitFor();
  };
  await make('Events', 'event', 'Lantern hung');
  await page.getByLabel('Fields: add a name', { exact: true }).fill('height');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: 'Simulate', exact: true }).click();
  await page.getByRole('link', { name: 'Who plays', exact: true }).click();
  await make('Activities', 'activity', 'Hang lanterns');
  await page.getByLabel('Reports: add an event', { exact: true }).fill('lantern hu');
  await page.keyboard.press('Enter');
  await page.getByLabel('Lantern hung: height').fill('2-5');
  await page.keyboard.press('Enter');
  await make('Personas', 'persona', 'Lantern keeper');
  await page.getByLabel('Plays: add an activity', { exact: true }).fill('hang');
  await page.keyboard.press('Enter');
  await make('Scenarios', 'scenario', 'A week of lanterns');
  await page.getByLabel('Days', { exact: true }).fill('7');
  await page.keyboard.press('Enter');
  await page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
  const { activities, personas, scenarios } = await draft();
  expect(activities!['hang_lanterns']).toMatchObject({ emits: { lantern_hung: { height: { from: 2, to: 5 } } } });
  expect(personas!['lantern_keeper']!.plays).toMatchObject({ hang_lanterns: 1 });
  expect(scenarios!['a_week_of_lanterns']!.days).toBe(7);
});

test('anything is found from everywhere by its name, and Escape leads back', async () => {
  const page = await open('/overview');
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox', { name: 'Find anything' }).fill('kestrel');
  await page.getByRole('option', { name: /Kestrel Frame.*offer, Pier Stall/ }).waitFor();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: 'Kestrel Frame' }).waitFor();
  await page.getByRole('button', { name: 'Find anything' }).click();
  await page.keyboard.type('race pri');
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: 'Race prize' }).waitFor();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('calen');
  await page.keyboard.press('Escape');
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  await page.getByRole('heading', { name: 'Race prize' }).waitFor();
  await page.keyboard.press('Control+k');
  await page.keyboard.type('calen');
  await page.keyboard.press('Enter');
  await page.getByRole('heading', { name: 'Calendar' }).waitFor();
});

test('what comes again is every so many weeks, on days that are pressed; another rule can be written', async () => {
  const page = await open('/shops?mode=arrange&shop=lantern_wagon&open=/shops/lantern_wagon');
  await page.getByLabel('Opening hours: name of a new one').fill('Market');
  await page.getByRole('button', { name: 'Add market' }).click();
  const group = page.getByRole('group', { name: 'market' });
  await group.getByLabel('Begins').fill('2027-03-06 10:00');
  await page.keyboard.press('Enter');
  await pick(page, 'Repeats', 'every week');
  await page.getByRole('button', { name: 'Sat', exact: true }).click();
  await page.getByRole('button', { name: 'Mon', exact: true }).click();
  await page.getByLabel('Repeats: every so many weeks').fill('2');
  await page.keyboard.press('Enter');
  await group.getByLabel('Lasts').fill('3 h');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Keep market' }).click();
  await revision(page, 2);
  const market = async () => (await draft()).shops!['lantern_wagon']!.open!['market'];
  expect(await market()).toEqual({
    starts: '2027-03-06T10:00',
    repeats: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,SA',
    lasts: 'PT3H',
  });
  expect(await violations(page)).toEqual([]);
  await pick(page, 'Repeats', 'by a rule of its own');
  const rule = page.getByLabel('Repeats: the rule');
  await rule.fill('FREQ=SOMETIMES');
  await page.keyboard.press('Enter');
  await page.getByRole('alert').filter({ hasText: 'FREQ must be DAILY' }).waitFor();
  await rule.fill('FREQ=MONTHLY;BYDAY=1SA');
  await page.keyboard.press('Enter');
  await revision(page, 3);
  expect(await market()).toMatchObject({ repeats: 'FREQ=MONTHLY;BYDAY=1SA' });
  await pick(page, 'Repeats', 'once');
  await revision(page, 4);
  expect(await market()).not.toHaveProperty('repeats');
  expect(heard.splice(0).flat()).toEqual([expect.stringContaining('422')]);
});

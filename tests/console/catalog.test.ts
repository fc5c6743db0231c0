/// <reference lib="dom" />
/** The designer's day in the browser: ranges, pasting, repricing, tiers, odds, arranging, mending. */
import type { Browser, Page } from 'playwright-core';
import { demoDocument } from '../support/economy.js';
import { eachWithDemo, openConsole, pick } from '../support/browser.js';
import { POINT_PNG } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const cell = (page: Page, row: string, column: string) =>
  page.getByRole('gridcell', { name: new RegExp(`^${row}, ${column}:`) });
const draft = async () => (await stall.as('read').call('GET /draft')).document;
const revision = (page: Page, number: number) => page.getByText(`draft ${number}`, { exact: true }).waitFor();
const open = (path: string) => openConsole(browser, stall, path);

/** The clipboard itself needs a secure page with permission; its events do not. */
async function paste(page: Page, text: string): Promise<void> {
  await page.evaluate((content) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', content);
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }),
    );
  }, text);
}
const copy = (page: Page): Promise<string> =>
  page.evaluate(() => {
    const clipboardData = new DataTransfer();
    document.activeElement!.dispatchEvent(
      new ClipboardEvent('copy', { clipboardData, bubbles: true, cancelable: true }),
    );
    return clipboardData.getData('text/plain');
  });

describe('the grid as a spreadsheet', () => {
  test('a range is copied, pasted, filled down and cleared, each as one step that undo and redo take', async () => {
    const { page, complaints } = await open('/catalog');
    await cell(page, 'drift_frame', 'worth').click();
    await page.keyboard.press('Shift+ArrowDown');
    await page.keyboard.press('Shift+ArrowRight');
    expect(await copy(page)).toBe('150 shells\t1\n450 shells\t1');
    await cell(page, 'storm_frame', 'worth').click();
    await paste(page, '1250 shells\t1\r\n95 shells\t2\r\n');
    await revision(page, 2);
    expect([(await draft()).items!['storm_frame']!.worth, (await draft()).items!['linen_sail']!.carry]).toEqual([
      { shells: 1250 },
      2,
    ]);
    await cell(page, 'drift_frame', 'worth').click();
    for (let n = 0; n < 3; n++) await page.keyboard.press('Shift+ArrowDown');
    await page.keyboard.press('Control+d');
    await revision(page, 3);
    expect((await draft()).items!['linen_sail']!.worth).toEqual({ shells: 150 });
    await page.keyboard.press('Control+z');
    await revision(page, 4);
    expect((await draft()).items!['linen_sail']!.worth).toEqual({ shells: 95 });
    await page.keyboard.press('Control+y');
    await revision(page, 5);
    expect((await draft()).items!['linen_sail']!.worth).toEqual({ shells: 150 });
    await cell(page, 'drift_frame', 'tags').click();
    for (let n = 0; n < 2; n++) await page.keyboard.press('Shift+ArrowDown');
    await page.keyboard.press('Delete');
    await revision(page, 6);
    expect((await draft()).items!['storm_frame']!).not.toHaveProperty('tags');
    expect(complaints).toEqual([]);
  });

  test('one value fills a range; a slip anywhere changes nothing and is told', async () => {
    const { page } = await open('/catalog');
    await cell(page, 'drift_frame', 'group').click();
    await page.keyboard.press('Shift+ArrowDown');
    await paste(page, 'festival');
    await revision(page, 2);
    expect((await draft()).items!['gull_frame']!.group).toBe('festival');
    await cell(page, 'storm_frame', 'worth').click();
    await paste(page, '1 shells\nlots\n');
    await page.getByRole('alert').filter({ hasText: '"lots" should be an amount' }).waitFor();
    await page.getByRole('alert').filter({ hasText: 'Nothing was changed' }).waitFor();
    expect((await draft()).items!['storm_frame']!.worth).toEqual({ shells: 1400 });
  });

  test('a copied formula would not run in a spreadsheet, and comes back as it was', async () => {
    const { page } = await open('/catalog?view=offers&find=wind_chime');
    await cell(page, 'wind_chime', 'price').click();
    const copied = await copy(page);
    expect(copied).toBe("'=60 * 1.15 ^ owned(wind_chime) shells");
    await paste(page, copied.replace('60', '70'));
    await revision(page, 2);
    const { offers } = (await draft()).shops!['pier_stall']!.shelves['care']!;
    expect(offers['wind_chime']!.price).toEqual({ shells: '=70 * 1.15 ^ owned(wind_chime)' });
  });

  test('formulas show what they come to for a chosen player', async () => {
    await stall.as('admin').call('POST /players', { body: { id: 'rufus', name: 'Rufus', attributes: { level: 5 } } });
    const { page } = await open('/catalog?view=offers&find=flight_lesson');
    await page.getByLabel('Formula values for').click();
    await page.getByRole('option', { name: 'values for Rufus' }).click();
    await cell(page, 'flight_lesson', 'price').filter({ hasText: '1150 Shells' }).waitFor();
  });

  test('a view is saved by name and is there again after a reload', async () => {
    const { page } = await open('/catalog?find=sail&sort=-worth');
    await page.getByRole('button', { name: 'Save view' }).click();
    await page.getByLabel('Name of this view').fill('Sails');
    await page.keyboard.press('Enter');
    await page.goto(`${stall.url}/catalog`);
    await pick(page, 'Saved views', 'Sails');
    await page.getByRole('columnheader', { name: 'Sort by worth' }).waitFor();
    expect(new URL(page.url()).searchParams.get('sort')).toBe('-worth');
    // Currency by currency: what costs ribbons stands after shells and pearls.
    expect(
      await page
        .getByRole('gridcell', { name: /, name:/ })
        .first()
        .textContent(),
    ).toBe('Petal Sail');
  });

  test('five thousand items: only what is in sight is drawn, and the last row is edited by keyboard', async () => {
    const document = demoDocument();
    for (let n = 0; n < 5000; n++)
      document.items![`pebble_${n}`] = {
        name: `Pebble ${n}`,
        kind: 'consumable',
        icon: '🪨',
        description: 'Round.',
        worth: { shells: n + 1 },
      };
    await stall.as('admin').call('PUT /draft', { body: document, revision: 1 });
    const { page } = await open('/catalog');
    await cell(page, 'drift_frame', 'worth').click();
    expect(await page.getByRole('row').count()).toBeLessThan(60);
    await page.keyboard.press('Control+ArrowDown');
    await cell(page, 'pebble_4999', 'worth').waitFor();
    await page.keyboard.type('7 shells');
    await page.keyboard.press('Enter');
    await revision(page, 3);
    expect((await draft()).items!['pebble_4999']!.worth).toEqual({ shells: 7 });
  });
});

test('rows pasted from a spreadsheet become items after a look at what would change', async () => {
  const { page } = await open('/catalog');
  await page.getByRole('button', { name: 'CSV and paste ...' }).click();
  const rows = [
    'id\tname\tkind\tgroup\tworth\tcarry',
    ...Array.from({ length: 10 }, (_, n) => `gale_${n}\tGale ${n}\tdurable\tframes\t${100 + n} shells\t1`),
  ];
  await page.getByLabel(/or paste rows/).fill(rows.join('\n'));
  await page.getByRole('region', { name: 'Preview' }).getByText('10 rows read, 10 of them new').waitFor();
  await page.getByRole('button', { name: 'Bring in 10 changes' }).click();
  await revision(page, 2);
  expect((await draft()).items!['gale_9']).toEqual({
    name: 'Gale 9',
    kind: 'durable',
    group: 'frames',
    worth: { shells: 109 },
    carry: 1,
  });
  await page.getByRole('button', { name: 'Undo' }).click();
  await revision(page, 3);
  expect((await draft()).items).not.toHaveProperty('gale_9');
});

test('a reprice shows what it would change, changes it, and can be undone', async () => {
  const { page } = await open('/catalog');
  await page.getByRole('button', { name: 'Reprice ...' }).click();
  await pick(page, 'Group', 'Kite frames');
  await pick(page, 'Currency', 'Shells');
  await page.getByText('Storm Frame, worth in Shells: 1400 -> 1540').waitFor();
  await page.getByRole('button', { name: 'Change 13 prices' }).click();
  await revision(page, 2);
  await cell(page, 'storm_frame', 'worth').filter({ hasText: '1540 shells' }).waitFor();
  await page.getByRole('button', { name: 'Undo' }).click();
  await cell(page, 'storm_frame', 'worth').filter({ hasText: '1400 shells' }).waitFor();
});

describe('one thing in full', () => {
  test('deleting what is used says what would dangle, deletes it with these, and undo brings all back', async () => {
    const before = await draft();
    const { page } = await open('/catalog?open=/items/tide_crate');
    await page.getByRole('button', { name: 'Delete Tide Crate' }).click();
    await page.getByRole('alert').getByText('Tide Crate at Lantern Wagon, gives').waitFor();
    await page.getByRole('button', { name: 'Delete it and these' }).click();
    await revision(page, 2);
    expect((await draft()).items).not.toHaveProperty('tide_crate');
    await page.getByRole('button', { name: 'Undo' }).click();
    await revision(page, 3);
    expect(await draft()).toEqual(before);
  });

  test('fields of every kind are kept when they are left, and a picture is uploaded', async () => {
    const { page } = await open('/catalog?open=/items/oak_reel');
    await page.getByLabel('Stack', { exact: true }).fill('3');
    await page.keyboard.press('Enter');
    await revision(page, 2);
    await page.getByRole('button', { name: 'Add Yields' }).click();
    const yields = page.getByRole('group', { name: 'Yields' });
    await yields.getByLabel('Gives: add a currency or item', { exact: true }).click();
    await page.keyboard.type('she');
    await page.keyboard.press('Enter');
    await yields.getByLabel('Gives: Shells').fill('2');
    await yields.getByLabel('Every').fill('1 hour');
    await yields.getByLabel('At most').fill('6');
    await page.keyboard.press('Tab');
    await page.getByRole('button', { name: 'Keep Yields' }).click();
    await revision(page, 3);
    await page.getByLabel('Picture file').setInputFiles({ name: 'reel.png', mimeType: 'image/png', buffer: POINT_PNG });
    await revision(page, 4);
    expect((await draft()).items!['oak_reel']).toMatchObject({
      stack: 3,
      yields: { gives: { shells: 2 }, every: 'PT1H', upTo: 6 },
      icon: 'pictures/oak_reel.png',
    });
    await page
      .getByLabel('Picture file')
      .setInputFiles({ name: 'reel.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg/>') });
    await page.getByRole('alert').filter({ hasText: 'SVG is not taken' }).waitFor();
  });

  test('a currency tells where it comes from, where it goes and what it buys', async () => {
    const { page } = await open('/catalog?view=currencies&open=/currencies/ribbons');
    await page.getByText("earning rule Lantern keeper's thanks").first().waitFor();
    await page.getByText('Festival Crate at Festival Booth').waitFor();
  });
});

test('odds follow a weight while it is typed, and the saved ones when it is dropped', async () => {
  const { page } = await open('/loot?table=rare_finds');
  const chance = (text: string) => page.getByRole('row', { name: new RegExp(`Comet Tail ${text}`) }).waitFor();
  await chance('10 %');
  await cell(page, 'comet_tail', 'weight').click();
  await page.keyboard.type('91');
  await chance('91 %');
  await page.getByText('as typed, not saved yet').waitFor();
  await page.keyboard.press('Escape');
  await chance('10 %');
  expect((await stall.as('read').call('GET /draft')).revision).toBe(1);
  await page.getByRole('button', { name: /as a table/ }).click();
  await page
    .getByRole('region', { name: /Openings until players have Comet Tail/ })
    .getByText('44', { exact: true })
    .waitFor();
});

describe('arranging shops', () => {
  const order = async () => Object.keys((await draft()).shops!['pier_stall']!.shelves['care']!.offers);
  const arrange = '/shops?mode=arrange&shop=pier_stall';

  test('an offer moves by keyboard and by mouse, and undo and redo lead back and forth', async () => {
    const { page } = await open(arrange);
    await page.locator('[data-offer=pennant]').focus();
    await page.keyboard.press('Alt+ArrowUp');
    await revision(page, 2);
    expect((await order()).slice(3, 5)).toEqual(['pennant', 'wind_chime']);
    await page.locator('[data-offer=pennant]').dragTo(page.locator('[data-offer=wax_1]'));
    await revision(page, 3);
    expect((await order())[0]).toBe('pennant');
    await page.getByRole('button', { name: 'Undo' }).click();
    await revision(page, 4);
    await page.getByRole('button', { name: 'Undo' }).click();
    await revision(page, 5);
    expect((await order()).slice(3, 5)).toEqual(['wind_chime', 'pennant']);
    await page.getByRole('button', { name: 'Redo' }).click();
    await revision(page, 6);
    expect((await order()).slice(3, 5)).toEqual(['pennant', 'wind_chime']);
    await page.getByRole('button', { name: 'Undo' }).click();
    await revision(page, 7);
    expect((await order()).slice(3, 5)).toEqual(['wind_chime', 'pennant']);
  });

  test('a shop is made, given a shelf and an offer, renamed, duplicated and deleted', async () => {
    const { page } = await open(arrange);
    await page.getByLabel("New shop's name").fill('Tea House');
    await page.keyboard.press('Enter');
    await revision(page, 2);
    await page.getByLabel("New shelf's name").fill('Hot');
    await page.keyboard.press('Enter');
    await revision(page, 3);
    await page.getByLabel('Item to offer').fill('dawn te');
    await page.keyboard.press('Enter');
    await revision(page, 4);
    expect((await draft()).shops!['tea_house']).toEqual({
      name: 'Tea House',
      shelves: { hot: { name: 'Hot', offers: { dawn_tea_2: { gives: 'dawn_tea' } } } },
    });
    await page.getByLabel('Badge').fill('Fresh');
    await page.keyboard.press('Enter');
    await revision(page, 5);
    await page.getByRole('button', { name: 'Shelf Hot' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Hot things');
    await page.keyboard.press('Enter');
    await revision(page, 6);
    await page.getByRole('button', { name: 'Duplicate Hot things' }).click();
    await revision(page, 7);
    expect(Object.keys((await draft()).shops!['tea_house']!.shelves)).toEqual(['hot', 'hot_2']);
    await page.getByRole('button', { name: 'Delete Hot things 2' }).click();
    await revision(page, 8);
    expect((await draft()).shops!['tea_house']!.shelves['hot']!.offers['dawn_tea_2']).toEqual({
      gives: 'dawn_tea',
      badge: 'Fresh',
    });
  });

  test('volume tiers show their unit prices before they are made', async () => {
    const { page } = await open(`${arrange}&open=/shops/pier_stall/shelves/care/offers/storm_wax`);
    await page.getByRole('button', { name: 'Volume tiers ...' }).click();
    await page.getByText('Storm Wax x5: 36 shells for each').waitFor();
    await page.getByRole('button', { name: 'Another tier' }).click();
    await page.getByText('Write how many each pack holds').waitFor();
    await page.getByRole('button', { name: 'Without tier 3' }).click();
    await page.getByRole('button', { name: 'Make 2 tiers' }).click();
    await page.locator('[data-offer=storm_wax_5]').waitFor();
    expect((await draft()).shops!['pier_stall']!.shelves['care']!.offers['storm_wax_5']).toEqual({
      gives: 'storm_wax',
      count: 5,
      price: { shells: 180 },
    });
  });

  test('a real-money price shows gross and net of each store', async () => {
    const { page } = await open(
      '/shops?mode=arrange&shop=pearl_counter&open=/shops/pearl_counter/shelves/pearls/offers/pearls_55',
    );
    await page.getByRole('row', { name: 'harbour_store, EUR 4.99 0.94 1.22 2.83' }).waitFor();
  });
});

test('a finding is mended and a hint silenced with a reason; both can be undone', async () => {
  const document = demoDocument();
  delete document.items!['oak_reel']!.carry;
  delete document.items!['glide_wax']!.icon;
  await stall.as('admin').call('PUT /draft', { body: document, revision: 1 });
  const { page } = await open('/publish');
  await page.getByRole('button', { name: 'Mend: let a player own one' }).click();
  await revision(page, 3);
  expect((await draft()).items!['oak_reel']!.carry).toBe(1);
  await page.getByRole('button', { name: 'Silence missing-text of Glide Wax' }).click();
  await page.getByLabel('Why it is fine').fill('Its picture comes in spring.');
  await page.keyboard.press('Enter');
  await revision(page, 4);
  await page.getByText('no findings').first().waitFor();
  await page.getByRole('button', { name: 'Show 2 silenced' }).click();
  await page.getByText('Silenced: Its picture comes in spring.').waitFor();
  await page.getByRole('main').press('Control+z');
  await revision(page, 5);
  await page.getByRole('button', { name: 'Silence missing-text of Glide Wax' }).waitFor();
});

test('a table with names of its own is matched by hand: words for ids, a decimal comma, an amount alone', async () => {
  const { page } = await open('/catalog?window=sheet');
  await page
    .getByLabel(/or paste rows/)
    .fill(['Produkt\tKind\tPearls\tFarbe', 'Mondsegel\tDurable\t3\tblau', 'شراع 🪁\tDurable\t1.250\trot'].join('\n'));
  await page.getByRole('combobox', { name: 'Produkt is' }).click();
  await page.getByRole('option', { name: 'Name', exact: true }).click();
  await page.getByLabel('Two and a half is written').click();
  await page.getByRole('option', { name: '2,5' }).click();
  await page.getByRole('region', { name: 'Preview' }).getByText('2 rows read, 2 of them new').waitFor();
  await page.getByRole('button', { name: 'Bring in 2 changes' }).click();
  await revision(page, 2);
  const { items } = await draft();
  expect(items!['mondsegel']).toEqual({ name: 'Mondsegel', kind: 'durable', worth: { pearls: 3 } });
  expect(items!['item_1']).toEqual({ name: 'شراع 🪁', kind: 'durable', worth: { pearls: 1250 } });
});

test('a pasted table: nothing is wrong before it is matched, what was read is told, groups are made on the spot', async () => {
  const { page } = await open('/catalog?window=sheet');
  const rows = (...more: string[]) => ['Produkt\tItem type\tCategory\tShells', ...more].join('\n');
  await page.getByLabel(/or paste rows/).fill(rows('Gale Hat\tDurable\tHats\t1,200'));
  await page.getByText('Say above which column is the Name of new rows').waitFor();
  expect(await page.getByRole('alert').count()).toBe(0);
  await page.getByRole('combobox', { name: 'Produkt is' }).click();
  await page.getByRole('option', { name: 'Name', exact: true }).click();
  await page.getByText('Read: 1,200 as 1200.').waitFor();
  // Rows of a group that is not there would be refused one by one.
  await page.getByText('There is no group called Hats.').waitFor();
  expect(await page.getByRole('button', { name: /^Bring in/ }).isDisabled()).toBe(true);
  expect(await page.getByRole('alert').count()).toBe(0);
  await page.getByRole('button', { name: 'Make the group Hats' }).click();
  await page.getByRole('region', { name: 'Preview' }).getByText('1 row read, 1 of them new').waitFor();
  // The same columns again, with more rows, are matched already.
  await page.getByLabel(/or paste rows/).fill(rows('Gale Hat\tDurable\tHats\t1,200', 'Calm Hat\tDurable\tHats\t90'));
  await page.getByRole('region', { name: 'Preview' }).getByText('2 rows read, 2 of them new').waitFor();
  await page.getByRole('button', { name: 'Bring in 2 changes' }).click();
  await revision(page, 3);
  const { items, groups } = await draft();
  expect(groups!['hats']).toEqual({ name: 'Hats' });
  expect(items!['gale_hat']).toEqual({ name: 'Gale Hat', kind: 'durable', group: 'hats', worth: { shells: 1200 } });
});

test('cells complete names, and what has fields of its own opens its panel', async () => {
  const { page } = await open('/catalog?view=currencies&columns=all');
  await cell(page, 'breeze', 'refill').filter({ hasText: 'amount 1, every 20 min, up to 6' }).dblclick();
  await page.getByLabel('Up to', { exact: true }).waitFor();
  await page.goto(`${stall.url}/catalog`);
  await cell(page, 'linen_sail', 'group').click();
  await page.keyboard.type('kite');
  await page.getByRole('option', { name: /^Kite frames/ }).waitFor();
  await page.keyboard.press('Enter');
  await cell(page, 'linen_sail', 'group').filter({ hasText: 'Kite frames' }).waitFor();
  await revision(page, 2);
  await cell(page, 'linen_sail', 'worth').click();
  await page.keyboard.type('3 pea');
  await page.getByRole('option', { name: /^Pearls/ }).waitFor();
  await page.keyboard.press('Enter');
  await page.keyboard.press('Enter');
  await revision(page, 3);
  expect((await draft()).items!['linen_sail']).toMatchObject({ group: 'frames', worth: { pearls: 3 } });
  // Taken away, and not replaced by the first that could stand there.
  await cell(page, 'linen_sail', 'group').click();
  await page.keyboard.press('Delete');
  await page.keyboard.press('Enter');
  await revision(page, 4);
  expect((await draft()).items!['linen_sail']).not.toHaveProperty('group');
});

test('earning rules come in as a table, in the words of their events and currencies', async () => {
  const { page } = await open('/earning?section=earning');
  await page.getByRole('button', { name: 'CSV and paste ...' }).click();
  const [event, { name }] = Object.entries((await draft()).events!)[0]!;
  await page.getByLabel(/or paste rows/).fill(`Rule\tOn\tShells\nSunday prize\t${name}\t12\n`);
  await page.getByRole('combobox', { name: 'Rule is' }).click();
  await page.getByRole('option', { name: 'Name', exact: true }).click();
  await page.getByRole('button', { name: 'Bring in 1 change' }).click();
  await revision(page, 2);
  expect((await draft()).earning!['sunday_prize']).toEqual({ name: 'Sunday prize', on: event, gives: { shells: 12 } });
});

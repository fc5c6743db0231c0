/// <reference lib="dom" />
import type { Browser, Page } from 'playwright-core';
import { launch, openConsole, pick } from '../support/browser.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
beforeAll(async () => {
  browser = await launch();
});
afterAll(() => browser.close());
beforeEach(async () => {
  stall = await startStall();
  const admin = stall.as('admin');
  for (const [id, name, shells] of [
    ['mateo', 'Mateo', 1340],
    ['oda', 'Oda', 1339],
  ] as const) {
    await admin.call('POST /players', { body: { id, name, attributes: { level: 3 } } });
    await admin.call('POST /players/{player}/grants', {
      params: { player: id },
      body: { gives: { shells }, reason: 'wallet' },
      key: 'wallet',
    });
  }
});
afterEach(async () => {
  for (const context of browser.contexts()) await context.close();
  await stall.stop();
});

const cell = (page: Page, row: string, column: string) =>
  page.getByRole('gridcell', { name: new RegExp(`^${row}, ${column}:`) });
const draftItem = async (id: string) => (await stall.as('read').call('GET /draft')).document.items![id]!;
const saved = (page: Page) => page.getByRole('status').filter({ hasText: 'all saved to the draft' }).waitFor();
const revision = (page: Page, number: number) => page.getByText(`draft ${number}`, { exact: true }).waitFor();

describe('Catalog', () => {
  test('a price is changed by keyboard alone, saved to the draft, and undone', async () => {
    const { page, complaints } = await openConsole(browser, stall, '/catalog');
    await cell(page, 'drift_frame', 'id').click();
    for (const key of ['ArrowDown', 'ArrowDown', ...Array<string>(5).fill('ArrowRight')])
      await page.keyboard.press(key);
    await page.keyboard.type('1250 shells');
    await page.keyboard.press('Enter');
    await cell(page, 'storm_frame', 'worth').filter({ hasText: '1250 shells' }).waitFor();
    await revision(page, 2);
    expect((await draftItem('storm_frame')).worth).toEqual({ shells: 1250 });
    // The next cell below has the focus, as in a spreadsheet.
    expect(await page.evaluate(() => document.activeElement!.getAttribute('aria-label'))).toBe(
      'linen_sail, worth: 90 shells',
    );
    await page.keyboard.press('Control+z');
    await revision(page, 3);
    expect((await draftItem('storm_frame')).worth).toEqual({ shells: 1400 });
    expect(complaints).toEqual([]);
  });

  test('many cells edited one after the other are all saved', async () => {
    const { page } = await openConsole(browser, stall, '/catalog');
    await cell(page, 'drift_frame', 'worth').click();
    for (const price of [160, 460, 1410, 95, 330]) {
      await page.keyboard.type(`${price} shells`);
      await page.keyboard.press('Enter');
    }
    await revision(page, 6);
    await saved(page);
    const { document } = await stall.as('read').call('GET /draft');
    expect(
      ['drift_frame', 'gull_frame', 'storm_frame', 'linen_sail', 'ripple_sail'].map((id) => document.items![id]!.worth),
    ).toEqual([160, 460, 1410, 95, 330].map((shells) => ({ shells })));
  });

  test('Escape keeps the cell as it was; a slip is told beside it, and nothing is saved', async () => {
    const { page } = await openConsole(browser, stall, '/catalog');
    await cell(page, 'storm_frame', 'worth').dblclick();
    await page.getByLabel('Cell', { exact: true }).fill('lots of shells');
    await page.keyboard.press('Enter');
    const slip = page.getByRole('alert').filter({ hasText: 'should be an amount and an id' });
    await slip.waitFor();
    // Seen, not only there: nothing lies over it or cuts it off.
    const { x, y, width, height } = (await slip.boundingBox())!;
    expect(
      await page.evaluate(
        ([left, top]) => document.elementFromPoint(left!, top!)?.getAttribute('role'),
        [x + width / 2, y + height / 2],
      ),
    ).toBe('alert');
    await page.keyboard.press('Escape');
    await cell(page, 'storm_frame', 'worth').filter({ hasText: '1400 shells' }).waitFor();
    expect((await stall.as('read').call('GET /draft')).revision).toBe(1);
  });

  test('what the service refuses stays in its cell with the reason, until it is mended or dropped', async () => {
    const { page } = await openConsole(browser, stall, '/catalog');
    await cell(page, 'storm_frame', 'kind').dblclick();
    await page.getByLabel('Cell', { exact: true }).fill('durabel');
    await page.keyboard.press('Enter');
    await page
      .getByRole('alert')
      .filter({ hasText: /^Not saved: .*durabel/ })
      .waitFor();
    await page.getByText('1 not saved').waitFor();
    expect(await page.getByRole('alert').count()).toBe(1);
    await cell(page, 'storm_frame', 'kind').filter({ hasText: 'durabel' }).dblclick();
    expect(await page.getByLabel('Cell', { exact: true }).inputValue()).toBe('durabel');
    await page.getByLabel('Cell', { exact: true }).fill('consum');
    await page.getByRole('option', { name: /^consumable/ }).waitFor();
    await page.keyboard.press('Enter');
    await cell(page, 'storm_frame', 'kind').filter({ hasText: 'consumable' }).waitFor();
    await page.getByRole('alert').waitFor({ state: 'detached' });
    await page.getByText('all saved to the draft').waitFor();
    expect((await stall.as('read').call('GET /draft')).document.items!['storm_frame']!.kind).toBe('consumable');
  });

  test('a save from a stale view is refused, says what changed, and shows it', async () => {
    const { page } = await openConsole(browser, stall, '/overview');
    // What others do is not heard here, as on a broken line.
    await page.route('**/api/v1/stream', (route) => route.abort());
    await page.goto(`${stall.url}/catalog`);
    await cell(page, 'oak_reel', 'worth').waitFor();
    const save = async (item: string, shells: number) => {
      const { revision } = await stall.as('design').call('GET /draft');
      await stall.as('design').call('PATCH /draft', {
        body: [{ op: 'replace', path: `/items/${item}/worth/shells`, value: shells }],
        revision,
      });
    };
    const type = async (text: string) => {
      await cell(page, 'oak_reel', 'worth').click();
      await page.keyboard.type(text);
      await page.keyboard.press('Enter');
    };
    const conflict = page.getByRole('dialog', { name: /saved revision \d+ while you worked/ });
    await save('storm_frame', 1111);
    await type('210 shells');
    await conflict.getByRole('row', { name: 'Storm Frame, worth in Shells 1400 1111 1400' }).waitFor();
    await conflict.getByRole('row', { name: 'Oak Reel, worth in Shells 200 200 210' }).waitFor();
    expect((await draftItem('oak_reel')).worth).toEqual({ shells: 200 });
    await conflict.getByRole('button', { name: 'Put mine on top' }).click();
    await cell(page, 'oak_reel', 'worth').filter({ hasText: '210 shells' }).waitFor();
    await cell(page, 'storm_frame', 'worth').filter({ hasText: '1111 shells' }).waitFor();
    await page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
    expect((await draftItem('oak_reel')).worth).toEqual({ shells: 210 });
    await save('oak_reel', 230);
    await type('220 shells');
    await conflict.getByRole('row', { name: 'Oak Reel, worth in Shells both 210 230 220' }).waitFor();
    await conflict.getByRole('button', { name: 'Keep theirs' }).click();
    await cell(page, 'oak_reel', 'worth').filter({ hasText: '230 shells' }).waitFor();
    expect((await draftItem('oak_reel')).worth).toEqual({ shells: 230 });
  });

  test('what another saves is shown at once, with who and what', async () => {
    const { page } = await openConsole(browser, stall, '/catalog');
    await cell(page, 'storm_frame', 'worth').waitFor();
    await page.locator('html[data-hearing]').waitFor();
    await stall.as('design').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1111 }],
      revision: 1,
    });
    await cell(page, 'storm_frame', 'worth').filter({ hasText: '1111 shells' }).waitFor();
    const news = page.getByRole('status', { name: 'What others do' });
    await news.getByText('design saved revision 2').waitFor();
    await news.getByText('Storm Frame, worth in Shells: 1400 -> 1111').waitFor();
    // One's own saves are no news.
    await news.getByRole('button', { name: 'Close the news' }).click();
    await cell(page, 'oak_reel', 'worth').click();
    await page.keyboard.type('210 shells');
    await page.keyboard.press('Enter');
    await page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
    expect((await draftItem('oak_reel')).worth).toEqual({ shells: 210 });
    expect(await news.textContent()).toBe('');
  });

  test('findings stand at the cell they concern', async () => {
    const { page } = await openConsole(browser, stall, '/catalog');
    await cell(page, 'oak_reel', 'description').dblclick();
    await page.getByLabel('Cell', { exact: true }).fill('Now only 180 shells!');
    await page.keyboard.press('Enter');
    await cell(page, 'oak_reel', 'description')
      .getByRole('button', { name: /a text says 180 Shells, and the price is 200 Shells/ })
      .waitFor();
    await page.getByText('1 error', { exact: true }).waitFor();
  });

  test('a new item is added by its name, filtered for and sorted', async () => {
    const { page } = await openConsole(browser, stall, '/catalog');
    await page.getByLabel("New item's name").fill('Dusk Sail');
    await page.getByRole('button', { name: 'Add item' }).click();
    await cell(page, 'dusk_sail', 'name').waitFor();
    await revision(page, 2);
    expect(await draftItem('dusk_sail')).toEqual({ name: 'Dusk Sail', kind: 'durable' });
    await page.getByRole('textbox', { name: 'Find' }).fill('sail');
    await cell(page, 'oak_reel', 'name').waitFor({ state: 'detached' });
    expect(new URL(page.url()).searchParams.get('find')).toBe('sail');
    await page.getByRole('button', { name: 'Sort by name' }).click();
    expect(await page.getByRole('gridcell', { name: /, name:/ }).allTextContents()).toEqual([
      'Aurora Sail',
      'Cotton Sail',
      'Dusk Sail',
      'First Flight Kit',
      'Lantern Sail',
      'Linen Sail',
      'Petal Sail',
      "Racer's Kit",
      'Ripple Sail',
      'Sea Salt',
      'Silk Sail',
      'Striped Sail',
      'Tide Sail',
    ]);
  });

  test('offers take prices with alternatives, formulas and free', async () => {
    const { page } = await openConsole(browser, stall, '/catalog?view=offers');
    for (const [offer, text] of [
      ['wax_1', '2 pearls | 12 shells'],
      ['pennant', '=20 + 5 * owned(pennant) shells'],
      ['calm_charm', 'free'],
    ]) {
      await page.getByRole('textbox', { name: 'Find' }).fill(offer!);
      await cell(page, offer!, 'price').dblclick();
      await page.getByLabel('Cell', { exact: true }).fill(text!);
      await page.keyboard.press('Enter');
    }
    await revision(page, 4);
    const { offers } = (await stall.as('read').call('GET /draft')).document.shops!['pier_stall']!.shelves['care']!;
    expect(['wax_1', 'pennant', 'calm_charm'].map((id) => offers[id]!.price)).toEqual([
      [{ pearls: 2 }, { shells: 12 }],
      { shells: '=20 + 5 * owned(pennant)' },
      'free',
    ]);
  });
});

describe('Shops and Check', () => {
  const offer = (page: Page, id: string) => page.locator(`[data-offer="${id}"]`);

  test('exactly enough can buy and one short cannot, as the API and the command line say', async () => {
    const { page } = await openConsole(browser, stall, '/shops?player=mateo');
    await offer(page, 'storm_frame').getByText('can buy').waitFor();
    await pick(page, 'Player', 'Oda (oda)');
    await offer(page, 'storm_frame').getByText('Shells: short by 1. It costs 1400 and the player has 1399.').waitFor();
    expect(new URL(page.url()).searchParams.get('player')).toBe('oda');
    await offer(page, 'storm_frame').getByRole('link').click();
    await page.getByText('✗ Refused').waitFor();
    await page.getByRole('region', { name: 'Verdict' }).getByText('short-of').waitFor();
    await pick(page, 'Player', 'Mateo (mateo)');
    await page.getByText('✓ Allowed').waitFor();
    expect(await page.getByRole('table', { name: 'Before and after' }).getByRole('row').allTextContents()).toEqual([
      'whatbeforeafter',
      'Shells14000',
      'Storm Frame01',
    ]);
  });

  test("instants are the economy's, whatever zone the browser is in", async () => {
    const { page } = await openConsole(browser, stall, '/shops?player=mateo&at=2027-06-01T12:00');
    await page.getByText('1 Jun 2027, 12:00 (Europe/Lisbon)').waitFor();
    const at = page.getByLabel('At', { exact: true });
    expect(await at.inputValue()).toBe('2027-06-01 12:00');
    await at.fill('at noon');
    await page.keyboard.press('Enter');
    await page.getByRole('alert').filter({ hasText: 'Write it as 2027-04-26 18:00' }).waitFor();
    await at.fill('2027-06-02 14:30');
    await page.keyboard.press('Enter');
    await page.getByText('2 Jun 2027, 14:30 (Europe/Lisbon)').waitFor();
    await at.fill('');
    await page.keyboard.press('Enter');
    await page.getByText('1 Mar 2027, 09:00 (Europe/Lisbon)').waitFor();
  });

  test('a made-up player is described in rows, is in the address, and can be kept for the visit', async () => {
    const { page } = await openConsole(
      browser,
      stall,
      '/shops?shop=lantern_wagon&player=(made up)&attributes=level%3D1&holds=pearls%3D12',
    );
    await offer(page, 'lantern_sail')
      .getByText('Lantern Wagon serves players for whom level >= 2 (level is 1).')
      .waitFor();
    await page.getByLabel('Who that is').click();
    await page.getByLabel('Attributes: Flyer level').fill('2');
    await page.keyboard.press('Enter');
    await offer(page, 'lantern_sail').getByText('can buy').waitFor();
    await page.getByLabel('Keep as').fill('Lantern fan');
    await page.keyboard.press('Enter');
    await page.getByLabel('Holds: without Pearls').click();
    await offer(page, 'lantern_sail').getByText('can buy').waitFor({ state: 'detached' });
    await page.keyboard.press('Escape');
    await pick(page, 'Player', /^Lantern fan/);
    await offer(page, 'lantern_sail').getByText('can buy').waitFor();
    await page.goto(`${stall.url}/shops?player=(made up)&holds=perls%3D12`);
    await page.getByRole('alert').filter({ hasText: 'There is no currency or item "perls".' }).waitFor();
  });

  test('the draft can be looked at before it is live', async () => {
    await stall.as('design').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1399 }],
      revision: 1,
    });
    const { page } = await openConsole(browser, stall, '/shops?player=oda');
    // Where the draft differs from what is live, it is what one looks at first.
    await offer(page, 'storm_frame').getByText('1399 Shells').waitFor();
    await pick(page, 'Economy', 'what is live');
    await offer(page, 'storm_frame').getByText('1400 Shells').waitFor();
    await pick(page, 'Economy', 'the draft');
    await offer(page, 'storm_frame').getByText('1399 Shells').waitFor();
    await offer(page, 'storm_frame').getByText('can buy').waitFor();
  });

  test("a formula's price is explained, for several at once", async () => {
    await stall.as('support').call('POST /players/{player}/grants', {
      params: { player: 'mateo' },
      body: { gives: { wind_chime: 4 }, reason: 'chimes' },
      key: 'chimes',
    });
    const { page } = await openConsole(browser, stall, '/check?player=mateo&offer=wind_chime&times=2');
    await page.getByText('owned(wind_chime) = 4').waitFor();
    // 60 x 1.15^4 is 104.94 and 60 x 1.15^5 is 120.68, each rounded down.
    await page.getByText('224 Shells').first().waitFor();
  });

  test('alternatives ask how to pay, and answer for each', async () => {
    const { page } = await openConsole(browser, stall, '/check?player=mateo&offer=lantern_sail');
    await page.getByText('Choose how to pay: pearls or shells.').waitFor();
    await pick(page, 'Pay with', 'pearls');
    await page.getByText('Pearls: short by 10. It costs 12 and the player has 2.').waitFor();
  });
});

describe('Publish', () => {
  test('differences, a note, live at once; and back again after a question', async () => {
    await stall.as('design').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/storm_frame/worth/shells', value: 1250 }],
      revision: 1,
    });
    const { page, complaints } = await openConsole(browser, stall, '/publish');
    await page.getByRole('listitem').getByText('Storm Frame, worth in Shells: 1400 -> 1250', { exact: true }).waitFor();
    const button = page.getByRole('button', { name: 'Publish to live' });
    expect(await button.isDisabled()).toBe(true);
    await page.getByLabel(/^Note/).fill('Storm Frame within reach');
    await button.click();
    await page.getByText('release 2 is live').waitFor();
    await page.getByText('Nothing differs from what is live.').waitFor();
    expect((await stall.as('read').call('GET /channels')).items[0]!.release).toBe(2);
    await page.getByRole('button', { name: 'Go back to release 1' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Make release 1 live' }).click();
    await page.getByText('live: release 1').waitFor();
    expect(complaints).toEqual([]);
  });

  test('errors of the audit block it, with their places', async () => {
    await stall.as('design').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/oak_reel/worth', value: { shells: 0 } }],
      revision: 1,
    });
    const { page } = await openConsole(browser, stall, '/publish');
    await page.getByLabel(/^Note/).fill('oops');
    await page.getByText('1 error stands against publishing').waitFor();
    await page.getByText('it asks for 0 Shells').waitFor();
    expect(await page.getByRole('button', { name: 'Publish to live' }).isDisabled()).toBe(true);
  });

  test('a token that may only read is told so', async () => {
    await stall.as('design').call('PATCH /draft', {
      body: [{ op: 'replace', path: '/items/oak_reel/worth/shells', value: 190 }],
      revision: 1,
    });
    const { page } = await openConsole(browser, stall, '/publish', { role: 'read' });
    await page.getByLabel(/^Note/).fill('mine');
    await page.getByRole('button', { name: 'Publish to live' }).click();
    await page.getByRole('alert').filter({ hasText: 'has the role read; this needs publish' }).waitFor();
  });
});

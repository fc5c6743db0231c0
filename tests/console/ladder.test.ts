/// <reference lib="dom" />
/** Prices in playing time, in a browser: beside every price, sorted by, while they are typed; and the ladder, moved by mouse and by keys. */
import type { Browser, Page } from 'playwright-core';
import { eachWithDemo, openConsole, pick, violations } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const open = (path: string) => openConsole(browser, stall, path);
const draft = async () => (await stall.as('read').call('GET /draft')).document;
const cell = (page: Page, row: string, column: string) =>
  page.getByRole('gridcell', { name: new RegExp(`^${row}, ${column}:`) });
const revision = (page: Page, number: number) => page.getByText(`draft ${number}`, { exact: true }).waitFor();
const worth = async (item: string) => (await draft()).items![item]!.worth!['shells'];
const coin = (page: Page, name: string) => page.getByRole('slider', { name, exact: true });
const rungs = (page: Page) =>
  page
    .getByRole('table', { name: 'Rungs' })
    .getByRole('row')
    .evaluateAll((rows) => rows.slice(1).map((row) => row.querySelector('a')!.textContent));

/** `1 h 6 min` in minutes. */
const minutesIn = (text: string): number =>
  Number(/([\d.]+) h/.exec(text)?.[1] ?? 0) * 60 + Number(/(\d+) min/.exec(text)?.[1] ?? 0);

test('the catalog tells and sorts by playing time, for the persona that is chosen once for every room', async () => {
  const { page, complaints } = await open('/catalog');
  const time = cell(page, 'storm_frame', 'playing time');
  await time.filter({ hasText: /^\d.*, (about )?day \d+$/ }).waitFor();
  const forDaydreamer = minutesIn((await time.textContent())!);
  await pick(page, 'Playing time for', 'time for a Racer');
  await time.filter({ hasText: /day 4$|day 5$/ }).waitFor();
  expect(minutesIn((await time.textContent())!)).not.toBe(forDaydreamer);
  expect(await time.getAttribute('title')).toMatch(
    /^\d+ plays \(\d+ Harbour race, \d+ Beach walk\); .* \(.* to .*\); day \d( \(\d to \d\))? for a Racer$/,
  );
  await page.getByRole('button', { name: 'Sort by playing time' }).click();
  const times = await page.getByRole('gridcell', { name: /, playing time:/ }).allTextContents();
  const minutes = times.filter((text) => text.includes('day')).map(minutesIn);
  expect(minutes).toEqual([...minutes].sort((a, b) => a - b));
  expect(minutes.length).toBeGreaterThan(10);
  // What is typed is told before it is kept.
  await cell(page, 'sea_salt', 'worth').click();
  await page.keyboard.type('400 shells');
  const said = page.getByRole('status').filter({ hasText: 'for a Racer' });
  const about400 = (await said.textContent())!;
  // Half a name is no price yet.
  await page.keyboard.press('Backspace');
  await said.waitFor({ state: 'detached' });
  // The first closes what is offered, the second drops what is typed.
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await cell(page, 'sea_salt', 'worth').filter({ hasText: '8 shells' }).waitFor();
  expect(minutesIn(about400.split(';')[1]!.split('(')[0]!)).toBeGreaterThan(60);
  expect(await worth('sea_salt')).toBe(8);
  // Arrows and ranges pass over what is worked out.
  await cell(page, 'sea_salt', 'worth').click();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.type('7');
  await page.keyboard.press('Enter');
  await revision(page, 2);
  expect((await draft()).items!['sea_salt']!.carry).toBe(7);
  // The same persona in another room, and after a reload.
  await page.goto(`${stall.url}/check?offer=storm_frame&source=draft`);
  await page.getByRole('status').filter({ hasText: 'for a Racer' }).waitFor();
  expect(complaints).toEqual([]);
});

test('a price is moved on the ladder by mouse, by keys and by typing; Escape drops, Ctrl+Z takes back', async () => {
  const { page, complaints } = await open('/shops?mode=ladder&of=pier_stall&shelf=pier_stall/frames');
  await coin(page, 'Gull Frame').waitFor();
  expect((await rungs(page)).slice(0, 4)).toEqual(['Drift Frame', 'First Flight Kit', 'Moth Frame', 'Gull Frame']);
  const box = (await coin(page, 'Gull Frame').boundingBox())!;
  const target = (await coin(page, 'Cloud Frame').boundingBox())!;
  await page.mouse.move(box.x + 12, box.y + 12);
  await page.mouse.down();
  // Right of all others: nothing is saved while it moves, and the list follows.
  await page.mouse.move(target.x + 30, target.y + 12, { steps: 8 });
  await page.getByRole('table', { name: 'Rungs' }).getByRole('row').last().filter({ hasText: 'Gull Frame' }).waitFor();
  expect(await worth('gull_frame')).toBe(450);
  await page.mouse.up();
  await revision(page, 2);
  const moved = Number(await worth('gull_frame'));
  expect(moved).toBeGreaterThan(1900);
  expect(moved % 10).toBe(0);
  await page.keyboard.press('Control+z');
  await revision(page, 3);
  expect(await worth('gull_frame')).toBe(450);
  await page.getByLabel('Price of Gull Frame').and(page.locator('[value="450"]')).waitFor();
  // By keys: a little, much, dropped; then kept.
  await coin(page, 'Gull Frame').focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('PageUp');
  await page.getByLabel('Price of Gull Frame').and(page.locator('[value="550"]')).waitFor();
  await page.keyboard.press('Escape');
  await page.getByLabel('Price of Gull Frame').and(page.locator('[value="450"]')).waitFor();
  await page.keyboard.press('ArrowLeft');
  await page.getByLabel('Price of Gull Frame').and(page.locator('[value="440"]')).waitFor();
  // In no frame does it jump back until the ladder is worked out anew.
  const frames = page.evaluate(
    () =>
      new Promise<string[]>((done) => {
        const seen = new Set<string>();
        const end = performance.now() + 1500;
        const look = (): void => {
          seen.add(document.querySelector('[data-coin=gull_frame]')!.getAttribute('aria-valuenow')!);
          if (performance.now() < end) requestAnimationFrame(look);
          else done([...seen]);
        };
        look();
      }),
  );
  await page.keyboard.press('Enter');
  await revision(page, 4);
  expect(await frames).toEqual(['440']);
  expect(await worth('gull_frame')).toBe(440);
  await page.getByLabel('Price of Gull Frame').fill('nothing');
  await page.keyboard.press('Enter');
  await page.getByText(/"nothing" is not an amount/).waitFor();
  await page.getByLabel('Price of Gull Frame').fill('460');
  await page.keyboard.press('Enter');
  await revision(page, 5);
  expect(await worth('gull_frame')).toBe(460);
  expect(await violations(page)).toEqual([]);
  expect(complaints).toEqual([]);
});

test('prices by a rule are shown before they are changed, as one step', async () => {
  const { page, complaints } = await open('/shops?mode=ladder&of=pier_stall&shelf=pier_stall/frames');
  await page.getByRole('button', { name: 'Prices by a rule ...' }).click();
  await page.getByLabel('The lowest price').fill('100');
  await page.getByLabel('Times the one below').fill('1.4');
  await page.getByText('Gull Frame, worth in Shells: 450 -> 270').waitFor();
  expect(await violations(page)).toEqual([]);
  await page.getByLabel('Times the one below').fill('half');
  await page.getByText('Write numbers: the lowest price, and a factor such as 1.4.').waitFor();
  await page.getByLabel('Times the one below').fill('1.4');
  await page.getByRole('button', { name: /^Change \d+ prices$/ }).click();
  await revision(page, 2);
  expect([await worth('drift_frame'), await worth('gull_frame'), await worth('storm_frame')]).toEqual([100, 270, 1500]);
  await page.getByLabel('Price of Drift Frame').and(page.locator('[value="100"]')).waitFor();
  await page.keyboard.press('Control+z');
  await revision(page, 3);
  expect(await worth('storm_frame')).toBe(1400);
  expect(complaints).toEqual([]);
});

test('a formula draws its curve where it is written, with the chosen player on it', async () => {
  const offer = '/shops/pier_stall/shelves/care/offers/wind_chime';
  const { page, complaints } = await open(`/shops?mode=arrange&shop=pier_stall&open=${offer}`);
  await page.getByLabel('Price: Shells').focus();
  const curve = page.getByRole('figure').filter({ hasText: 'by owned(wind_chime)' });
  await curve.getByRole('button', { name: /as a table$/ }).click();
  await curve.getByRole('cell', { name: '12', exact: true }).waitFor();
  expect((await curve.getByRole('row').allTextContents())[2]).toMatch(/^169(\.0+\d*)?$|^1.*69/);
  expect(complaints).toEqual([]);
});

test('a stall where nobody is said to play tells where to say it', async () => {
  const { revision: now } = await stall.as('read').call('GET /draft');
  const gone = ['personas', 'scenarios', 'targets'].map((section) => ({ op: 'remove' as const, path: `/${section}` }));
  await stall.as('design').call('PATCH /draft', { body: gone, revision: now });
  const { page, complaints } = await open('/shops?mode=ladder');
  await page.getByRole('link', { name: 'Say who plays', exact: true }).waitFor();
  await page.goto(`${stall.url}/catalog`);
  await cell(page, 'storm_frame', 'worth').waitFor();
  await page.getByRole('link', { name: 'Say who plays ...' }).waitFor();
  expect(await cell(page, 'storm_frame', 'playing time').count()).toBe(0);
  expect(complaints).toEqual([]);
});

/** docs/tutorial.md, followed to the letter: its command-line half by its commands, its console half in a browser. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { packageRoot } from '../../src/service/index.js';
import { launch, pick } from '../support/browser.js';
import { Tour, timeless, tourSteps } from '../support/tour.js';

const docs = (path: string) => readFileSync(join(packageRoot(), 'docs', path), 'utf8');
const tutorial = docs('tutorial.md');

let browser: Browser;
/** A demo that is typed at and one that is clicked at; each day begins with two of its own. */
let typed: Tour;
let clicked: Tour;
async function begin(): Promise<void> {
  [typed, clicked] = [new Tour(), new Tour()];
  await Promise.all([typed.greeting, clicked.greeting]);
}
async function end(): Promise<void> {
  await typed.stop();
  await clicked.stop();
}
beforeAll(async () => {
  browser = await launch();
});
afterAll(() => browser.close());

const draftOf = async (tour: Tour): Promise<EconomyDocument> => {
  const [url, token] = (await tour.link()).split('/#token=') as [string, string];
  const response = await fetch(`${url}/api/v1/draft`, { headers: { Authorization: `Bearer ${token}` } });
  return ((await response.json()) as { document: EconomyDocument }).document;
};

/** Both halves at once: neither touches the other's demo, and each waits now and then for time to pass. */
describe.each([
  ['day one', typedDayOne, clickedDayOne],
  ['day two', typedDayTwo, clickedDayTwo],
  ['day three', typedDayThree, clickedDayThree],
])('%s', (_, typedDay, clickedDay) => {
  beforeAll(begin);
  afterAll(end);
  test('the command line gives what the tutorial says, and the console comes to the same economy', async () => {
    await Promise.all([typedDay(), clickedDay()]);
    expect(await draftOf(clicked)).toEqual(await draftOf(typed));
  }, 600_000);
});

async function typedDayOne(): Promise<void> {
  await follow(typed, tutorial.slice(tutorial.indexOf('## On the command line\n'), tutorial.indexOf('# Day two')));
}

async function typedDayTwo(): Promise<void> {
  await follow(
    typed,
    tutorial.slice(tutorial.indexOf('## On the command line, day two'), tutorial.indexOf('# Day three')),
  );
}

async function typedDayThree(): Promise<void> {
  await follow(typed, tutorial.slice(tutorial.indexOf('## On the command line, day three')));
}

async function follow(tour: Tour, text: string): Promise<void> {
  const steps = tourSteps(text);
  expect(steps.length).toBeGreaterThan(8);
  for (const { command, output } of steps)
    expect(`$ ${command}\n${timeless(await tour.run(command))}`).toBe(`$ ${command}\n${timeless(output)}`);
}

async function clickedDayOne(): Promise<void> {
  const { page, room, tab, enter, bringIn, saved } = await openedBy(clicked);

  // 1. A group, and ten items.
  await room('Catalog');
  await tab('Groups');
  await enter("New group's name", 'Gale');
  await enter('Name', 'Gale week');
  await tab('Items');
  await bringIn('items', 10);
  // 2. A shelf, offers, tiers.
  await room('Shops');
  await tab('Arrange');
  await enter("New shelf's name", 'Gale');
  await enter('Name', 'Gale week');
  await room('Catalog');
  await tab('Offers');
  await bringIn('offers', 10);
  await room('Shops');
  await tab('Arrange');
  await page.locator('[data-offer=gale_wax]').click();
  await page.getByRole('button', { name: 'Volume tiers ...' }).click();
  await page.getByLabel('Tier 2: percent less').fill('12');
  await page.getByText('Gale Wax x5: 21 shells for each').waitFor();
  await page.getByRole('button', { name: 'Make 2 tiers' }).click();
  await page.locator('[data-offer=gale_wax_5]').waitFor();
  // 3. A crate with odds.
  await room('Loot');
  await enter("New table's name", 'Gale finds');
  await enter('Name', 'Finds of a gale crate');
  await enter('Picks', '2');
  await room('Catalog');
  await tab('Loot entries');
  await bringIn('loot', 4);
  await room('Loot');
  await page.getByRole('button', { name: 'Finds of a gale crate', exact: true }).click();
  await page.getByRole('gridcell', { name: /^nothing, id:/ }).click();
  await page.keyboard.press('Delete');
  await page.getByRole('gridcell', { name: /^nothing, id:/ }).waitFor({ state: 'detached' });
  await room('Catalog');
  await page.getByRole('textbox', { name: 'Find' }).fill('gale_crate');
  await page.getByRole('gridcell', { name: /^gale_crate, id:/ }).click();
  await page.getByRole('button', { name: 'Open gale_crate' }).click();
  await enter('Loot table', 'gale crate');
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
  // The list closes up where a finding was: what stands below it would move from under the mouse.
  for (const words of ['write gale for gales', 'let a player own one']) {
    const mend = page.getByRole('button', { name: `Mend: ${words}` });
    await mend.click();
    await mend.waitFor({ state: 'detached' });
  }
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
  await page.getByText(/^(no findings|\d+ (hint|warning)s?)$/).first().waitFor();
  await page.getByLabel('Note: what is this release about?').fill('Gale week');
  await page.getByRole('button', { name: 'Publish to live' }).click();
  await page.getByText('release 3 is live').waitFor();
  // 6. Tried as a player, and kept.
  await room('Shops');
  await tab('Rehearse');
  await pick(page, 'Player', 'A made-up player');
  await page.getByLabel('Who that is').click();
  await page.getByLabel('Holds: add a currency or item', { exact: true }).fill('969 shells');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await enter('At (now when empty)', '2027-03-01 10:00');
  await page.getByRole('button', { name: 'Buy Squall Frame', exact: true }).click();
  await page.getByRole('list', { name: 'Steps, the last first' }).getByText('short by 1').waitFor();
  await page.getByLabel(/^Given: an amount/).fill('1 shells');
  await page.keyboard.press('Enter');
  await page.getByText('give 1 Shell').waitFor();
  await page.getByRole('button', { name: 'Buy Squall Frame', exact: true }).click();
  await page.getByText('-970 Shells').waitFor();
  await page.getByRole('button', { name: 'Keep as a case' }).click();
  await page.getByText('Kept: what happened must hold').waitFor();
  await room('Catalog');
  await tab('Items');
  await page.getByRole('textbox', { name: 'Find' }).fill('squall_frame');
  await page.getByRole('gridcell', { name: /^squall_frame, worth:/ }).click();
  await page.keyboard.type('960 shells');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: '1 case broken' }).click();
  await page.getByText(/by \w+: Squall Frame, worth in Shells: 970 -> 960$/).first().waitFor();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await page.getByRole('link', { name: '1 case broken' }).waitFor({ state: 'detached' });
  await saved();
  await page.close();
}

async function descriptionOf(page: Page, text: string): Promise<void> {
  await page.getByLabel('Description', { exact: true }).fill(text);
  await page.keyboard.press('Tab');
}

async function clickedDayThree(): Promise<void> {
  const { page, room, enter, saved } = await openedBy(clicked);

  // 1. The Storm Frame is out of reach.
  await room('Simulate');
  await page.getByRole('list', { name: 'Targets' }).getByText('day 25 (24 to 25)').waitFor();
  await page.getByRole('slider', { name: 'Storm Frame', exact: true }).press('Shift+ArrowLeft');
  await page.getByRole('button', { name: /^Storm Frame: back/ }).click();
  for (const name of ['Race prize', 'All frames'])
    await page.getByRole('button', { name: `Take ${name} away` }).click();
  await page.getByRole('button', { name: 'Tune', exact: true }).click();
  const panel = page.getByRole('region', { name: 'Tune' });
  await panel.getByRole('button', { name: 'Tune', exact: true }).click();
  await panel.getByText('Every target can be met').waitFor();
  await panel.getByRole('button', { name: 'Take as a variant' }).first().click();
  await page.getByRole('button', { name: 'To the draft' }).click();
  await page.getByRole('row', { name: /Storm Frame, worth in Shells 1400 1020/ }).waitFor();
  await page.getByRole('region', { name: 'Put into the draft' }).getByRole('button').click();
  await saved();
  // 2. Ribbons flood the festival.
  await pick(page, 'Scenario, on the draft', 'Wind festival');
  await page.getByRole('list', { name: 'Targets' }).getByText('31.5 Ribbons (27 to 35)').waitFor();
  const lever = async (typed: string, name: string) => {
    await page.getByRole('combobox', { name: 'Add a lever' }).fill(typed);
    await page.getByRole('option', { name }).click();
  };
  await page.getByRole('button', { name: 'Levers', exact: true }).click();
  await lever('crate at festival', 'Festival Crate at Festival Booth, limits day');
  await lever('keeper', "Lantern keeper's thanks, limits day");
  await page.getByRole('button', { name: 'Sensitivity', exact: true }).click();
  await page.getByRole('button', { name: 'What moves what?' }).click();
  await page.getByRole('region', { name: 'Sensitivity' }).getByText('+7.5', { exact: true }).waitFor();
  await page.getByRole('button', { name: 'Levers', exact: true }).click();
  await page.getByLabel("earning rule Lantern keeper's thanks, limits day, number").fill('2');
  await page.keyboard.press('Enter');
  await page.getByRole('list', { name: 'Targets' }).getByText('13.5 Ribbons (12 to 17)').waitFor();
  await page.getByRole('button', { name: 'To the draft' }).click();
  await page.getByRole('row', { name: /Lantern keeper's thanks, limits day 4 2/ }).waitFor();
  await page.getByRole('region', { name: 'Put into the draft' }).getByRole('button').click();
  await saved();
  // 3. Giving up pays best.
  const section = async (name: string) => {
    const isEarning = ['Earning rules', 'Goals', 'Tracks', 'Try it'].includes(name);
    await room(isEarning ? 'Earning' : 'Simulate');
    if (!isEarning) await room('Who plays');
    await page.getByRole('navigation', { name: 'Sections' }).getByRole('button', { name, exact: true }).click();
  };
  await section('Activities');
  await page.getByRole('button', { name: /^Harbour race/ }).click();
  await enter('Race finished: difficulty', 'chosen 1: 3, 2: 2, 3: 1');
  await enter("New activity's name", 'Give up at once');
  await enter('Minutes', '1');
  await enter('Reports: add an event', 'race finished');
  await enter('Race finished: place', '6');
  await enter('Race finished: difficulty', 'chosen 1: 1, 3: 1');
  await saved();
  await room('Publish');
  await page.getByText(/with difficulty 3 it pays 12 Shells a minute/).waitFor();
  await section('Earning rules');
  await page.getByRole('gridcell', { name: 'race_prize, id: race_prize' }).click();
  await page.getByRole('button', { name: 'Open race_prize' }).click();
  await enter('Gives: Shells', '=if(place > 3, 8, if(place == 1, 30, 18) * (1 + 0.25 * (difficulty - 1)))');
  await saved();
  await room('Publish');
  await page.getByText(/with difficulty 3 it pays 12 Shells a minute/).waitFor({ state: 'detached' });
  // 4. A goal for the festival.
  await section('Goals');
  await enter("New goal's name", 'The whole pier');
  await enter('Event', 'Festival lantern lit');
  await enter('Target', '80');
  await enter('After', 'Lantern walk');
  await enter('Gives: add a currency or item', 'petal sail');
  await saved();
  await room('Simulate');
  await pick(page, 'Scenario, on the draft', 'Wind festival');
  await page.getByRole('button', { name: 'More charts' }).click();
  await page.getByRole('row', { name: /^The whole pier .*\b9 of 120, later/ }).waitFor();
  await section('Goals');
  await page.getByRole('gridcell', { name: 'the_whole_pier, target: 80' }).click();
  await page.keyboard.type('45');
  await page.keyboard.press('Enter');
  await saved();
  // 5. Levels made flatter.
  await section('Targets');
  await enter("New target's name", 'Racers fly at level 10 in two weeks');
  await pick(page, 'Measure', 'days until they reach the level');
  await enter('Item', '');
  await enter('Persona', 'Racer');
  await enter('Track', 'Flyer level');
  await enter('Level', '10');
  await enter('Not above', '14');
  await enter('Scenario', 'First month');
  await saved();
  await section('Tracks');
  await page.getByRole('button', { name: /^Flyer level/ }).click();
  await enter('Costs', '=80 * (level - 1)');
  await saved();
  await room('Simulate');
  await page.getByRole('list', { name: 'Targets' }).getByText('day 10 (9 to 12)').waitFor();
  // 6. Twenty races tried.
  await section('Try it');
  await pick(page, 'Economy', 'the draft');
  await enter('At (now when empty)', '2027-03-01 09:00');
  await pick(page, 'Event', 'Race finished');
  await page.getByLabel('place').fill('3');
  await page.getByLabel('difficulty').fill('2');
  await page.getByLabel('times').fill('20');
  await page.getByRole('region', { name: 'What it would do' }).getByText('Ten times on the podium reached: 30 Shells').waitFor();
}

/** The console of a tour's demo, and what its reader does again and again. */
async function openedBy(tour: Tour) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(180_000);
  await page.goto(await tour.link());
  return {
    page,
    room: (name: string) => page.getByRole('link', { name, exact: true }).click(),
    tab: (name: string) => page.getByRole('tab', { name }).click(),
    enter: async (label: string, text: string) => {
      await page.getByLabel(label, { exact: true }).fill(text);
      await page.keyboard.press('Enter');
    },
    bringIn: async (sheet: string, count: number) => {
      await page.getByRole('button', { name: 'CSV and paste ...' }).click();
      await page.getByLabel(/or paste rows/).fill(docs(`tutorial/${sheet}.csv`));
      await page.getByRole('button', { name: `Bring in ${count} changes` }).click();
      await page.getByRole('dialog').waitFor({ state: 'detached' });
    },
    saved: () => page.getByRole('status').filter({ hasText: 'all saved' }).waitFor(),
  };
}

async function clickedDayTwo(): Promise<void> {
  const { page, room, tab, enter, bringIn, saved } = await openedBy(clicked);
  // 1. A shelf that turns every night.
  await room('Shops');
  await tab('Arrange');
  await page.getByRole('navigation', { name: 'Shops to arrange' }).getByRole('button', { name: /Festival Booth/ }).click();
  await enter("New shelf's name", 'Nightly');
  await enter('Name', 'Every night');
  await page.getByRole('button', { name: 'Add Rotation' }).click();
  await enter('On show', '2');
  await enter('Every', 'day');
  await enter('At', '18:00');
  await enter('Rests', '1');
  await page.getByRole('button', { name: 'Keep Rotation' }).click();
  await saved();
  await room('Catalog');
  await tab('Offers');
  await bringIn('festival', 6);
  // 2. A sale for the last two days.
  await room('Calendar');
  await pick(page, 'Shop', 'Festival Booth');
  await enter('From', '2027-05-01 00:00');
  await page.getByRole('button', { name: /^ends: End of Ribbons/ }).waitFor();
  await enter("New sale's name", 'Last Lanterns');
  const sale = page.locator('[data-entry="sale last_lanterns"]');
  await enter('Percent off', '25');
  await saved();
  const [box, track] = [await sale.boundingBox(), await sale.locator('..').boundingBox()];
  await page.mouse.move(box!.x + 2, box!.y + 8);
  await page.mouse.down();
  await page.mouse.move(box!.x + 2 + (3 / 14) * track!.width, box!.y + 8, { steps: 8 });
  await page.mouse.up();
  await page.getByRole('button', { name: /^sale: Last Lanterns, Sat,? 8 May,? 00:00 to Mon,? 10 May,? 00:00/ }).waitFor();
  await saved();
  // 3. In Portuguese too.
  await room('Publish');
  await page.getByRole('link', { name: 'texts in pt' }).click();
  await enter('Every night, name', 'Todas as noites');
  await enter('Last Lanterns, name', 'Últimas Lanternas');
  await page.getByText('nothing is missing').waitFor();
  await saved();
  // 4. Three players on three dates.
  const look = async (query: string) => {
    await page.goto(`${new URL(page.url()).origin}/shops?source=draft&shop=festival_booth&${query}`);
    await page.getByRole('heading', { name: /For ribbons|Por fitas/ }).waitFor();
  };
  await look('player=ines&at=2027-04-25T12:00&language=en');
  await page.getByText(/Festival Booth is closed until April 26/).first().waitFor();
  await look('player=(made up)&holds=ribbons=5&at=2027-04-28T20:00&language=en');
  await page.getByText('Buy Lucky Charm for 3 ribbons?').waitFor();
  await look('player=(made up)&holds=ribbons=60&at=2027-05-09T20:00&language=pt');
  await page.getByText('Comprar Flâmula x2 por 1 fita?').waitFor();
  await page.getByText('Todas as noites').waitFor();
  // 5. At a set time.
  await room('Publish');
  await page.getByLabel(/^Note/).fill('The wind festival');
  // Soon, on the clock of Lisbon; a busy machine needs some seconds until it is sent.
  const local = new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Lisbon', dateStyle: 'short', timeStyle: 'medium' });
  await page.getByLabel(/^From/).first().fill(local.format(Date.now() + 12_000));
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: 'Publish to live at that time' }).click();
  await page.getByText(/release 3 will be live at/).waitFor();
  await page.getByText('live: release 1').waitFor();
  await page.getByText('live now points at release 3').waitFor({ timeout: 90_000 });
  await page.getByText('live: release 3').waitFor();
  await page.getByRole('button', { name: 'Go back to release 1' }).click();
  await page.getByRole('button', { name: 'Make release 1 live' }).click();
  await page.getByText('live: release 1').waitFor();
  await page.close();
}

/** Earning: rules, goals and levels made by hand, and tried without anything being kept. */
import type { Browser, Page } from 'playwright-core';
import { eachWithDemo, openConsole, pick } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const draft = async () => (await stall.as('read').call('GET /draft')).document;
const saved = (page: Page) => page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();
const section = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Sections' }).getByRole('button', { name, exact: true }).click();
async function enter(page: Page, label: string, text: string): Promise<void> {
  await page.getByLabel(label, { exact: true }).fill(text);
  await page.keyboard.press('Enter');
}

test('an event, a rule, a goal and a track are made, changed in grid and table, and tried', async () => {
  const { page, complaints } = await openConsole(browser, stall, '/earning');
  await enter(page, "New event's name", 'Lap flown');
  await enter(page, 'Fields: add a name', 'metres');
  await section(page, 'Earning rules');
  await enter(page, "New earning rule's name", 'Lap pay');
  await enter(page, 'On', 'Lap flown');
  await enter(page, 'Gives: Shells', '10');
  await saved(page);

  await section(page, 'Goals');
  await enter(page, "New goal's name", 'Long flyer');
  await enter(page, 'Event', 'Lap flown');
  await enter(page, 'Counts as', '=metres / 100');
  await enter(page, 'Target', '12');
  await enter(page, 'Gives: add a currency or item', 'pearls');
  await enter(page, 'Gives: Pearls', '3');
  await saved(page);
  // In the grid as well, like any sheet.
  const target = page.getByRole('gridcell', { name: 'long_flyer, target: 12' });
  await target.click();
  await page.keyboard.type('20');
  await page.keyboard.press('Enter');
  await saved(page);
  expect((await draft()).goals!['long_flyer']).toEqual({
    name: 'Long flyer',
    counts: 'events',
    event: 'lap_flown',
    target: 20,
    by: '=metres / 100',
    gives: { pearls: 3 },
  });

  await section(page, 'Tracks');
  await enter(page, "New track's name", 'Glider');
  await enter(page, 'Level 2: costs', '50');
  await enter(page, 'Level 2: gives', '2 pearls; 1 brass_key');
  await page.getByRole('button', { name: 'Add level 3' }).click();
  await page.getByLabel('Level 3: costs').waitFor();
  await enter(page, 'Level 3: costs', 'much');
  await page.getByText('"much" should be a number').waitFor();
  await enter(page, 'Level 3: costs', '80');
  await page.getByRole('cell', { name: '130', exact: true }).waitFor();
  expect((await draft()).tracks!['glider']!.levels).toEqual({
    2: { costs: 50, gives: { pearls: 2, brass_key: 1 } },
    3: { costs: 80 },
  });

  // Made-up players work towards them as well.
  await page.getByRole('link', { name: 'Simulate', exact: true }).click();
  await page.getByRole('button', { name: 'More charts' }).click();
  await page.getByRole('row', { name: /^Long flyer( 0 of \d+){3}$/ }).waitFor();
  await page.getByRole('row', { name: /^Glider .* 3 \(\d to \d\)$/ }).waitFor();
  await page.getByRole('link', { name: 'Earning', exact: true }).click();
  await section(page, 'Try it');
  await pick(page, 'Economy', 'the draft');
  await pick(page, 'Event', 'Lap flown');
  await page.getByLabel('metres').fill('300');
  await page.getByLabel('times').fill('7');
  const outcome = page.getByRole('region', { name: 'What it would do' });
  await outcome.getByRole('row', { name: 'Lap pay 7 times 70 Shells' }).waitFor();
  await outcome.getByText('Long flyer reached: 3 Pearls').waitFor();
  await outcome.getByText('Glider: level 2, 2 Pearls and 1 Brass Key').waitFor();
  await page.getByLabel('metres').fill('');
  await page.getByText('metres is a number.').waitFor();
  // Nothing was kept: a look is no event.
  const { items } = await stall.as('read').call('GET /players');
  expect(items).toEqual([]);
  expect(complaints).toEqual([]);
});

test('kinds of teams, shares, a goal and a ranking of teams, and a team with its members, by hand', async () => {
  const { page, complaints } = await openConsole(browser, stall, '/earning?section=teams');
  await enter(page, "New kind of team's name", 'Crew');
  await enter(page, 'Members at most', '2');
  await section(page, 'Earning rules');
  await page.getByRole('gridcell', { name: 'race_prize, name: Race prize' }).click();
  await page.getByRole('button', { name: 'Open race_prize' }).click();
  await enter(page, 'Share: add a kind of team', 'Crew');
  await enter(page, 'Share: Crew', '0.5');
  await section(page, 'Goals');
  await enter(page, "New goal's name", 'Laps together');
  await enter(page, 'Event', 'Race finished');
  await enter(page, 'Target', '2');
  await enter(page, 'Of a team', 'Crew');
  await enter(page, 'Gives: add a currency or item', 'pearls');
  await section(page, 'Rankings');
  await enter(page, "New ranking's name", 'Richest crews');
  await enter(page, 'Teams', 'Crew');
  await saved(page);
  await page.getByText('It ranks from the release on in which it is published.').waitFor();
  const { earning, goals, rankings } = await draft();
  expect([earning!['race_prize']!.share, goals!['laps_together']!.team, rankings!['richest_crews']]).toEqual([
    { crew: 0.5 },
    'crew',
    { name: 'Richest crews', by: 'balance', currency: 'shells', team: 'crew' },
  ]);
  await stall.as('publish').call('POST /releases', { body: { note: 'crews' } });
  for (const id of ['ana', 'ben', 'cy']) await stall.as('game').call('POST /players', { body: { id } });

  await page.goto(`${stall.url}/earning?section=teams&open=/teams/crew`);
  await enter(page, "New team's name", 'The Gulls');
  const gulls = page.getByRole('region', { name: 'The Gulls' });
  for (const player of ['ana', 'ben', 'cy']) {
    await pick(page, 'Let a player join', `${player} (${player})`);
    if (player !== 'cy') await gulls.getByRole('cell', { name: player, exact: true }).first().waitFor();
  }
  await gulls.getByText('The Gulls is full: it has 2 members, and 2 are the most.').waitFor();
  for (const id of ['1', '2'])
    await stall.as('game').call('POST /players/{player}/events', {
      params: { player: 'ana' },
      body: { events: [{ id, name: 'race_finished', fields: { place: 1, difficulty: 1 } }] },
    });
  await page.reload();
  await gulls.getByText('2 of 2 members; holds 30 Shells and 1 Pearl').waitFor();
  await gulls.getByText('Laps together: reached').waitFor();
  await enter(page, "Team's name", 'The Terns');
  await page.getByRole('region', { name: 'The Terns' }).getByRole('button', { name: 'ben leaves' }).click();
  await page.getByText('1 of 2 members').waitFor();
  await section(page, 'Rankings');
  await page.getByRole('gridcell', { name: 'richest_crews, name: Richest crews' }).click();
  await page.getByRole('button', { name: 'Open richest_crews' }).click();
  await page.getByRole('row', { name: '1 The Terns the_gulls 30 Shells' }).waitFor();
  await section(page, 'Teams');
  await page.getByRole('button', { name: 'Dissolve' }).click();
  await page.getByRole('button', { name: 'Dissolve it' }).click();
  await page.getByText('There are none yet.').waitFor();
  // The third was refused.
  expect(complaints.filter((one) => !/409/.test(one))).toEqual([]);
});

test('what is tried is in the address, and is said by the service: limits, pauses and luck count', async () => {
  const { page } = await openConsole(
    browser,
    stall,
    '/earning?section=try&source=draft&events=race_finished place=3 difficulty=2 x20;beach_combed finds=2 x5',
  );
  const outcome = page.getByRole('region', { name: 'What it would do' });
  await outcome.getByText('25 events, 110 minutes of play').waitFor();
  await outcome.getByRole('row', { name: 'Race prize 20 times 440 Shells' }).waitFor();
  await page.getByRole('button', { name: 'Without event 2' }).click();
  await outcome.getByText('20 events, 80 minutes of play').waitFor();
  await page.waitForURL(/events=race_finished\+place%3D3\+difficulty%3D2\+x20$/);
});

test('sections that moved are found by their old address', async () => {
  const { page } = await openConsole(browser, stall, '/economy?section=earning&open=/earning/race_prize');
  await page.waitForURL(/\/earning\?section=earning/);
  expect(await page.getByLabel('Name', { exact: true }).inputValue()).toBe('Race prize');
  await page.goto(`${stall.url}/economy?section=personas&open=/personas/racer`);
  await page.waitForURL(/\/simulate\?view=made&section=personas/);
  expect(await page.getByLabel('Name', { exact: true }).inputValue()).toBe('Racer');
  await page.goto(`${stall.url}/economy`);
  await page.waitForURL(/\/settings$/);
  expect(await page.getByLabel('Name', { exact: true }).inputValue()).toBe('Saltwind Cove');
});

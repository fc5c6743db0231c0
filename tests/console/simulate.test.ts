/// <reference lib="dom" />
/** Simulate: the bench, where charts follow the hand, and runs that the service keeps. */
import { readFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { scenarioResolve, simulateEngine } from '../../src/core/simulation/index.js';
import { targetFigure } from '../../src/core/simulation/report.js';
import { HandRuns } from '../../src/console/simulate/handRuns.js';
import type { HandRun } from '../../src/console/simulate/handRuns.js';
import { leversRead, mixRead, nameClean, variantsRead, variantsWrite } from '../../src/console/simulate/bench.js';
import { eachWithDemo, follow, openConsole, pick } from '../support/browser.js';
import { demoDocument } from '../support/economy.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const draftItem = async (id: string) => (await stall.as('read').call('GET /draft')).document.items![id]!;
const revision = (page: Page, number: number) => page.getByText(`draft ${number}`, { exact: true }).waitFor();

/** What the strip says of the first target, by a run on this side. */
function told(set: Record<string, unknown>, players: number): string {
  const setup = scenarioResolve(demoDocument(), 'first_month', { set, players });
  if (!setup.ok) throw new Error('no set-up');
  const { targets, currencies } = simulateEngine(setup.value);
  return targetFigure(targets[0]!, currencies);
}

const SMALL_BENCH = '/simulate?players=60&days=26';
const settled = (page: Page, players: number) =>
  page
    .getByRole('status')
    .filter({ hasText: `${players} of ${players} players` })
    .first()
    .waitFor();

describe('the bench', () => {
  test('a lever that is moved by keys alone is answered by the run that the service would play', async () => {
    const { page, complaints } = await openConsole(browser, stall, '/simulate?players=60');
    await settled(page, 60);
    const strip = page.getByRole('list', { name: 'Targets' });
    await strip.getByText(told({}, 60)).waitFor();
    const slider = page.getByRole('slider', { name: 'Storm Frame', exact: true });
    await slider.focus();
    // Ten steps of twenty each time.
    for (let press = 0; press < 3; press++) await page.keyboard.press('Shift+ArrowLeft');
    await strip.getByText(told({ '/items/storm_frame/worth/shells': 800 }, 60)).waitFor();
    expect(await page.getByLabel('Storm Frame, number').inputValue()).toBe('800');
    expect(new URL(page.url()).searchParams.get('levers')).toContain('storm_frame@800');
    // The way back is the last move's, then the draft's.
    await page.keyboard.press('Control+z');
    await page.waitForURL(/storm_frame%401000/);
    await page.getByRole('button', { name: /^Storm Frame: back/ }).press('Enter');
    await strip.getByText(told({}, 60)).waitFor();
    expect(complaints).toEqual([]);
  });

  test('what is in hand is kept, compared, and put into the draft in one step that can be taken back', async () => {
    const { page, complaints } = await openConsole(browser, stall, `${SMALL_BENCH}&more=1`);
    await settled(page, 60);
    await page.getByLabel('Storm Frame, number').fill('700');
    await page.keyboard.press('Enter');
    await page.getByLabel('All frames, number').fill('0.8');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Keep as a variant' }).click();
    await page.getByRole('button', { name: 'A', exact: true }).waitFor();
    await page.getByRole('heading', { name: 'What differs from draft by more than chance' }).waitFor();
    await page.getByText('How unevenly Shells are held (Gini, %)').waitFor();
    const uptake = page.getByRole('table', { name: 'Offers' });
    expect(await uptake.getByRole('columnheader').allInnerTexts()).toEqual(
      expect.arrayContaining(['bought by, A', 'bought by, draft', 'refused (player-days)']),
    );
    expect(
      await uptake.getByRole('row', { name: /^Gull Frame Pier Stall gull_frame \d+ .*% .*% .*short of \d/ }).count(),
    ).toBe(1);
    // A row for each goal and run, a column for each persona; a goal is named once.
    const goals = page.getByRole('table', { name: 'Goals: who reached them, and the median day' });
    expect(await goals.getByRole('columnheader').allInnerTexts()).toEqual([
      'goal',
      'run',
      'Daydreamer',
      'Weekender',
      'Racer',
    ]);
    await goals.getByRole('row', { name: /^First race A \d+ of 30, \w+.* \d+ of 21, day 1 9 of 9, day 1$/ }).waitFor();
    await goals
      .getByRole('row', { name: /^draft \d+ of 30, \w+.* \d+ of 21, day 1 9 of 9, day 1$/ })
      .first()
      .waitFor();
    const levels = page.getByRole('table', { name: 'Levels on the last day' });
    await levels.getByRole('row', { name: /^Flyer level A \d+ \(\d+ to \d+\) / }).waitFor();
    const [report] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Report', exact: true }).click(),
    ]);
    const told = readFileSync(await report.path(), 'utf8');
    expect([report.suggestedFilename(), told]).toEqual([
      'First month.html',
      expect.stringMatching(
        /<title>First month: Saltwind Cove, revision 1 of the draft<\/title>.*; seed 7; made on .* by Dime Stall \d+\.\d+\.\d+\..*<p>A: Storm Frame 700, All frames × 0\.80<\/p>.*<h2>Against draft /s,
      ),
    ]);
    await page.getByRole('button', { name: 'To the draft' }).click();
    const changes = page.getByRole('table', { name: 'What would change' });
    // 700 x 0.8: the number is set, then the factor multiplies.
    await changes.getByRole('row', { name: /Storm Frame, worth in Shells 1400 560/ }).waitFor();
    await changes.getByRole('row', { name: /Gull Frame, worth in Shells 450 360/ }).waitFor();
    expect(await page.getByLabel('Note').inputValue()).toBe('from First month: Storm Frame 700, All frames × 0.80');
    await page.getByRole('region', { name: 'Put into the draft' }).getByRole('button').press('Enter');
    await revision(page, 2);
    expect((await draftItem('storm_frame')).worth).toEqual({ shells: 560 });
    const { items } = await stall.as('read').call('GET /draft/revisions', { query: {} });
    expect(items[0]).toMatchObject({ why: 'from First month: Storm Frame 700, All frames × 0.80' });
    await page.getByRole('button', { name: 'Undo' }).click();
    await revision(page, 3);
    expect((await draftItem('storm_frame')).worth).toEqual({ shells: 1400 });
    expect(complaints).toEqual([]);
  });

  test('tune watches the best so far, and an answer becomes a variant', async () => {
    const { page, complaints } = await openConsole(browser, stall, '/simulate?players=40&levers=storm_frame&side=tune');
    await page.getByRole('list', { name: 'Targets' }).waitFor();
    const panel = page.getByRole('region', { name: 'Tune' });
    // A browser without a network still reaches a service on its own machine.
    await page.evaluate(() => window.dispatchEvent(new Event('offline')));
    await panel.getByRole('button', { name: 'Tune', exact: true }).click();
    await page.getByText('best so far', { exact: true }).first().waitFor();
    // It goes on while another tab is looked at.
    await page.getByRole('button', { name: 'Levers', exact: true }).click();
    await page.getByRole('slider', { name: 'Racer' }).waitFor();
    await page.getByRole('button', { name: 'Tune', exact: true }).click();
    await panel.getByText(/Every target can be met|No target is missed/).waitFor({ timeout: 240_000 });
    await panel.getByRole('button', { name: 'Take as a variant' }).first().click();
    await page.waitForURL(/variants=A/);
    const [variant] = variantsRead(new URL(page.url()).searchParams.get('variants')!);
    expect(variant!.levers[0]!.value).toBeLessThan(1400);
    // A tuning is a link: it begins by itself, and what it comes to is the same wherever it is opened.
    await page.reload();
    await panel.getByText(/\d+ runs; best so far/).waitFor();
    await panel.getByRole('button', { name: 'Stop with the best so far' }).click();
    await panel.getByRole('button', { name: 'Take as a variant' }).first().waitFor();
    await page.getByRole('button', { name: 'Sensitivity' }).click();
    await page.getByRole('button', { name: 'What moves what?' }).click();
    await page.getByText(/\+0\.\d+ days/).waitFor({ timeout: 60_000 });
    expect(complaints).toEqual([]);
  }, 480_000);

  test('a room that is left before it has answered answers when one comes back', async () => {
    const bench = '/simulate?players=300&more=1&variants=A%7Cstorm_frame@900%7C';
    const { page, complaints } = await openConsole(browser, stall, bench);
    const away = async (): Promise<void> => {
      await follow(page, '/overview');
      await page.getByRole('heading', { name: 'Saltwind Cove' }).waitFor();
      await follow(page, bench);
    };
    await page.getByText('playing the first run').waitFor();
    await away();
    await settled(page, 300);
    // The run of the variant is still going on.
    await away();
    const goals = page.getByRole('table', { name: 'Goals: who reached them, and the median day' });
    await goals
      .getByRole('row', { name: /^A \d+ of/ })
      .first()
      .waitFor();
    expect(complaints).toEqual([]);
  });

  test('a lever is found by name, and one that is none says why', async () => {
    const { page } = await openConsole(
      browser,
      stall,
      '/simulate?players=40&days=5&levers=/items/storm_frame/name=1..3',
    );
    await page.getByRole('alert').filter({ hasText: 'is no number' }).waitFor();
    await page.getByRole('button', { name: /^Take \/items\/storm_frame\/name/ }).click();
    await page.getByLabel('Add a lever').fill('wind chime');
    await page.getByRole('option').filter({ hasText: 'Wind Chime' }).first().waitFor();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await page.getByRole('slider', { name: /Wind Chime/ }).waitFor();
    await page.getByRole('slider', { name: 'Racer' }).press('Home');
    await page.waitForURL(/mix=.*racer%400/);
  });
});

/** What is being played, until the test lets it end. */
function hand() {
  const plays: { asked: string; players: number; end: (failed?: Error) => void }[] = [];
  const told: HandRun[] = [];
  let rested = (): void => undefined;
  const left = new Error('left');
  const runs = new HandRuns<string>({
    play: (asked, players) => {
      // A run of all is left when another begins.
      for (const one of plays.splice(0)) if (one.players > 200) one.end(left);
      return new Promise((done, fail) => {
        plays.push({ asked, players, end: (error) => (error ? fail(error) : done(`${asked} ${players}` as never)) });
      });
    },
    isLeft: (error) => error === left,
    rest: (then) => {
      rested = then;
      return () => {
        rested = () => undefined;
      };
    },
    onChange: (run) => told.push(run),
  });
  const want = (asked: string, players = 1000) => runs.want({ asked, players, key: `${asked} ${players}` });
  const turn = () => new Promise((go) => setTimeout(go));
  return { plays, told, want, rest: () => rested(), turn };
}

describe('runs that follow the hand', () => {
  test('never more than one behind: what was passed over meanwhile is not played', async () => {
    const { plays, told, want, turn } = hand();
    want('a');
    for (const next of ['b', 'c', 'd']) want(next);
    expect(plays).toMatchObject([{ asked: 'a', players: 200 }]);
    plays[0]!.end();
    await turn();
    expect(plays.map(({ asked }) => asked).at(-1)).toBe('d');
    expect(told.at(-1)).toMatchObject({ result: 'a 200', preliminary: true });
    plays.at(-1)!.end();
    await turn();
    expect(told.at(-1)).toMatchObject({ result: 'd 200', preliminary: true, going: 0 });
  });

  test('all play when the hand rests, and a newer move ends that', async () => {
    const { plays, told, want, rest, turn } = hand();
    want('a');
    plays[0]!.end();
    await turn();
    rest();
    expect(plays.at(-1)).toMatchObject({ asked: 'a', players: 1000 });
    want('b');
    await turn();
    expect(told.at(-1)).toMatchObject({ result: 'a 200', preliminary: true, problem: undefined });
    plays.at(-1)!.end();
    await turn();
    rest();
    plays.at(-1)!.end();
    await turn();
    expect(told.at(-1)).toMatchObject({ result: 'b 1000', preliminary: false, going: undefined });
  });

  test('few are all: nothing is played twice; and what fails is told', async () => {
    const { plays, told, want, turn } = hand();
    want('a', 80);
    plays[0]!.end();
    await turn();
    expect(told).toMatchObject([{ result: 'a 80', preliminary: false }]);
    want('b', 80);
    plays.at(-1)!.end(new Error('it cannot be paid'));
    await turn();
    expect(told.at(-1)).toMatchObject({ result: 'a 80', problem: 'it cannot be paid' });
  });
});

test('three questions make the first scenario, by keys alone, and what it is made of is changed while the charts follow', async () => {
  const { scenarios: _, personas: __, activities: ___, targets: ____, ...economy } = demoDocument();
  const bare = await startStall({ document: economy });
  const { page, complaints } = await openConsole(browser, bare, '/simulate');
  await page.getByLabel('How long? Days').focus();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('10');
  await page.keyboard.press('Tab');
  await page.keyboard.type('0');
  await page.getByText('Players are a whole number from 2 to 20,000.').waitFor();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('60');
  // Nobody of the first kind.
  await page.keyboard.press('Tab');
  await page.keyboard.type('0');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await settled(page, 60);
  const draft = async () => (await bare.as('read').call('GET /draft')).document;
  expect((await draft()).scenarios!['first_look']).toMatchObject({ days: 10, players: 60, mix: { every_day: 1 } });
  expect(Object.keys((await draft()).personas!)).toEqual(['on_weekends', 'every_day']);

  await page.getByRole('button', { name: 'Set up' }).press('Enter');
  const made = page.getByRole('region', { name: 'What it is made of' });
  await made.getByRole('button', { name: 'Personas' }).press('Enter');
  await made.getByRole('button', { name: /^Every day/ }).press('Enter');
  const first = await page.getByText(/events, .* purchases/).textContent();
  const slider = made.getByRole('slider', { name: 'Plays: Race finished' });
  await slider.focus();
  await page.keyboard.press('End');
  await revision(page, 3);
  expect((await draft()).personas!['every_day']!.plays).toMatchObject({ race_finished: 2, chime_hung: 1 });
  await made.getByRole('textbox', { name: 'Minutes' }).fill('60');
  await page.keyboard.press('Enter');
  await revision(page, 4);
  await page.waitForFunction((words) => !document.body.textContent.includes(words!), first);
  await settled(page, 60);

  await made.getByLabel("New persona's name").fill('Patron');
  await page.keyboard.press('Enter');
  await made.getByRole('button', { name: 'Duplicate Patron' }).click();
  await revision(page, 6);
  await made.getByRole('button', { name: /^Delete Patron/ }).click();
  await revision(page, 7);
  expect(Object.keys((await draft()).personas!)).toHaveLength(3);
  expect(complaints).toEqual([]);
  await bare.stop();
});

test('the address keeps what stands on the bench, and forgives what cannot be read', () => {
  const levers = [
    { spec: 'storm_frame', value: 900 },
    { spec: '/items/sail/worth/shells=50..90:5', value: null },
    { spec: 'group:frames*0.5..1.5', value: 0.85 },
  ];
  const variants = [
    { name: 'cheap', levers, mix: { weekender: 3.5, racer: 0 } },
    { name: 'B', levers: [], mix: undefined },
  ];
  expect(variantsRead(variantsWrite(variants))).toEqual(variants);
  expect(leversRead('a@1;a@2;;b@x')).toEqual([
    { spec: 'a', value: 2 },
    { spec: 'b@x', value: null },
  ]);
  expect(mixRead('racer@-1;@;x')).toBeUndefined();
  expect(nameClean(' a|b~c@d;e ')).toBe('a b c d e');
});

describe('runs that the service keeps', () => {
  test('run, change one price, run again, and see both together', async () => {
    const { page, complaints } = await openConsole(browser, stall, '/simulate?view=runs');
    await pick(page, 'Scenario, on the draft', /Racers only/);
    await page.getByLabel('Days', { exact: true }).fill('8');
    await page.getByLabel('Players', { exact: true }).fill('40');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.getByText('Racer (40 players): Shells').waitFor();
    await pick(page, 'Change one price for this run', /Gull Frame at Pier Stall/);
    await page.getByLabel('to', { exact: true }).fill('900');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.getByRole('heading', { name: 'What differs from run 1 by more than chance' }).waitFor();
    await page.getByRole('table', { name: 'Differences' }).getByText('Gull Frame: days to own').waitFor();
    expect(new URL(page.url()).search).toMatch(/run=2&before=1|before=1&run=2/);
    // The chart as a table says the same numbers as the result.
    await page.getByRole('button', { name: 'Racer (40 players): Shells as a table' }).click();
    const { balances } = await stall.as('read').call('GET /runs/{run}/result', { params: { run: 2 } });
    const row = balances.day.findIndex((day, index) => day === 7 && balances.currency[index] === 0);
    const cells = await page
      .getByRole('table', { name: 'Racer (40 players): Shells' })
      .getByRole('row')
      .last()
      .getByRole('cell')
      .allTextContents();
    // Day 7 of the result is the eighth.
    expect(cells.slice(0, 6).map(Number)).toEqual([
      8,
      balances.p5[row],
      balances.p25[row],
      balances.p50[row],
      balances.p75[row],
      balances.p95[row],
    ]);
    expect(complaints).toEqual([]);
    await page.getByRole('button', { name: 'Put this price into the draft' }).click();
    await revision(page, 2);
    expect((await draftItem('gull_frame')).worth).toEqual({ shells: 900 });
  });

  test('runs stand in a table with what they were of; up to four are ticked and looked at together', async () => {
    const design = stall.as('design');
    const asked = { scenario: 'racers_only', days: 6, players: 20 };
    for (const [name, price] of [
      ['As it is', undefined],
      ['Cheap gull', 300],
      ['Dear gull', 900],
    ] as const) {
      const set = price === undefined ? {} : { set: { '/items/gull_frame/worth/shells': price } };
      const { id } = await design.call('POST /runs', { body: { ...asked, name, ...set } });
      await design.watchRun(id);
    }
    const { page, complaints } = await openConsole(browser, stall, '/simulate?view=runs');
    const table = page.getByRole('table', { name: 'Saved runs' });
    await table
      .getByRole('row', { name: /3 Dear gull Gull Frame, worth in Shells 900, 20 players.* 6 design /i })
      .waitFor();
    await table.getByRole('button', { name: 'Cheap gull' }).click();
    await page.getByText('Racer (20 players): Shells').waitFor();
    expect(await table.getByRole('checkbox', { name: 'Look at run 2, Cheap gull' }).isChecked()).toBe(true);
    await table.getByRole('checkbox', { name: 'Look at run 3, Dear gull' }).click();
    await page.getByRole('heading', { name: 'What differs from run 2 by more than chance' }).waitFor();
    await table.getByRole('checkbox', { name: 'Look at run 1, As it is' }).click();
    await page.getByText('More charts').click();
    await page
      .getByRole('table', { name: 'Differences' })
      .getByRole('row', { name: /^run 3 Racer Gull Frame: days to own/ })
      .waitFor();
    const offers = page.getByRole('table', { name: 'Offers' });
    await offers.getByRole('row', { name: /^Gull Frame Pier Stall gull_frame / }).waitFor();
    await table.getByRole('checkbox', { name: 'Look at run 2, Cheap gull' }).click();
    await page.getByRole('heading', { name: 'What differs from run 3 by more than chance' }).waitFor();
    expect(complaints).toEqual([]);
  });

  test('progress is seen, and a run can be cancelled', async () => {
    const { page } = await openConsole(browser, stall, '/simulate?view=runs');
    await page.getByLabel('Days', { exact: true }).fill('3000');
    await page.getByLabel('Players', { exact: true }).fill('2000');
    await page.getByRole('button', { name: 'Run', exact: true }).click();
    await page.getByText(/day \d+ of 3000/).waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await page.getByText('cancelled', { exact: true }).first().waitFor();
    expect((await stall.as('read').call('GET /runs/{run}', { params: { run: 1 } })).status).toBe('cancelled');
  });

  test('a chart is saved as CSV', async () => {
    const { id } = await stall
      .as('design')
      .call('POST /runs', { body: { scenario: 'racers_only', days: 3, players: 10 } });
    await stall.as('design').watchRun(id);
    const { page } = await openConsole(browser, stall, `/simulate?run=${id}`);
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save Racer (10 players): Shells as CSV' }).click(),
    ]);
    const text = readFileSync(await download.path(), 'utf8');
    expect(text).toMatch(/^day,p5,p25,median,p75,p95,players\r\n1,/);
    expect(text.trim().split('\r\n')).toHaveLength(4);
    const [picture] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save Racer (10 players): Shells as PNG' }).click(),
    ]);
    expect(
      readFileSync(await picture.path())
        .subarray(1, 4)
        .toString(),
    ).toBe('PNG');
  });
});

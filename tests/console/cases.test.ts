/** Cases in a browser: kept from a rehearsal with one press, broken by a change that is named, loosened, proposed, in the way of publishing. */
import type { Browser, Page } from 'playwright-core';
import { eachWithDemo, openConsole, violations } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

const open = (path: string) => openConsole(browser, stall, path);
const draft = async () => (await stall.as('read').call('GET /draft')).document;
const change = async (path: string, value: unknown) => {
  const { revision } = await stall.as('read').call('GET /draft');
  await stall.as('design').call('PATCH /draft', { body: [{ op: 'add', path, value }], revision });
};
const row = (page: Page, name: string | RegExp) =>
  page.getByRole('list', { name: 'Cases' }).getByRole('listitem').filter({ hasText: name });
const allSaved = (page: Page) => page.getByRole('status').filter({ hasText: 'all saved' }).waitFor();

test('a rehearsal is kept with one press; a price that changes breaks it, says so everywhere, and a range mends it', async () => {
  const rehearsal = '/shops?mode=rehearse&shop=pier_stall&player=(made up)&holds=shells%3D149&at=2027-03-01T10:00';
  const { page, complaints } = await open(rehearsal);
  await page.getByRole('button', { name: 'Buy Drift Frame', exact: true }).click();
  await page.getByLabel(/^Given: an amount/).fill('1 shells');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Buy Drift Frame', exact: true }).click();
  await page.getByText('-150 Shells').waitFor();
  await page.getByRole('button', { name: 'Keep as a case' }).click();
  await page.getByRole('link', { name: 'Buy Drift Frame at Pier Stall: refused for short-of' }).click();
  await page.getByRole('heading', { name: 'Buy Drift Frame at Pier Stall: refused for short-of' }).waitFor();
  await row(page, 'Buy Drift Frame').getByText('holds', { exact: true }).waitFor();
  expect(await draft()).toMatchObject({
    cases: {
      buy_drift_frame_at_pier_stall_refused_for_short_of: {
        at: '2027-03-01T10:00',
        player: { holds: { shells: 149 } },
        steps: [
          { buy: 'drift_frame', expect: { verdict: ['short-of'] } },
          { give: { shells: 1 } },
          { buy: 'drift_frame', expect: { verdict: 'allowed', price: { shells: 150 }, holds: { shells: 0 } } },
        ],
      },
    },
  });
  expect(await violations(page)).toEqual([]);
  // In another room the price is changed: the mark is there, and says what did it.
  await change('/items/drift_frame/worth/shells', 149);
  await page.getByRole('link', { name: /^\d case(s)? broken$/ }).waitFor();
  const broken = row(page, 'Buy Drift Frame');
  await broken
    .getByText('step 1, buy Drift Frame at Pier Stall: verdict: refused for short-of expected, allowed found')
    .waitFor();
  await broken.getByText(/^revision \d+ by design: Drift Frame, worth in Shells: 150 -> 149$/).waitFor();
  // What is not meant is taken out, and what may vary is loosened.
  await page.getByRole('button', { name: 'Step 1: take out verdict' }).click();
  const write = async (line: string, text: string) => {
    await page.getByLabel(`Step 3: ${line}`).fill(text);
    await page.keyboard.press('Enter');
  };
  await write('verdict', 'short-of, carry-full');
  await write('price in Shells', '149-150');
  await write('holds Shells', '1 or less');
  await allSaved(page);
  await broken.getByText('holds', { exact: true }).waitFor();
  const kept = (await draft()).cases!['buy_drift_frame_at_pier_stall_refused_for_short_of']!;
  expect(kept.steps![0]!.expect).toBeUndefined();
  expect(kept.steps![2]!.expect).toMatchObject({
    verdict: ['short-of', 'carry-full'],
    price: { shells: { from: 149, to: 150 } },
    holds: { shells: { to: 1 } },
  });
  expect(complaints).toEqual([]);
});

test('by keys: a line is added, written as a range, refused where it is none; a step is taken out; it is rehearsed and kept again', async () => {
  const { page, complaints } = await open('/shops?mode=cases&open=/cases/storm_frame_one_over');
  await page.getByLabel('Step 1: add what must hold').fill('price in shells');
  await page.getByRole('option', { name: /^🐚 ?price in Shells|price in Shells/ }).waitFor();
  await page.keyboard.press('Enter');
  const price = page.getByLabel('Step 1: price in Shells');
  await price.fill('about 1400');
  await page.keyboard.press('Enter');
  await page.getByText('should be a number or a range').waitFor();
  await price.fill('1300-1500');
  await page.keyboard.press('Enter');
  await allSaved(page);
  await row(page, 'One shell over').getByText('holds', { exact: true }).waitFor();
  expect((await draft()).cases!['storm_frame_one_over']!.steps![0]!.expect).toMatchObject({
    price: { shells: { from: 1300, to: 1500 } },
  });
  await page.getByRole('link', { name: 'Rehearse it' }).press('Enter');
  await page.getByRole('button', { name: 'Buy Storm Frame', exact: true }).press('Enter');
  await page
    .getByText(/carry-full/)
    .first()
    .waitFor();
  await page.getByRole('button', { name: 'Keep in “One shell over, and one is left”' }).press('Enter');
  await page.getByText('Kept: what happened must hold').waitFor();
  await page.getByRole('link', { name: 'One shell over, and one is left' }).press('Enter');
  await page.getByLabel('Step 2: verdict').waitFor();
  expect((await draft()).cases!['storm_frame_one_over']).toMatchObject({
    name: 'One shell over, and one is left',
    steps: [{ expect: { price: { shells: 1400 } } }, { expect: { verdict: ['short-of', 'carry-full'] } }],
  });
  await page.getByRole('button', { name: 'Take out step 1' }).press('Enter');
  await page.getByLabel('Step 2: verdict').waitFor({ state: 'detached' });
  await row(page, 'One shell over').getByText('broken', { exact: true }).waitFor();
  expect(complaints).toEqual([]);
});

test('cases are proposed for an offer; what is struck out is not kept; what is broken is in the way of publishing', async () => {
  await change('/audit/brokenCases', 'refuse');
  const { page, complaints } = await open(
    '/shops?mode=arrange&shop=pier_stall&open=/shops/pier_stall/shelves/care/offers/calm_charm',
  );
  await page.getByRole('link', { name: 'Propose cases ...' }).click();
  await page.getByLabel('Keep Calm Charm at Pier Stall: one over').uncheck();
  expect(await violations(page)).toEqual([]);
  await page.getByRole('button', { name: 'Keep 5 cases' }).click();
  await row(page, 'Calm Charm at Pier Stall: the day after').getByText('holds', { exact: true }).waitFor();
  const { cases } = await draft();
  expect(Object.keys(cases!).filter((id) => id.startsWith('calm_charm_'))).toEqual([
    'calm_charm_exactly',
    'calm_charm_one_short',
    'calm_charm_once_more',
    'calm_charm_day_after',
    'calm_charm_full_of_calm_charm',
  ]);
  await change('/shops/pier_stall/shelves/care/offers/calm_charm/limits/day', 3);
  await row(page, 'Calm Charm at Pier Stall: 2 times, and once more').getByText('broken', { exact: true }).waitFor();
  await page.getByRole('button', { name: 'Only broken ones' }).click();
  await row(page, 'Storm Frame').first().waitFor({ state: 'detached' });
  await page.getByRole('link', { name: 'Publish', exact: true }).click();
  await page.getByLabel(/^Note/).fill('Three charms a day');
  await page
    .getByText(/\d cases do not hold/)
    .first()
    .waitFor();
  expect(await page.getByRole('button', { name: 'Publish to live' }).isDisabled()).toBe(true);
  await change('/audit/brokenCases', 'warn');
  await page.getByText('The economy lets a release be made all the same.').waitFor();
  await page.getByRole('button', { name: 'Publish to live' }).click();
  await page.getByText('release 2 is live').waitFor();
  await page.getByRole('link', { name: 'Overview', exact: true }).click();
  await page.getByRole('link', { name: 'Calm Charm at Pier Stall: 2 times, and once more' }).waitFor();
  expect(complaints).toEqual([]);
});

test('a copy says which of its fields are still as they were copied, until they are touched', async () => {
  const { page, complaints } = await open('/catalog?open=/items/gull_frame');
  await page.getByRole('button', { name: 'Duplicate Gull Frame' }).click();
  const note = page.getByRole('note').filter({ hasText: 'Still as in Gull Frame' });
  await note.waitFor();
  expect(await note.innerText()).toBe('Still as in Gull Frame: Icon, Carry limit, Worth, Description.');
  await page.getByLabel('Description', { exact: true }).fill('Turns wide.');
  await page.keyboard.press('Tab');
  await page.getByRole('note').filter({ hasText: 'Icon, Carry limit, Worth.' }).waitFor();
  expect(complaints).toEqual([]);
});

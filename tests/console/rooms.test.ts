/// <reference lib="dom" />
/** Every room as it opens: accessible in both colour schemes, quiet, within its width; and what an empty one says. */
import { readFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { follow, launch, openConsole } from '../support/browser.js';
import type { Visit } from '../support/browser.js';
import { startStall } from '../support/stall.js';
import type { Stall } from '../support/stall.js';

const ROOMS = [
  '/overview',
  '/catalog',
  '/catalog?view=offers',
  '/catalog?open=/items/tide_crate',
  '/loot?table=tide_finds',
  '/shops?player=oda',
  `/shops?mode=rehearse&source=draft&shop=pier_stall&player=oda&steps=${encodeURIComponent('[{"buy":"wax_1"},{"buy":"storm_frame"},{"wait":"day"}]')}`,
  '/shops?mode=cases&open=/cases/festival_ends',
  '/shops?mode=arrange&shop=pearl_counter&open=/shops/pearl_counter/shelves/pearls/offers/pearls_55',
  '/check?player=oda&offer=storm_frame',
  '/simulate?run=1',
  '/simulate?players=60&days=6&scenario=first_month',
  '/settings',
  '/shops?mode=ladder&of=pier_stall',
  '/simulate?view=made&section=personas&open=/personas/racer',
  '/earning?section=earning&open=/earning/race_prize',
  '/earning?section=try',
  '/calendar?from=2027-03-20T00:00',
  '/publish',
  '/simulate?view=fit',
  '/access',
];
const axe = readFileSync(require.resolve('axe-core/axe.min.js'), 'utf8');

let browser: Browser;
let stall: Stall;
let visit: Visit;
// Nothing here changes anything, so all rooms look at the same stall.
beforeAll(async () => {
  [browser, stall] = await Promise.all([launch(), startStall()]);
  await stall.as('admin').call('POST /players', { body: { id: 'oda', name: 'Oda', attributes: { level: 3 } } });
  await stall.as('admin').call('POST /players/{player}/grants', {
    params: { player: 'oda' },
    body: { gives: { shells: 1339 }, reason: 'wallet' },
    key: 'wallet',
  });
  const { id } = await stall
    .as('design')
    .call('POST /runs', { body: { scenario: 'racers_only', days: 3, players: 10 } });
  await stall.as('design').watchRun(id);
  visit = await openConsole(browser, stall, '/overview');
  await visit.page.evaluate(axe);
});
afterAll(async () => {
  await browser.close();
  await stall.stop();
});

/** What an accessibility checker finds serious or worse: of everything, or of some rules alone. */
const violations = (page: Page, ...rules: string[]): Promise<string[]> =>
  page.evaluate(async (only) => {
    const { axe: tool } = window as unknown as {
      axe: {
        run(options: object): Promise<{
          violations: { id: string; impact: string; nodes: { html: string; failureSummary: string }[] }[];
        }>;
      };
    };
    return (await tool.run({ resultTypes: ['violations'], ...(only.length > 0 ? { runOnly: only } : {}) })).violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .map(({ id, nodes }) => `${id}: ${nodes[0]!.html} ${nodes[0]!.failureSummary}`);
  }, rules);

/** Until nothing more comes in: what is looked at is the room with its contents. */
async function settled(page: Page): Promise<void> {
  await page.getByText('One moment').waitFor({ state: 'detached' });
  await page.waitForFunction(
    () => {
      const text = document.querySelector('main')!.innerText;
      const isSame = text === (window as { seen?: string }).seen;
      (window as { seen?: string }).seen = text;
      return isSame;
    },
    undefined,
    { polling: 150 },
  );
}

test.each(ROOMS)(
  '%s: no serious finding of accessibility, light or dark, nothing on the console, no sideways scroll',
  async (room) => {
    const { page, complaints } = visit;
    complaints.length = 0;
    await follow(page, room);
    await settled(page);
    expect(await violations(page)).toEqual([]);
    await page.getByRole('button', { name: 'Switch to dark theme' }).click();
    await page.locator('[data-theme=dark]').waitFor();
    // Of a scheme only its colours are new.
    const unseen = await violations(page, 'color-contrast');
    // The next room begins in light.
    await page.getByRole('button', { name: 'Switch to light theme' }).click();
    expect(unseen).toEqual([]);
    expect(complaints).toEqual([]);
    // At half of a wide screen, too; charts come to their new width after it.
    for (const width of [1024, 1280]) {
      await page.setViewportSize({ width, height: 800 });
      await page.waitForFunction(
        () => document.documentElement.scrollWidth === document.documentElement.clientWidth,
        undefined,
        { timeout: 120_000 },
      );
    }
  },
);

test('a long text has room for its lines, a name has one', async () => {
  const { page } = await openConsole(browser, stall, '/catalog?open=/items/tide_crate');
  const tagOf = (label: string) => page.getByLabel(label, { exact: true }).evaluate(({ tagName }) => tagName);
  expect([await tagOf('Description'), await tagOf('Name')]).toEqual(['TEXTAREA', 'INPUT']);
});

test('a system that prefers dark is met in dark', async () => {
  const { page } = await openConsole(browser, stall, '/overview', { dark: true });
  await page.locator('[data-theme=dark]').waitFor();
  await page.getByRole('button', { name: 'Switch to light theme' }).waitFor();
});

test('an empty service says in each room what to do next', async () => {
  const empty = await startStall({ publish: false });
  const { page } = await openConsole(browser, empty, '/overview');
  for (const [room, words] of [
    ['/overview', /Nothing is live/],
    ['/catalog', /Nothing here yet/],
    ['/shops', /There is no shop yet/],
    ['/shops?mode=look&source=live', /Nothing is live yet/],
    ['/simulate', /Three questions/],
    ['/simulate?view=made&section=scenarios', /takes a persona first/],
    ['/publish', /Nothing was published yet/],
  ] as const) {
    await follow(page, room);
    await page.getByText(words).first().waitFor();
  }
  await page.close();
  await empty.stop();
});

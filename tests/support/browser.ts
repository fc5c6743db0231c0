/** Headless Chromium for the console's tests. */
import { existsSync, readFileSync } from 'node:fs';
import { chromium } from 'playwright-core';
import type { Browser, Page } from 'playwright-core';
import { startStall } from './stall.js';
import type { Stall } from './stall.js';

/** The shell has no window to draw, and takes two thirds of the time. */
const PLACES = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'];

/** Where the tests' environment looks for pages when a test fails. */
const launched = globalThis as { browsersLaunched?: Browser[] };

export async function launch(): Promise<Browser> {
  const browser = await chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? PLACES.find((path) => existsSync(path)) ?? 'chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
  (launched.browsersLaunched ??= []).push(browser);
  return browser;
}

export interface Visit {
  page: Page;
  /** What the page complained about. */ complaints: string[];
}

/** One browser for the tests of a file, and for each of them a demo of its own, whose pages are closed after it. */
export function eachWithDemo(hand: (of: { browser: Browser; stall: Stall }) => void): void {
  let browser: Browser;
  let stall: Stall;
  beforeAll(async () => {
    browser = await launch();
  });
  afterAll(() => browser.close());
  beforeEach(async () => {
    stall = await startStall();
    hand({ browser, stall });
  });
  afterEach(async () => {
    for (const context of browser.contexts()) await context.close();
    await stall.stop();
  });
}

/** A signed-in page at 1280 x 800. */
export async function openConsole(
  browser: Browser,
  stall: Stall,
  path: string,
  options: { role?: 'admin' | 'read' | 'design'; dark?: boolean } = {},
): Promise<Visit> {
  const page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    colorScheme: options.dark ? 'dark' : 'light',
    timezoneId: 'America/New_York',
  });
  // As long as a busy machine takes for what a run has to be played for.
  page.setDefaultTimeout(120_000);
  const complaints: string[] = [];
  page.on('console', (message) => {
    if (message.type() === 'error') complaints.push(message.text());
  });
  page.on('pageerror', (error) => complaints.push(error.message));
  await page.goto(`${stall.url}${path}#token=${stall.tokens[options.role ?? 'admin']}`);
  await page.getByRole('navigation', { name: 'Rooms' }).waitFor();
  return { page, complaints };
}

/** Goes to another address within the page, as a link would: nothing is loaded again. */
export const follow = (page: Page, path: string): Promise<void> =>
  page.evaluate((to) => {
    history.pushState(null, '', to);
    dispatchEvent(new PopStateEvent('popstate'));
  }, path);

/** Picks an option of a drop-down by their labels. */
export async function pick(page: Page, label: string, option: string | RegExp): Promise<void> {
  await page.getByRole('combobox', { name: label, exact: true }).click();
  await page.getByRole('option', { name: option }).click();
}

let axe: string | undefined;

/** Serious findings of accessibility, as they stand. */
export async function violations(page: Page): Promise<string[]> {
  axe ??= readFileSync(require.resolve('axe-core/axe.min.js'), 'utf8');
  await page.evaluate(axe);
  return page.evaluate(async () => {
    type Tool = {
      run(options: object): Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }>;
    };
    const { violations: all } = await (window as unknown as { axe: Tool }).axe.run({
      resultTypes: ['violations'],
    });
    return all
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .map(({ id, nodes }) => `${id}: ${nodes[0]!.html}`);
  });
}

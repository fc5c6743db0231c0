/// <reference lib="dom" />
/** Who comes in, what happens when the session ends, who may do what, and a room that cannot be loaded. */
import type { Browser } from 'playwright-core';
import { eachWithDemo, openConsole } from '../support/browser.js';
import type { Stall } from '../support/stall.js';

let browser: Browser;
let stall: Stall;
eachWithDemo((of) => ({ browser, stall } = of));

describe('signing in', () => {
  test('the link signs in and leaves no token in the address', async () => {
    const { page } = await openConsole(browser, stall, '/overview');
    expect(page.url()).toBe(`${stall.url}/overview`);
    await page.reload();
    await page.getByRole('heading', { name: 'Saltwind Cove' }).waitFor();
    await page.getByRole('button', { name: 'Signed in as admin' }).click();
    await page.getByRole('button', { name: 'Sign out', exact: true }).click();
    await page.getByLabel('Access token').waitFor();
  });

  test('a session that ends while something is typed is begun anew above it, and nothing is lost', async () => {
    const { page } = await openConsole(browser, stall, '/catalog?open=/items/tide_crate');
    const description = page.getByLabel('Description', { exact: true });
    await description.fill('Typed overnight.');
    const admin = stall.as('admin');
    const { items } = await admin.call('GET /tokens');
    const session = items.find(({ kind }) => kind === 'session')!;
    await admin.call('DELETE /tokens/{token}', { params: { token: session.id } });
    await page.keyboard.press('Tab');
    const window = page.getByRole('dialog', { name: 'You are signed out' });
    await window.getByLabel('Access token').fill('no such token');
    await page.keyboard.press('Enter');
    await window.getByRole('alert').filter({ hasText: 'This token is not known' }).waitFor();
    await window.getByLabel('Access token').fill(stall.tokens.design);
    await page.keyboard.press('Enter');
    await window.waitFor({ state: 'detached' });
    await page.getByText('Not saved: You are not signed in, or not any more.').waitFor();
    expect(await description.inputValue()).toBe('Typed overnight.');
    await page.getByRole('button', { name: 'Try again' }).click();
    await page.getByText('draft 2', { exact: true }).waitFor();
    expect((await stall.as('read').call('GET /draft')).document.items!['tide_crate']!.description).toBe(
      'Typed overnight.',
    );
    await page.getByRole('button', { name: 'Signed in as design' }).waitFor();
  });

  test('without a token it asks for one, and a wrong one is told', async () => {
    const page = await browser.newPage();
    await page.goto(stall.url);
    await page.getByLabel('Access token').fill('ds_wrong');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByRole('alert').filter({ hasText: 'This token is not known' }).waitFor();
    await page.getByLabel('Access token').fill(stall.tokens.design);
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Saltwind Cove' }).waitFor();
  });
});

test('what cannot be loaded says so, and the rest goes on', async () => {
  const { page } = await openConsole(browser, stall, '/overview');
  const room = (name: string) =>
    page.getByRole('navigation', { name: 'Rooms' }).getByRole('link', { name, exact: true }).click();
  // As after a change of the service's version, whose files have other names.
  await page.route('**/assets/Loot-*.js', (route) => route.fulfill({ status: 404 }), { times: 1 });
  await room('Loot');
  await page.getByRole('alert').filter({ hasText: 'This room cannot be shown.' }).waitFor();
  await room('Shops');
  await page.getByRole('heading', { name: 'Shops' }).waitFor();
  await room('Loot');
  await page.getByRole('button', { name: 'Load the page anew' }).click();
  await page.getByRole('button', { name: 'Finds of a drift crate', exact: true }).waitFor();

  await page.route('**/assets/Find-*.js', (route) => route.fulfill({ status: 404 }));
  await page.reload();
  await page.getByRole('button', { name: 'Finds of a drift crate', exact: true }).waitFor();
  await page.keyboard.press('Control+k');
  await page.getByRole('dialog', { name: 'Find anything' }).getByText('This cannot be shown.').waitFor();
});

describe('Access', () => {
  test('a token is made, read once, and revoked after a question', async () => {
    const { page, complaints } = await openConsole(browser, stall, '/publish');
    await page.getByRole('button', { name: 'Signed in as admin' }).click();
    await page.getByRole('link', { name: 'Access' }).click();
    await page.getByLabel('Whose it is').fill('Pier game');
    await page.getByLabel('Role').click();
    await page.getByRole('option', { name: /^game/ }).click();
    await page.getByLabel(/^Days/).fill('90');
    await page.getByRole('button', { name: 'Make it' }).click();
    const token = await page.getByRole('status').locator('code').textContent();
    const game = () =>
      fetch(`${stall.url}/api/v1/session`, { headers: { Authorization: `Bearer ${token}` } }).then(
        ({ status }) => status,
      );
    expect(await game()).toBe(200);
    const row = page.getByRole('row', { name: /Pier game/ });
    await row.getByRole('button', { name: 'Revoke' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Revoke it' }).click();
    // What lies behind a window is not found by its role, whether it is there or not.
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await row.waitFor({ state: 'detached' });
    expect([await game(), complaints]).toEqual([401, []]);
  });

  test('who is no admin does not see it', async () => {
    const { page } = await openConsole(browser, stall, '/publish', { role: 'design' });
    await page.getByRole('button', { name: /^Signed in as/ }).click();
    await page.getByRole('button', { name: 'Sign out', exact: true }).waitFor();
    expect(await page.getByRole('link', { name: 'Access' }).count()).toBe(0);
  });
});

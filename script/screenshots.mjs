// Takes the pictures in docs/screenshots from a fresh demo: node script/screenshots.mjs [name ...]
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';

const only = process.argv.slice(2);
const out = new URL('../docs/screenshots/', import.meta.url).pathname;
const data = mkdtempSync(join(tmpdir(), 'dimestall-'));
const demo = spawn(
  process.execPath,
  [new URL('../dist/cli/main.js', import.meta.url).pathname, 'demo', '--port', '0', '--data', data],
  { stdio: ['ignore', 'pipe', 'inherit'] },
);
const way = await new Promise((resolve) => {
  let text = '';
  demo.stdout.on('data', (chunk) => {
    text += chunk;
    const found = /http\S+#token=\S+/.exec(text);
    if (found) resolve(found[0]);
  });
});
const [url, token] = way.split('/#token=');
const api = (method, path, body, headers = {}) =>
  fetch(`${url}/api/v1${path}`, {
    method,
    headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json', ...headers },
    body: body && JSON.stringify(body),
  }).then((response) => response.json());

async function runAndWait(body) {
  const { id } = await api('POST', '/runs', body);
  await fetch(`${url}/api/v1/runs/${id}/progress`, { headers: { Authorization: `Bearer ${token}` } }).then((response) =>
    response.text(),
  );
  return id;
}

const price = '/items/storm_frame/worth/shells';
await runAndWait({ scenario: 'first_month' });
await runAndWait({ scenario: 'first_month', set: { [price]: 1000 } });
await api('PATCH', '/draft', [{ op: 'replace', path: price, value: 1000 }], {
  'If-Match': '"3"',
  'Content-Type': 'application/json-patch+json',
});

const browser = await chromium.launch({
  executablePath:
    process.env.CHROMIUM ?? ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find((path) => existsSync(path)),
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
/** One short, a race, bought, and a box that the last press opened. */
const REHEARSED = [
  { buy: 'storm_frame' },
  { play: 'harbour_race' },
  { buy: 'storm_frame' },
  { give: { drift_crate: 1, brass_key: 1 } },
  { open: 'drift_crate' },
];
const SHOTS = {
  overview: '/overview',
  catalog: '/catalog',
  ladder: '/shops?mode=ladder',
  rehearse: `/shops?mode=rehearse&shop=pier_stall&player=(made up)&attributes=level%3D3&holds=shells%3D999&at=2027-03-01T10:00&steps=${encodeURIComponent(JSON.stringify(REHEARSED))}`,
  check: '/check?player=oda&offer=storm_frame',
  simulate: `/simulate?levers=${encodeURIComponent('storm_frame@700;race_prize;frames')}&variants=${encodeURIComponent('cheap frames|storm_frame;race_prize;frames@0.7|')}`,
  'from-log': '/simulate?view=fit',
  'shops-arrange':
    '/shops?mode=arrange&shop=pier_stall&beside=yes&player=(made up)&holds=shells%3D500&open=/shops/pier_stall/shelves/care/offers/wind_chime',
  earning: '/earning?section=goals&open=/goals/on_the_podium',
  cases: '/shops?mode=cases&open=/cases/storm_frame_exactly',
  // Those of the tutorial come last: each goes one step further in its day.
  'tutorial-paste': '/catalog',
  'tutorial-odds': '/loot?table=gale_finds',
  'tutorial-findings': '/publish',
  calendar: '/calendar?from=2027-05-01T00:00',
  publish: '/publish',
  'tutorial-festival':
    '/shops?source=draft&shop=festival_booth&player=(made up)&holds=ribbons=60&at=2027-05-09T20:00&language=pt',
};
/** Every page is there in light and dark. */
const DARK = ['tutorial-festival'];

const sheet = (name) => readFileSync(new URL(`../docs/tutorial/${name}.csv`, import.meta.url), 'utf8');
const revision = async () => (await api('GET', '/draft')).revision;
const edit = async (pointer, value) =>
  api('POST', '/draft/edits', { kind: 'set', pointer, value }, { 'If-Match': `"${await revision()}"` });
const bringIn = (name) => bringInto(name, name);
const bringInto = async (into, name) =>
  fetch(`${url}/api/v1/draft/sheets/${into}`, {
    method: 'POST',
    headers: { Authorization: `Bearer ${token}`, 'Content-Type': 'text/csv', 'If-Match': `"${await revision()}"` },
    body: sheet(name),
  });

/** Day two of the tutorial: the festival in the draft. */
async function festival() {
  await api('POST', '/draft/undo', { to: 1 }, { 'If-Match': `"${await revision()}"` });
  const rotation = { show: 2, every: 'day', at: '18:00', avoid: 1 };
  await edit('/shops/festival_booth/shelves/nightly', { name: 'Every night', rotation, offers: {} });
  await bringInto('offers', 'festival');
  await edit('/sales/last_lanterns', {
    name: 'Last Lanterns',
    shops: ['festival_booth'],
    percent: 25,
    from: '2027-05-08T00:00',
    until: '2027-05-10T00:00',
  });
  await edit('/texts/pt/shelf.festival_booth.nightly.name', 'Todas as noites');
  await edit('/texts/pt/sale.last_lanterns.name', 'Últimas Lanternas');
}

/** What has to be there before the page is opened, and what is done on it. */
const BEFORE = {
  'tutorial-paste': () => edit('/groups/gale', { name: 'Gale week' }),
  calendar: festival,
  publish: async () => {
    await api('POST', '/releases', { note: 'The wind festival', at: '2027-04-26T09:00' });
    await edit('/items/storm_frame/worth', { shells: 1000 });
  },
  'tutorial-odds': async () => {
    await bringIn('items');
    await edit('/shops/pier_stall/shelves/gale', { name: 'Gale week', offers: {} });
    await bringIn('offers');
    await edit('/loot/gale_finds', { name: 'Finds of a gale crate', picks: 2, entries: {} });
    await bringIn('loot');
    await edit('/items/gale_crate/loot', 'gale_finds');
  },
};
const ON_PAGE = {
  ladder: async (page) => {
    const coin = await page.getByRole('slider', { name: 'Gull Frame' }).boundingBox();
    await page.mouse.move(coin.x + 12, coin.y + 12);
    await page.mouse.down();
    await page.mouse.move(coin.x + 40, coin.y + 12, { steps: 4 });
  },
  'shops-arrange': async (page) => {
    await page.getByRole('button', { name: 'Buy First Flight Kit' }).click();
    await page.getByText('-200 Shells').waitFor();
  },
  simulate: async (page) => {
    await page.getByText(/^300 of 300 players/).waitFor();
    await page.waitForTimeout(1500);
    await page.mouse.move(560, 380);
  },
  'from-log': async (page) => {
    await page
      .getByLabel('Log file')
      .setInputFiles(new URL('../demo/log/saltwind-cove.ndjson.gz', import.meta.url).pathname);
    await page.getByRole('button', { name: 'Fit', exact: true }).click();
    await page.getByRole('button', { name: 'Put into the draft' }).waitFor({ timeout: 60_000 });
  },
  economy: async (page) => {
    await page.getByLabel('Only if', { exact: true }).fill('pla');
    await page.getByRole('option', { name: /^place/ }).waitFor();
  },
  calendar: async (page) => {
    await page.getByRole('button', { name: /^sale: Last Lanterns/ }).click();
  },
  'tutorial-paste': async (page) => {
    await page.getByRole('button', { name: 'CSV and paste ...' }).click();
    await page.getByLabel(/or paste rows/).fill(sheet('items'));
    await page.getByText('10 rows read, 10 of them new').waitFor();
  },
  'tutorial-odds': async (page) => {
    await page.getByRole('gridcell', { name: /^coin, weight:/ }).click();
    await page.keyboard.type('8');
    await page.getByText('as typed, not saved yet').waitFor();
    await page.getByRole('cell', { name: '14.66 %' }).waitFor();
  },
};
try {
  for (const [name, path] of Object.entries(SHOTS)) {
    if (only.length > 0 && !only.includes(name)) continue;
    await BEFORE[name]?.();
    const page = await browser.newPage({
      viewport: { width: 1280, height: 800 },
      colorScheme: DARK.includes(name) ? 'dark' : 'light',
    });
    page.on('console', (message) => {
      if (message.type() === 'error') process.stderr.write(`${name}: ${message.text()}\n`);
    });
    await page.goto(`${url}${path}#token=${token}`);
    await page.waitForLoadState('load');
    await page.waitForTimeout(1500);
    await page.getByText('One moment').waitFor({ state: 'detached' });
    await ON_PAGE[name]?.(page);
    await page.screenshot({ path: join(out, `${name}.png`) });
    await page.close();
  }
} finally {
  // Also when a step fails: the demo would keep this alive.
  await browser.close();
  const ended = new Promise((resolve) => demo.on('exit', resolve));
  demo.kill('SIGTERM');
  await ended;
  rmSync(data, { recursive: true });
}

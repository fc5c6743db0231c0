// Takes the pictures in docs/screenshots from a fresh demo: node script/screenshots.mjs [name ...]
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
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
  'If-Match': '"1"',
  'Content-Type': 'application/json-patch+json',
});

const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
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
const SHOTS = {
  overview: '/overview',
  catalog: '/catalog',
  'catalog-offers': '/catalog?view=offers',
  shops: '/shops?player=oda',
  check: '/check?player=oda&offer=storm_frame',
  simulate: '/simulate?run=2&before=1&item=storm_frame',
  'simulate-below': '/simulate?run=2&before=1&item=storm_frame',
  publish: '/publish',
  'shops-dark': '/shops?player=yuna&shop=lantern_wagon',
};
for (const [name, path] of Object.entries(SHOTS)) {
  if (only.length > 0 && !only.includes(name)) continue;
  const page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    colorScheme: name.endsWith('dark') ? 'dark' : 'light',
  });
  page.on('console', (message) => {
    if (message.type() === 'error') process.stderr.write(`${name}: ${message.text()}\n`);
  });
  await page.goto(`${url}${path}#token=${token}`);
  await page.waitForLoadState('networkidle');
  await page.getByText('One moment').waitFor({ state: 'detached' });
  if (name === 'simulate-below')
    await page
      .getByText('Days until owned')
      .first()
      .scrollIntoViewIfNeeded()
      .then(() => page.mouse.wheel(0, 900))
      .then(() => page.waitForTimeout(200));
  await page.screenshot({ path: join(out, `${name}.png`) });
  await page.close();
}
await browser.close();
const ended = new Promise((resolve) => demo.on('exit', resolve));
demo.kill('SIGTERM');
await ended;
rmSync(data, { recursive: true });

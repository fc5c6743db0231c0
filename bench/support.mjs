// What the benchmarks share: rounds in turn, medians and ratios. Absolute figures vary with the machine; quote the ratios.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { economyLoad } from '../dist/core/economy/index.js';

const demo = new URL('../demo/saltwind-cove/', import.meta.url);

export const loadDemo = () =>
  economyLoad(readdirSync(demo).map((path) => ({ path, text: readFileSync(new URL(path, demo), 'utf8') })));

export const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

const rounded = (value) => (value >= 100 ? Math.round(value).toLocaleString('en') : value.toFixed(2));

/**
 * Runs the measures in turn, A B C A B C ..., so that a drift of the machine's speed touches all of them, and prints
 * each one's median rate and the ratio of the first to every other, as the median of the ratios within a round.
 */
export async function compare(title, unit, measures, rounds = 5) {
  const names = Object.keys(measures);
  const rates = Object.fromEntries(names.map((name) => [name, []]));
  for (const name of names) await measures[name](); // warm-up
  for (let round = 0; round < rounds; round++) for (const name of names) rates[name].push(await measures[name]());
  console.log(`\n${title}`);
  for (const name of names) {
    const all = [...rates[name]].sort((a, b) => a - b);
    console.log(
      `  ${name.padEnd(44)} ${rounded(median(all)).padStart(10)} ${unit}   (${rounded(all[0])} to ${rounded(all.at(-1))})`,
    );
  }
  const [first, ...others] = names;
  for (const other of others)
    console.log(
      `  ratio: ${first} / ${other} = ${median(rates[first].map((rate, round) => rate / rates[other][round])).toFixed(2)}`,
    );
  return Object.fromEntries(names.map((name) => [name, median(rates[name])]));
}

export const secondsOf = async (work) => {
  const start = process.hrtime.bigint();
  await work();
  return Number(process.hrtime.bigint() - start) / 1e9;
};

/** A service of its own on a file, with a demo live in which wax can be bought for ever. DIMESTALL_BENCH_MAIN names another build. */
export async function serveDemo() {
  const main = process.env.DIMESTALL_BENCH_MAIN ?? fileURLToPath(new URL('../dist/service/main.js', import.meta.url));
  // An older build does not know the option, and takes as much as comes.
  const unlimited = process.env.DIMESTALL_BENCH_MAIN ? [] : ['--work-per-second', '1000000'];
  const folder = mkdtempSync(join(tmpdir(), 'dimestall-bench-'));
  const access = join(folder, 'client.json');
  const child = spawn(
    process.execPath,
    [
      ...[main, 'serve', '--data', join(folder, 'stall.sqlite'), '--port', '0'],
      ...['--token-file', access, '--log', 'silent', ...unlimited],
    ],
    { stdio: ['ignore', 'pipe', 'inherit'] },
  );
  await new Promise((ready) => child.stdout.on('data', (chunk) => String(chunk).includes('listens on') && ready()));
  const { url, token } = JSON.parse(readFileSync(access, 'utf8'));
  const headers = { Authorization: `Bearer ${token}`, 'Content-Type': 'application/json' };
  /** Whatever is answered. */
  const ask = async (method, path, body, more = {}) => {
    const response = await fetch(`${url}/api/v1${path}`, {
      method,
      headers: { ...headers, ...more },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    return { status: response.status, text: await response.text() };
  };
  /** What must be answered well. */
  const must = async (...asked) => {
    const { status, text } = await ask(...asked);
    if (status >= 300) throw new Error(`${asked.slice(0, 2).join(' ')}: ${status}: ${text.slice(0, 300)}`);
    return JSON.parse(text);
  };
  const { document } = loadDemo();
  document.currencies.shells.start = 1_000_000_000;
  delete document.currencies.shells.cap;
  document.items.glide_wax.carry = 1_000_000_000;
  delete document.items.glide_wax.stack;
  let { revision } = await must('PUT', '/draft', document, { 'If-Match': '"0"' });
  await must('POST', '/releases', { note: 'bench' });
  let level = 0;
  return {
    url,
    headers,
    ask,
    must,
    document,
    revision: () => revision,
    /** The whole draft, or one field of it. */
    save: async (whole) => {
      const match = { 'If-Match': `"${revision}"` };
      const patch = [{ op: 'replace', path: '/items/storm_frame/description', value: `Save ${level++}` }];
      const saved = whole ? must('PUT', '/draft', whole, match) : must('PATCH', '/draft', patch, match);
      ({ revision } = await saved);
    },
    stop: async () => {
      child.kill('SIGTERM');
      await new Promise((done) => child.once('exit', done));
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

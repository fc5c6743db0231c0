// What the work of one caller costs another: how long a purchase takes while nothing else is asked, while a designer
// saves again and again, and while requests that ask for much come in. Goal: none holds up another by more than 50 ms.
import { median, serveDemo } from './support.mjs';

const SECONDS = 4;
const MORE_OFFERS = 1000;

const { ask, must, document, revision, save, stop } = await serveDemo();
await must('POST', '/players', { id: 'mateo' });

let press = 0;
const buy = () => must('POST', '/purchases', { player: 'mateo', offer: 'wax_1' }, { 'Idempotency-Key': `k${press++}` });

/** Purchases one after the other for some seconds, beside `other` again and again; both in milliseconds each. */
async function beside(other) {
  const until = performance.now() + SECONDS * 1000;
  const again = async (work, times) => {
    while (performance.now() < until) {
      const start = performance.now();
      await work();
      times.push(performance.now() - start);
    }
    return times;
  };
  const [bought, others] = await Promise.all([again(buy, []), other ? again(other, []) : []]);
  return { bought, others };
}

const at = (times, share) =>
  [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))];
const told = (times) =>
  times.length === 0 ? '' : [0.5, 0.99, 1].map((share) => at(times, share).toFixed(1).padStart(8)).join('');

console.log(
  `\nA purchase beside other work, ms${' '.repeat(20)}     p50     p99   worst   the other: p50     p99   worst`,
);
let alone;
async function row(name, other) {
  const { bought, others } = await beside(other);
  alone ??= median(bought);
  console.log(
    `  ${name.padEnd(48)}${told(bought)}   ${told(others).padStart(32)}   x${(median(bought) / alone).toFixed(2)}`,
  );
}

await buy();
await row('alone');
await row('while the demo is saved', save);
await row('while a calendar of a year is asked for', async () =>
  must('GET', '/calendar?from=2027-01-01&to=2028-01-01&source=draft'),
);
const checks = Array.from({ length: 1000 }, () => ({ offer: 'wax_1', player: 'mateo' }));
await row('while a thousand checks are asked for', () => must('POST', '/checks', { checks }));
const keys = `{${Array.from({ length: 60_000 }, (_, n) => `"A${n}":1`).join(',')}}`;
if (!process.env.DIMESTALL_BENCH_OLD) {
  await row('while a stranger signs in with 633 kB', () => ask('POST', '/session', keys));
  await row('while 60,000 unknown fields are saved', () =>
    ask('PUT', '/draft', keys, { 'If-Match': `"${revision()}"` }),
  );
}
const long = (seed) => must('POST', '/runs', { scenario: 'first_month', days: 3000, players: 3000, seed });
const going = [await long(1), await long(2)];
await row('while two simulations run');
for (const { id } of going) await must('DELETE', `/runs/${id}`);
const shelf = document.shops.pier_stall.shelves;
const [first] = Object.keys(shelf);
for (let n = 0; n < MORE_OFFERS; n++) {
  document.items[`extra_${n}`] = { name: `Extra ${n}`, kind: 'durable', carry: 1, worth: { shells: 100 + n } };
  shelf[first].offers[`extra_${n}`] = { gives: `extra_${n}` };
}
await save(document);
await row(`while the demo with ${MORE_OFFERS} more offers is saved`, save);
// Its first reader is the next purchase.
await row('while that is published', () => must('POST', '/releases', { note: 'again' }));

await stop();

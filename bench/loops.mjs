// How the search for money loops grows with the catalog, over four sizes. It is stated to be linear in the catalog
// for a fixed number of currencies: the exponent of growth printed here is then 1.
import { economyConversions } from '../dist/core/audit/conversions.js';
import { moneyLoops } from '../dist/core/audit/loops.js';
import { Probes } from '../dist/core/audit/probes.js';
import { economyCompile } from '../dist/core/economy/index.js';
import { median, secondsOf } from './support.mjs';
import { largeDocument } from './large.mjs';

const SIZES = [5000, 10_000, 20_000, 40_000];
console.log('\nMoney loops by size of the catalog');
const conversionsOf = (size) => {
  const document = largeDocument(size);
  const { economy } = economyCompile(document);
  return economyConversions(economy, new Probes(economy, document));
};
const warm = conversionsOf(5000);
for (let round = 0; round < 20; round++) moneyLoops(warm);
const measured = [];
for (const size of SIZES) {
  const conversions = conversionsOf(size);
  const seconds = [];
  let found = 0;
  for (let round = 0; round < 6; round++)
    seconds.push(
      await secondsOf(() => {
        found = moneyLoops(conversions).length;
      }),
    );
  const typical = median(seconds.slice(1));
  measured.push({ size, typical });
  console.log(
    `  ${String(size).padStart(6)} items, ${String(conversions.length).padStart(5)} conversions: ${(typical * 1000).toFixed(1).padStart(7)} ms, ${found} circles`,
  );
}
const [first, last] = [measured[0], measured.at(-1)];
const exponent = Math.log(last.typical / first.typical) / Math.log(last.size / first.size);
console.log(`  ratio: time grows as size to the power of ${exponent.toFixed(2)}`);

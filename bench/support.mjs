// What the benchmarks share: rounds in turn, medians and ratios. Absolute figures vary with the machine; quote the ratios.
import { readFileSync, readdirSync } from 'node:fs';
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
}

export const secondsOf = async (work) => {
  const start = process.hrtime.bigint();
  await work();
  return Number(process.hrtime.bigint() - start) / 1e9;
};

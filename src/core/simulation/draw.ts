/** Draws values from the distributions that activities and personas name. */
import { randomGeometric, randomLogNormal, randomNormal, randomPoisson } from 'd3-random';
import type { DrawRule } from '../economy/index.js';
import type { Formula, Scope, Value } from '../formula/index.js';
import type { Random } from '../random/index.js';

/** One value by a rule. The luck comes from `random`; formulas read `scope`. */
export const drawValue = (rule: DrawRule, random: Random, scope: Scope): Value =>
  drawMake(
    rule,
    random,
    ({ run }) =>
      () =>
        run(scope),
  )();

/** Draws values by a rule, each as if it were the first. The luck comes from `random`; `bound` says how a formula is run. */
export function drawMake(rule: DrawRule, random: Random, bound: (formula: Formula) => () => Value): () => Value {
  switch (rule.kind) {
    case 'constant':
      return () => rule.value;
    case 'formula':
      return bound(rule.formula);
    // Whole numbers from `from` to `to`, both inclusive, equally likely.
    case 'range':
      return () => rule.from + Math.floor(random() * (rule.to - rule.from + 1));
    // The schema makes sure that some weight is above 0.
    case 'weights':
    case 'chosen':
      return weightsMake(rule.values, random);
    case 'poisson':
      return poissonMake(random, rule.mean);
    case 'normal':
      // Each keeps half of what it draws for the next time, so every draw has one of its own.
      return () => randomNormal.source(random)(rule.mean, rule.deviation)();
    case 'lognormal':
      return () => randomLogNormal.source(random)(rule.mu, rule.sigma)();
    // How many tries until the first success, 1 or more.
    case 'geometric':
      return randomGeometric.source(random)(rule.chance);
  }
}

function weightsMake<T>(all: readonly { value: T; weight: number }[], random: Random): () => T {
  const values = all.filter(({ weight }) => weight > 0);
  const weights = values.map(({ weight }) => weight);
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  return () => {
    let left = random() * total;
    for (let i = 0; i < weights.length; i++) if ((left -= weights[i]!) < 0) return values[i]!.value;
    return values.at(-1)!.value;
  };
}

/** Above 16 a normal distribution is part of it, which keeps half of what it draws. */
export const poissonMake = (random: Random, mean: number): (() => number) =>
  mean > 16 ? () => randomPoisson.source(random)(mean)() : randomPoisson.source(random)(mean);

/** One with a chance in proportion to its weight, for a luck from 0 (inclusive) to 1 (exclusive); none where all weigh 0. */
export function weightedPick<T extends { weight: number }>(all: readonly T[], luck: number): T | undefined {
  let total = 0;
  for (const { weight } of all) if (weight > 0) total += weight;
  let left = luck * total;
  let last: T | undefined;
  for (const one of all) {
    if (one.weight <= 0) continue;
    left -= one.weight;
    if (left < 0) return one;
    last = one;
  }
  return last;
}

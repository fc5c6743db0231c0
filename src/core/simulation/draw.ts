/** Draws values from the distributions that activities and personas name. */
import { randomGeometric, randomLogNormal, randomNormal, randomPoisson } from 'd3-random';
import type { DrawRule } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import type { Random } from '../random/index.js';

/** One value by a rule. The luck comes from `random`; formulas read `scope`. */
export function drawValue(rule: DrawRule, random: Random, scope: Scope): Value {
  switch (rule.kind) {
    case 'constant':
      return rule.value;
    case 'formula':
      return rule.formula.run(scope);
    // Whole numbers from `from` to `to`, both inclusive, equally likely.
    case 'range':
      return rule.from + Math.floor(random() * (rule.to - rule.from + 1));
    // The schema makes sure that some weight is above 0.
    case 'weights':
      return weightedPick(rule.values, random())!.value;
    case 'poisson':
      return randomPoisson.source(random)(rule.mean)();
    case 'normal':
      return randomNormal.source(random)(rule.mean, rule.deviation)();
    case 'lognormal':
      return randomLogNormal.source(random)(rule.mu, rule.sigma)();
    // How many tries until the first success, 1 or more.
    case 'geometric':
      return randomGeometric.source(random)(rule.chance)();
  }
}

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

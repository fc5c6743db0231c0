/** Baskets whose amounts may be formulas, worked out for one scope. */
import { unitsRound } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { FormulaInput, Scope } from '../formula/index.js';
import type { QuantityBasket } from './types.js';

export interface QuantityProblem {
  formula: string;
  inputs: FormulaInput[];
  value: number;
  message: string;
}

/**
 * The units of every quantity under `scope`. A formula whose result is not a finite number of 0 or more, or
 * passes the ceiling, is reported with its inputs instead.
 */
export function quantitiesEvaluate(
  quantities: QuantityBasket,
  scope: Scope,
): { ok: true; basket: Basket } | { ok: false; problem: QuantityProblem } {
  const basket: Basket = {};
  for (const quantity of quantities) {
    if (quantity.kind === 'fixed') {
      basket[quantity.asset] = quantity.units;
      continue;
    }
    const { formula } = quantity;
    const value = formula.run(scope) as number;
    const units = unitsRound(value, quantity.decimals, quantity.rounding);
    if (units === undefined) {
      const inputs = formula.inputs(scope);
      const shown = inputs.map((input) => `${input.name} = ${String(input.value)}`).join(', ');
      return {
        ok: false,
        problem: {
          formula: formula.text,
          inputs,
          value,
          message: `${formula.text} gives ${value}, not an amount from 0 to the ceiling${shown ? ` (${shown})` : ''}`,
        },
      };
    }
    basket[quantity.asset] = units;
  }
  return { ok: true, basket };
}

/** The units of every quantity where no formula says any; undefined where one does. */
export function quantitiesFixed(quantities: QuantityBasket): Basket | undefined {
  const basket: Basket = {};
  for (const one of quantities) {
    if (one.kind !== 'fixed') return undefined;
    basket[one.asset] = one.units;
  }
  return basket;
}

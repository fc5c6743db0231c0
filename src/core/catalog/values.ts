/** What the formulas of a catalog come to for one player: the figure that stands behind a cell. */
import { choiceBasket, quantitiesEvaluate, quantityFormula } from '../economy/index.js';
import type { Economy, Offer, Quantity } from '../economy/index.js';
import type { Formula, FormulaInput, Scope } from '../formula/index.js';
import { pointerOf } from '../issue/index.js';
import { playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';

export interface FormulaValue {
  pointer: string;
  formula: string;
  /** Smallest units of an amount; true or false of a condition; null where the formula fails. */
  value: number | boolean | null;
  problem: string | null;
  inputs: FormulaInput[];
}

/** Every formula of offers, shops and loot entries. Linear in the economy. */
export function formulaValues(economy: Economy, player: Player, nowMs: number): FormulaValue[] {
  const scope = playerScope(economy, playerSettle(economy, player, nowMs).player, nowMs);
  return [
    ...[...economy.shops.values()].flatMap(({ id, when }) => truth(when, pointerOf(['shops', id, 'when']), scope)),
    ...[...economy.offers.values()].flatMap((offer) => offerValues(offer, scope)),
    ...[...economy.loot.values()].flatMap((table) =>
      table.entries.flatMap(({ id, when }) => truth(when, pointerOf(['loot', table.id, 'entries', id, 'when']), scope)),
    ),
  ];
}

function offerValues(offer: Offer, scope: Scope): FormulaValue[] {
  const prices = (offer.prices ?? []).flatMap((choice, index) =>
    choiceBasket(choice).flatMap((quantity) =>
      amount(quantity, pointerOf([...offer.pointer, 'price', ...(offer.listed ? [index] : []), quantity.asset]), scope),
    ),
  );
  const gives = offer.gives.flatMap((quantity) =>
    amount(quantity, pointerOf([...offer.pointer, 'gives', quantity.asset]), scope),
  );
  return [...prices, ...gives, ...truth(offer.when, pointerOf([...offer.pointer, 'when']), scope)];
}

function amount(quantity: Quantity, pointer: string, scope: Scope): FormulaValue[] {
  const formula = quantityFormula(quantity);
  if (!formula) return [];
  const result = quantitiesEvaluate([quantity], scope);
  return [
    {
      pointer,
      formula: formula.text,
      value: result.ok ? result.basket[quantity.asset]! : null,
      problem: result.ok ? null : result.problem.message,
      inputs: formula.inputs(scope),
    },
  ];
}

const truth = (formula: Formula | undefined, pointer: string, scope: Scope): FormulaValue[] =>
  formula
    ? [
        {
          pointer,
          formula: formula.text,
          value: formula.run(scope) === true,
          problem: null,
          inputs: formula.inputs(scope),
        },
      ]
    : [];

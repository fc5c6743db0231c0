/** Findings about what offers cost. */
import type { Offer, Quantity } from '../../economy/index.js';
import { amountText, economyLabels } from '../../texts/index.js';
import { choiceBasket, fixedUnits, quantitiesEvaluate, quantityFormula } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import { basketGivesNothing } from '../../trade/index.js';
import { offerIsHidden, offerPointer, offerSubject } from '../finding.js';
import type { AuditInput, AuditRule, RuleFinding } from '../finding.js';
import type { Probe } from '../probes.js';

type Where = { offer: Offer; quantity: Quantity; pointer: string };

/** Every asset of every price, with its place in the document. */
function* pricedAmounts({ economy, document }: AuditInput): Generator<Where> {
  for (const offer of economy.offers.values()) {
    const written = document.shops?.[offer.shop.id]?.shelves[offer.shelf.id]?.offers[offer.id]?.price;
    for (const [index, choice] of (offer.prices ?? []).entries()) {
      const basket = choiceBasket(choice);
      for (const quantity of basket) {
        const path =
          written === undefined
            ? []
            : Array.isArray(written)
              ? ['price', index, quantity.asset]
              : ['price', quantity.asset];
        yield { offer, quantity, pointer: offerPointer(offer, ...path) };
      }
    }
  }
}

export const noPrice: AuditRule = {
  code: 'no-price',
  severity: 'error',
  help: 'An offer without a price is never sold; a missing price must not make an item free.',
  find: ({ economy }) =>
    [...economy.offers.values()]
      .filter(({ prices }) => prices === undefined)
      .map((offer) => ({
        pointer: offerPointer(offer),
        subject: offerSubject(offer),
        message: 'it has no price, and what it gives has no worth to fall back on',
        fix: 'Write price: {...}, give the item a worth, or write price: free.',
      })),
};

export const zeroPrice: AuditRule = {
  code: 'zero-price',
  severity: 'error',
  help: 'A price of 0, written or rounded to, is refused, for a new player or one who has bought more: it is no gift.',
  find: (input) =>
    [...pricedAmounts(input)].flatMap(({ offer, quantity, pointer }) => {
      const { asset } = quantity;
      const labels = economyLabels(input.economy);
      const probe = input.probes.byCounts(offer, [quantity]).find(({ scope }) => {
        const result = quantitiesEvaluate([quantity], scope);
        return result.ok && result.basket[asset] === 0;
      });
      if (!probe) return [];
      return [
        {
          pointer,
          subject: offerSubject(offer),
          message:
            quantity.kind === 'formula'
              ? `${quantity.formula.text} comes to ${amountText(labels, asset, 0)} for ${playerWords(probe)}`
              : `it asks for ${amountText(labels, asset, 0)}`,
          fix: 'Write the price that you mean, or price: free; max(1, ...) keeps a formula above 0.',
        },
      ];
    }),
};

export const givesNothing: AuditRule = {
  code: 'gives-nothing',
  severity: 'error',
  help: 'Something is taken and nothing given, always or for some players: it is refused, and so cannot be meant.',
  find: (input) => [...offersForNothing(input), ...itemsForNothing(input)],
};

const FIX_NOTHING = 'Write what it gives; max(1, ...) keeps a formula above 0, and a condition keeps players out.';

function offersForNothing({ economy, probes }: AuditInput): RuleFinding[] {
  return [...economy.offers.values()].flatMap((offer) => {
    if (!offer.prices) return [];
    const conditions = [offer.when, offer.shop.when];
    const probe = probes.byAll(offer, offer.gives, conditions).find(({ scope }) => {
      if (conditions.some((when) => when && when.run(scope) !== true)) return false;
      const gives = quantitiesEvaluate(offer.gives, scope);
      return gives.ok && basketGivesNothing(economy, gives.basket);
    });
    return probe
      ? [
          {
            pointer: offerPointer(offer, 'gives'),
            subject: offerSubject(offer),
            message: `it gives nothing to ${playerWords(probe)}`,
            fix: FIX_NOTHING,
          },
        ]
      : [];
  });
}

/** Boxes without anything in them, and consumables whose use comes to nothing. */
function itemsForNothing({ economy, probes }: AuditInput): RuleFinding[] {
  return [...economy.items.values()].flatMap((item): RuleFinding[] => {
    const here = { subject: item.name, fix: FIX_NOTHING };
    if (item.kind === 'box')
      return item.loot === undefined && basketGivesNothing(economy, item.gives)
        ? [{ ...here, pointer: pointerOf(['items', item.id, 'gives']), message: 'opening it gives nothing' }]
        : [];
    const effect = item.kind === 'consumable' ? item.onUse : undefined;
    if (!effect || effect.set.length > 0) return [];
    const probe = probes.byFormulas(effect.gives.flatMap((one) => quantityFormula(one) ?? [])).find(({ scope }) => {
      const gives = quantitiesEvaluate(effect.gives, scope);
      return gives.ok && basketGivesNothing(economy, gives.basket);
    });
    return probe
      ? [
          {
            ...here,
            pointer: pointerOf(['items', item.id, 'onUse']),
            message: `using it up gives nothing to ${playerWords(probe)}`,
          },
        ]
      : [];
  });
}

const playerWords = ({ words }: Probe): string =>
  words.length === 0 ? 'a new player' : `a player with ${words.join(' and ')}`;

export const priceFormulaFails: AuditRule = {
  code: 'price-formula-fails',
  severity: 'error',
  help: 'A price formula that gives no amount, for a new player or one who has bought more: the offer could not be bought.',
  find: (input) =>
    [...pricedAmounts(input)].flatMap(({ offer, quantity, pointer }) => {
      for (const { scope } of input.probes.byCounts(offer, [quantity])) {
        const result = quantitiesEvaluate([quantity], scope);
        if (!result.ok)
          return [
            {
              pointer,
              subject: offerSubject(offer),
              message: result.problem.message,
              fix: 'Mend the formula so that it gives an amount above 0 for every player; max(1, ...) and clamp(...) help.',
            },
          ];
      }
      return [];
    }),
};

export const priceAboveCap: AuditRule = {
  code: 'price-above-cap',
  severity: 'error',
  help: 'A price that no wallet can hold can never be paid.',
  find: (input) =>
    [...pricedAmounts(input)].flatMap(({ offer, quantity, pointer }) => {
      const { asset } = quantity;
      const units = fixedUnits(quantity);
      const cap = input.economy.currencies.get(asset)?.cap ?? input.economy.items.get(asset)?.carry;
      if (cap === undefined || units === undefined || units <= cap) return [];
      const labels = economyLabels(input.economy);
      return [
        {
          pointer,
          subject: offerSubject(offer),
          message: `it costs ${amountText(labels, asset, units)} and a player can hold at most ${amountText(labels, asset, cap)}`,
          fix: 'Lower the price, or raise the cap.',
        },
      ];
    }),
};

export const priceUnreachable: AuditRule = {
  code: 'price-unreachable',
  severity: 'error',
  help: 'Every way to pay asks for something that no player can get.',
  find: ({ economy, obtainable }) =>
    [...economy.offers.values()].flatMap((offer) => {
      if (!offer.prices || offerIsHidden(offer)) return [];
      const missing = offer.prices.map(
        (choice) => choiceBasket(choice).find(({ asset }) => !obtainable.has(asset))?.asset,
      );
      if (missing.some((asset) => asset === undefined)) return [];
      return [
        {
          pointer: offerPointer(offer),
          subject: offerSubject(offer),
          message: `no player can get ${[...new Set(missing)].join(' or ')}, which it costs`,
          fix: 'Add a source (start, refill, an earning rule or an offer), or ask for something else.',
        },
      ];
    }),
};

/** Findings about what is allowed and can hardly be meant: chances, picks, shares, wishes, prices and sales that come to nothing. */
import { unitsShare } from '../../amount/index.js';
import { choiceBasket, fixedUnits, quantitiesEvaluate } from '../../economy/index.js';
import type { EarningRule, Economy, Goal, Sale, Share } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import { assetMost } from '../../player/index.js';
import { offerIsHidden, offerPointer, offerSubject } from '../finding.js';
import type { AuditRule, RuleFinding } from '../finding.js';

export const ruleNeverPays: AuditRule = {
  code: 'rule-never-pays',
  severity: 'warning',
  help: 'A rule with a chance of 0 does nothing, ever.',
  find: ({ economy }) =>
    [...economy.earning.values()]
      .filter(({ chance }) => chance === 0)
      .map(({ id, name }) => ({
        pointer: pointerOf(['earning', id, 'chance']),
        subject: name,
        message: 'its chance is 0',
        fix: 'Write a chance above 0, or remove the rule.',
      })),
};

export const picksAboveEntries: AuditRule = {
  code: 'picks-above-entries',
  severity: 'warning',
  help: 'A table of different things that is asked for more picks than it has entries gives all of them each time.',
  find: ({ economy }) =>
    [...economy.loot.values()].flatMap(({ id, name, distinct, picks, entries }) => {
      const open = entries.filter(({ weight }) => weight > 0).length;
      return distinct && picks.to > open
        ? [
            {
              pointer: pointerOf(['loot', id, 'picks']),
              subject: name,
              message: `it has ${picks.to} picks of different entries, and ${open} ${open === 1 ? 'entry' : 'entries'}`,
              fix: 'Write fewer picks, more entries, or distinct: false.',
            },
          ]
        : [];
    }),
};

export const shareRoundsToNothing: AuditRule = {
  code: 'share-rounds-to-nothing',
  severity: 'hint',
  help: "A team's share of so little that it is always rounded down to nothing.",
  find: ({ economy }) => {
    const found = (
      section: 'earning' | 'goals',
      { id, name, share, loot }: Pick<EarningRule | Goal, 'id' | 'name' | 'share' | 'loot'>,
      most: readonly { asset: string; units: number }[],
    ): RuleFinding[] =>
      loot === undefined &&
      share.size > 0 &&
      most.every(({ asset, units }) => sharesNothing(economy, share, asset, units))
        ? [
            {
              pointer: pointerOf([section, id, 'share']),
              subject: name,
              message: `of ${most.map(({ units, asset }) => `${units} ${asset}`).join(' and ') || 'nothing'} the share is always 0, rounded down`,
              fix: 'Give more, raise the share, or remove it.',
            },
          ]
        : [];
    return [
      ...[...economy.earning.values()].flatMap((rule) => {
        const units = rule.gives.map((one) => ({ asset: one.asset, units: fixedUnits(one) }));
        return units.every((one): one is { asset: string; units: number } => one.units !== undefined)
          ? found('earning', rule, units)
          : [];
      }),
      ...[...economy.goals.values()].flatMap((goal) =>
        found(
          'goals',
          goal,
          Object.entries(goal.gives).map(([asset, units]) => ({ asset, units })),
        ),
      ),
    ];
  },
};

/** Things are never shared. */
const sharesNothing = ({ currencies }: Economy, share: Share, asset: string, units: number): boolean =>
  !currencies.has(asset) || [...share.values()].every((part) => unitsShare(units, part) === 0);

export const wishNeverSold: AuditRule = {
  code: 'wish-never-sold',
  severity: 'warning',
  help: 'A persona that saves for something that no shop sells saves for ever.',
  find: ({ economy }) => {
    const sold = new Set(
      [...economy.offers.values()].flatMap((offer) =>
        offerIsHidden(offer) || !offer.prices?.some(({ kind }) => kind !== 'money')
          ? []
          : offer.gives.map(({ asset }) => asset),
      ),
    );
    return [...economy.personas.values()].flatMap(({ id, name, spending: { wishes } }) =>
      wishes.flatMap((item, place) =>
        sold.has(item)
          ? []
          : [
              {
                pointer: pointerOf(['personas', id, 'shops', 'wishes', place]),
                subject: `persona ${name}`,
                message: `${economy.items.get(item)?.name ?? item} is wished for, and no offer in the game gives it by itself`,
                fix: 'Offer it, or take it off the wishes.',
              },
            ],
      ),
    );
  },
};

export const goalDifferentThings: AuditRule = {
  code: 'goal-different-things',
  severity: 'hint',
  help: 'A goal of different things that one thing fills, or one of several that so many of one thing fill.',
  find: ({ economy }) =>
    [...economy.goals.values()].flatMap((goal): RuleFinding[] => {
      const { counts, target } = goal;
      if (counts.kind !== 'owned') return [];
      const here = { pointer: pointerOf(['goals', goal.id, 'distinct']), subject: `goal ${goal.name}` };
      if (counts.distinct)
        return target > 1
          ? []
          : [
              {
                ...here,
                message: 'it asks for different things, and one is enough',
                fix: 'Raise the target, or remove distinct.',
              },
            ];
      const alone = [...counts.items].find((item) => assetMost(economy, item) >= target);
      return counts.items.size > 1 && target === counts.items.size && alone !== undefined
        ? [
            {
              ...here,
              pointer: pointerOf(['goals', goal.id]),
              message: `there are ${target} things to be had, and ${target} of ${economy.items.get(alone)!.name} alone are enough`,
              fix: 'Write distinct: true where one of each is meant.',
            },
          ]
        : [];
    }),
};

export const priceFailsForSome: AuditRule = {
  code: 'price-fails-for-some',
  severity: 'warning',
  help: 'A price that comes to 0 or to no amount for some value of an attribute, some money held, or some day: such players are refused.',
  find: ({ economy, probes }) =>
    [...economy.offers.values()].flatMap((offer) =>
      (offer.prices ?? []).flatMap((choice) =>
        choiceBasket(choice).flatMap((quantity): RuleFinding[] => {
          if (quantity.kind !== 'formula') return [];
          const { names, references, text } = quantity.formula;
          if (names.length + references.filter(({ lookup }) => lookup === 'balance').length === 0) return [];
          const conditions = [offer.when, offer.shop.when];
          // A price that fails for a new player is told as an error.
          const first = quantitiesEvaluate([quantity], probes.newPlayer);
          if (!first.ok || first.basket[quantity.asset] === 0) return [];
          for (const { scope, words } of probes.byAll(offer, [quantity], conditions)) {
            if (words.length === 0 || conditions.some((when) => when && when.run(scope) !== true)) continue;
            const price = quantitiesEvaluate([quantity], scope);
            if (price.ok && price.basket[quantity.asset]! > 0) continue;
            return [
              {
                pointer: offerPointer(offer, 'price'),
                subject: offerSubject(offer),
                message: `${text} ${price.ok ? 'comes to 0' : `gives ${price.problem.value}`} for a player with ${words.join(' and ')}`,
                fix: 'max(1, ...) keeps it above 0; a condition keeps such players out.',
              },
            ];
          }
          return [];
        }),
      ),
    ),
};

export const salePartRises: AuditRule = {
  code: 'sale-part-rises',
  severity: 'warning',
  help: 'A sale at set prices holds for an offer only where no part of its price would rise.',
  find: ({ economy, probes }) =>
    [...economy.sales.values()].flatMap((sale) => {
      const rising = [...economy.offers.values()]
        .filter((offer) => offer.sales.includes(sale))
        .filter((offer) =>
          (offer.prices ?? []).some((choice) => {
            const price = quantitiesEvaluate(choiceBasket(choice), probes.newPlayer);
            return price.ok && risesInPart(sale, price.basket);
          }),
        );
      return rising.length === 0
        ? []
        : [
            {
              pointer: pointerOf(['sales', sale.id]),
              subject: sale.name,
              message: `it does not hold for ${rising.map(({ name }) => name).join(', ')}: a part of the price would rise`,
              fix: 'Set each part to no more than it costs now.',
            },
          ];
    }),
};

/** Some part would fall and some other rise. */
function risesInPart({ reduces }: Sale, price: Readonly<Record<string, number>>): boolean {
  if (!('to' in reduces)) return false;
  const assets = Object.keys(price);
  if (assets.length !== Object.keys(reduces.to).length || assets.some((asset) => reduces.to[asset] === undefined))
    return false;
  return (
    assets.some((asset) => reduces.to[asset]! > price[asset]!) &&
    assets.some((asset) => reduces.to[asset]! < price[asset]!)
  );
}

/** Findings about how things come and go. */
import { assetMost, basketArrivals } from '../../player/index.js';
import { documentReferences } from '../../document/index.js';
import { pointerOf } from '../../issue/index.js';
import { offerIsHidden, offerPointer, offerSubject } from '../finding.js';
import { choiceBasket, fixedUnits, itemOnUse } from '../../economy/index.js';
import type { Limit } from '../../schedule/index.js';
import type { AuditRule } from '../finding.js';

export const itemUnobtainable: AuditRule = {
  code: 'item-unobtainable',
  severity: 'warning',
  help: 'An item that no offer sells and no rule gives: nobody can ever have it.',
  find: ({ economy, obtainable }) =>
    [...economy.items.values()]
      .filter(({ id }) => !obtainable.has(id))
      .map(({ id, name }) => ({
        pointer: pointerOf(['items', id]),
        subject: name,
        message: 'no player can get it',
        fix: 'Offer it in a shop, give it by an earning rule or a bundle, or remove it.',
      })),
};

export const currencyWithoutSource: AuditRule = {
  code: 'currency-without-source',
  severity: 'warning',
  help: 'A currency that never reaches a player.',
  find: ({ economy, obtainable }) =>
    [...economy.currencies.values()]
      .filter(({ id }) => !obtainable.has(id))
      .map(({ id, name }) => ({
        pointer: pointerOf(['currencies', id]),
        subject: name,
        message: 'nothing gives it to players',
        fix: 'Add start, refill or an earning rule, or mark it premium if it is sold for money.',
      })),
};

export const currencyWithoutSink: AuditRule = {
  code: 'currency-without-sink',
  severity: 'warning',
  help: 'A currency that nothing takes piles up without end.',
  find: ({ economy, document }) => {
    const taken = new Set<string>();
    for (const offer of economy.offers.values())
      for (const choice of offer.prices ?? []) for (const { asset } of choiceBasket(choice)) taken.add(asset);
    for (const rule of economy.earning.values()) for (const { asset } of rule.takes) taken.add(asset);
    // What levels are made of need not be spent.
    for (const { currency } of economy.tracks.values()) taken.add(currency);
    for (const { id, ends } of economy.currencies.values()) if (ends?.into !== undefined) taken.add(id);
    for (const activity of Object.values(document.activities ?? {}))
      for (const asset of Object.keys(activity.needs ?? {})) taken.add(asset);
    return [...economy.currencies.values()]
      .filter(({ id }) => !taken.has(id))
      .map(({ id, name }) => ({
        pointer: pointerOf(['currencies', id]),
        subject: name,
        message: 'nothing costs it',
        fix: 'Ask for it in a price, a rule or an activity, or remove it.',
      }));
  },
};

/** What stands for nothing by itself, by the section that holds it. */
const FOR_OTHERS = { groups: 'group', loot: 'loot', stores: 'store' } as const;

export const unused: AuditRule = {
  code: 'unused',
  severity: 'hint',
  help: 'A group, loot table or store that nothing names has no effect.',
  find: ({ document }) => {
    const used = new Set(documentReferences(document).map(({ kind, id }) => `${kind} ${id}`));
    return Object.entries(FOR_OTHERS).flatMap(([section, kind]) =>
      Object.entries(document[section as keyof typeof FOR_OTHERS] ?? {})
        .filter(([id]) => !used.has(`${kind} ${id}`))
        .map(([id, { name }]) => ({
          pointer: pointerOf([section, id]),
          subject: name,
          message: 'nothing names it',
          fix: 'Use it, or remove it.',
        })),
    );
  },
};

export const ownOnceNeverBuyable: AuditRule = {
  code: 'own-once-never-buyable',
  severity: 'error',
  help: 'An offer that gives more at once than a player may hold is refused to everyone.',
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) => {
      const gives = Object.fromEntries(offer.gives.map((given) => [given.asset, fixedUnits(given) ?? 1]));
      const arrivals = basketArrivals(economy, gives);
      return Object.keys(arrivals)
        .filter((asset) => arrivals[asset]! > assetMost(economy, asset))
        .map((asset) => ({
          pointer: offerPointer(offer, 'gives'),
          subject: offerSubject(offer),
          message: `it gives ${arrivals[asset]} ${asset} at once and a player may hold ${assetMost(economy, asset)}`,
          fix: 'Give fewer, or raise carry or cap.',
        }));
    }),
};

export const ownOnceStaysBuyable: AuditRule = {
  code: 'own-once-stays-buyable',
  severity: 'warning',
  help: 'A durable without carry can be bought again and again by mistake.',
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) => {
      if (offerIsHidden(offer) || offer.limits.some(({ period }) => period === 'lifetime')) return [];
      return offer.gives
        .map(({ asset }) => economy.items.get(asset))
        .filter((item) => item?.kind === 'durable' && item.carry === undefined)
        .map((item) => ({
          pointer: pointerOf(['items', item!.id]),
          subject: offerSubject(offer),
          message: `${item!.name} is durable, has no carry, and stays buyable once owned`,
          fix: 'Write carry: 1 on the item (or the number a player may own), or a lifetime limit on the offer.',
          mend: {
            words: 'let a player own one',
            operations: [{ op: 'add' as const, path: pointerOf(['items', item!.id, 'carry']), value: 1 }],
          },
        }));
    }),
};

export const useWithoutEnd: AuditRule = {
  code: 'use-without-end',
  severity: 'error',
  help: 'Only consumables are used up: anything else whose use gives something, or counts up, can be used without end.',
  find: ({ economy }) =>
    [...economy.items.values()].flatMap((item) => {
      const { id, name, kind } = item;
      const onUse = itemOnUse(item);
      if (!onUse || kind === 'consumable') return [];
      const counts = onUse.set.some(({ attribute, to }) => typeof to === 'object' && to.names.includes(attribute));
      if (onUse.gives.length === 0 && !counts) return [];
      return [
        {
          pointer: pointerOf(['items', id, 'onUse']),
          subject: name,
          message: `it is ${kind}, so its use ${counts ? 'counts up' : 'gives'} again and again, for nothing`,
          fix: 'Make it a consumable, or use yields for what comes back by itself.',
        },
      ];
    }),
};

/** Whether each period of one limit lies within a single period of the other. */
function holdsWholly({ span: outer }: Limit, { span: inner }: Limit): boolean {
  if (outer.kind === 'lifetime') return inner.kind !== 'lifetime';
  return outer.kind === 'calendar' && inner.kind === 'calendar' && inner.unit === 'day' && outer.unit !== 'day';
}

export const limitNeverBinds: AuditRule = {
  code: 'limit-never-binds',
  severity: 'hint',
  help: 'A limit that another one always reaches first says nothing.',
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) => {
      return offer.limits.flatMap((limit) => {
        const longer = offer.limits.find((other) => other.most <= limit.most && holdsWholly(other, limit));
        return longer
          ? [
              {
                pointer: offerPointer(offer, 'limits', limit.period),
                subject: offerSubject(offer),
                message: `${limit.most} per ${limit.period} never binds: at most ${longer.most} can be bought ${longer.period === 'lifetime' ? 'in a lifetime' : `per ${longer.period}`}`,
                fix: 'Remove it, or lower it.',
                mend: {
                  words: 'remove the limit',
                  operations: [{ op: 'remove' as const, path: offerPointer(offer, 'limits', limit.period) }],
                },
              },
            ]
          : [];
      });
    }),
};

/** Findings about how offers stand to each other, and whether anyone meets them. */
import { amountText, economyLabels } from '../../texts/index.js';
import type { Basket } from '../../amount/index.js';
import { choiceBasket, fixedUnits } from '../../economy/index.js';
import type { Economy, Offer } from '../../economy/index.js';
import type { Formula, Scope, Value } from '../../formula/index.js';
import { pointerOf } from '../../issue/index.js';
import { basketArrivals, playerCreate, playerScope } from '../../player/index.js';
import { buybackTakes } from '../../trade/index.js';
import { cheapestUnits, unitPrices } from '../prices.js';
import { offerIsHidden, offerPointer, offerSubject } from '../finding.js';
import type { AuditRule } from '../finding.js';

export const neverOnShow: AuditRule = {
  code: 'never-on-show',
  severity: 'error',
  help: "An offer whose window, shop's window or condition can never be met is never seen.",
  find: ({ economy, obtainable }) =>
    [...economy.offers.values()].flatMap((offer) => {
      const why = offerIsHidden(offer) ? undefined : neverShown(economy, offer, obtainable);
      return why ? [{ ...why, subject: offerSubject(offer) }] : [];
    }),
};

function neverShown(
  economy: Economy,
  offer: Offer,
  obtainable: ReadonlySet<string>,
): { pointer: string; message: string; fix: string } | undefined {
  const from = Math.max(offer.opening.fromMs ?? -Infinity, offer.shop.opening.fromMs ?? -Infinity);
  const until = Math.min(offer.opening.untilMs ?? Infinity, offer.shop.opening.untilMs ?? Infinity);
  if (until <= from)
    return {
      pointer: offerPointer(offer, offer.opening.untilMs === until ? 'until' : 'from'),
      message: `it is on show when ${offer.shop.name} is closed: the two windows do not meet`,
      fix: 'Mend from and until of the offer or of the shop.',
    };
  const conditions = [
    { when: offer.when, pointer: offerPointer(offer, 'when') },
    { when: offer.shop.when, pointer: pointerOf(['shops', offer.shop.id, 'when']) },
  ];
  for (const { when, pointer } of conditions) {
    if (!when) continue;
    const scope = playerScope(economy, playerCreate(economy, 'new_player', 'New player', 0).player, 0);
    if (!canBeTrue(when, scope))
      return { pointer, message: `${when.text} is never true`, fix: 'Mend the condition, or hide the offer.' };
    const missing = when.references.find(
      ({ lookup, id }) => lookup === 'owned' && economy.items.has(id) && !obtainable.has(id),
    );
    // A condition on something that nobody can own is met only where it asks for none of it.
    if (missing && when.run(scope) !== true)
      return {
        pointer,
        message: `${when.text} asks for ${economy.items.get(missing.id)!.name}, and no player can get it`,
        fix: 'Make that item obtainable, or mend the condition.',
      };
  }
  return undefined;
}

/** The most combinations of values that are tried. */
const MOST_TRIED = 20_000;

/**
 * Whether a condition can hold for anyone. One that only compares values with constants changes its answer at these
 * constants alone, so trying each name at every constant, below, above and between them settles it. Of conditions that
 * calculate, and of those with very many names, nothing is said: they count as possible.
 */
function canBeTrue(when: Formula, scope: Scope): boolean {
  const text = when.text.slice(1);
  const bare = text.replace(/"[^"]*"|'[^']*'/g, ' ').replace(/\b(owned|balance|bought)\s*\(\s*\w+\s*\)/g, ' ');
  if (/[-+*/%^]|\w\s*\(/.test(bare.replace(/\b(and|or|not)\b/g, ' '))) return true;
  const numbers = [...bare.matchAll(/\d+(\.\d+)?/g)].map(([one]) => Number(one));
  const texts = [...text.matchAll(/"([^"]*)"|'([^']*)'/g)].map(([, double, single]) => double ?? single ?? '');
  const sorted = [...new Set(numbers)].sort((a, b) => a - b);
  const between = sorted.slice(1).map((one, index) => (one + sorted[index]!) / 2);
  const around = [...new Set([0, ...between, ...sorted.flatMap((one) => [one - 1, one, one + 1])])];
  const slots = [
    ...when.names.map((name) => ({ key: name, values: valuesFor(scope.name(name), around, texts) })),
    ...when.references.map(({ lookup, id }) => ({ key: `${lookup} ${id}`, values: around.filter((one) => one >= 0) })),
  ];
  const combinations = slots.reduce((product, { values }) => product * values.length, 1);
  if (combinations > MOST_TRIED) return true;
  for (let n = 0; n < combinations; n++) {
    const picked = new Map<string, Value>();
    let rest = n;
    for (const { key, values } of slots) {
      picked.set(key, values[rest % values.length]!);
      rest = Math.floor(rest / values.length);
    }
    const at = (lookup: string) => (id: string) => picked.get(`${lookup} ${id}`) as number;
    const tried: Scope = {
      name: (name) => picked.get(name)!,
      owned: at('owned'),
      balance: at('balance'),
      bought: at('bought'),
    };
    if (when.run(tried) === true) return true;
  }
  return false;
}

function valuesFor(start: Value, around: readonly number[], texts: readonly string[]): Value[] {
  if (typeof start === 'boolean') return [true, false];
  return typeof start === 'number' ? [...around] : [...new Set([start, ...texts, ''])];
}

export const tierUnitPriceRises: AuditRule = {
  code: 'tier-unit-price-rises',
  severity: 'warning',
  help: 'Of two packs in one shop the larger must not cost more for each.',
  find: ({ economy }) => {
    const labels = economyLabels(economy);
    const groups = new Map<string, { offer: Offer; count: number; asset: string; units: number }[]>();
    for (const offer of economy.offers.values()) {
      if (offerIsHidden(offer)) continue;
      for (const { item, ...price } of unitPrices(offer)) {
        const key = `${offer.shop.id} ${item} ${price.asset}`;
        groups.set(key, [...(groups.get(key) ?? []), { offer, ...price }]);
      }
    }
    return [...groups.values()].flatMap((tiers) => {
      const sorted = [...tiers].sort((a, b) => a.count - b.count);
      return sorted.flatMap((tier, index) => {
        const smaller = sorted.slice(0, index).find(({ count, units }) => count < tier.count && units < tier.units);
        if (!smaller) return [];
        const each = (units: number) => amountText(labels, tier.asset, Number(units.toFixed(2)));
        return [
          {
            pointer: offerPointer(tier.offer, 'price'),
            subject: offerSubject(tier.offer),
            message: `each costs ${each(tier.units)} in the pack of ${tier.count}, and ${each(smaller.units)} in the pack of ${smaller.count}`,
            fix: 'Lower this price, or raise that of the smaller pack.',
          },
        ];
      });
    });
  },
};

/** What a bundle's parts would cost one by one, in one currency: by the cheapest offers, else by worth. */
function partsCost(
  economy: Economy,
  contents: Readonly<Basket>,
  asset: string,
  cheapest: ReturnType<typeof cheapestUnits>,
): number | undefined {
  let total = 0;
  for (const [part, units] of Object.entries(contents)) {
    const each = part === asset ? 1 : (cheapest.get(part)?.get(asset)?.units ?? economy.items.get(part)?.worth[asset]);
    if (each === undefined) return undefined;
    total += each * units;
  }
  return total;
}

interface Priced {
  offer: Offer;
  asset: string;
  costs: number;
  parts: number;
}

/** Offers that give several things together, as a bundle or as a basket, at a fixed price in one asset. */
function* pricedBundles(economy: Economy): Generator<Priced> {
  const cheapest = cheapestUnits(economy);
  for (const offer of economy.offers.values()) {
    if (offerIsHidden(offer)) continue;
    const contents = contentsTogether(economy, offer);
    if (!contents) continue;
    for (const choice of offer.prices ?? []) {
      const [paid, ...more] = choice.kind === 'assets' ? choice.basket : [];
      const costs = paid && fixedUnits(paid);
      const parts =
        costs === undefined || more.length > 0 ? undefined : partsCost(economy, contents, paid!.asset, cheapest);
      if (parts !== undefined) yield { offer, asset: paid!.asset, costs: costs!, parts };
    }
  }
}

/** What an offer gives when it is more than some of one thing; undefined otherwise, or where an amount is a formula. */
function contentsTogether(economy: Economy, { gives }: Offer): Basket | undefined {
  const given = gives.map((quantity): [string, number | undefined] => [quantity.asset, fixedUnits(quantity)]);
  if (given.some(([, units]) => units === undefined)) return undefined;
  const isBundle = given.some(([asset]) => economy.items.get(asset)?.kind === 'bundle');
  return isBundle || given.length > 1 ? basketArrivals(economy, Object.fromEntries(given) as Basket) : undefined;
}

export const bundleDearerThanParts: AuditRule = {
  code: 'bundle-dearer-than-parts',
  severity: 'warning',
  help: 'A bundle, or several things in one offer, that costs more than its parts one by one is a trap for players.',
  find: ({ economy }) => {
    const labels = economyLabels(economy);
    return [...pricedBundles(economy)]
      .filter(({ costs, parts }) => costs > parts)
      .map(({ offer, asset, costs, parts }) => ({
        pointer: offerPointer(offer, 'price'),
        subject: offerSubject(offer),
        message: `it costs ${amountText(labels, asset, costs)}, and its parts one by one ${amountText(labels, asset, Math.floor(parts))}`,
        fix: 'Lower its price, or put more into it.',
      }));
  },
};

export const bundleBelowFloor: AuditRule = {
  code: 'bundle-below-floor',
  severity: 'warning',
  help: 'A bundle below the floor that the designer set (audit.bundleFloor) gives its parts away.',
  find: ({ economy }) => {
    const floor = economy.audit.bundleFloor;
    const labels = economyLabels(economy);
    if (floor === undefined) return [];
    return [...pricedBundles(economy)]
      .filter(({ costs, parts }) => costs < parts * floor)
      .map(({ offer, asset, costs, parts }) => ({
        pointer: offerPointer(offer, 'price'),
        subject: offerSubject(offer),
        message: `it costs ${amountText(labels, asset, costs)}; its parts cost ${amountText(labels, asset, Math.floor(parts))}, and the floor is ${floor} of that`,
        fix: 'Raise its price, put less into it, or lower audit.bundleFloor.',
      }));
  },
};

/** Whether a gift can be had again and again to some use: it piles up, or a shop pays for it. */
const isWorthRepeating = (economy: Economy, asset: string): boolean => {
  const item = economy.items.get(asset);
  if (!item || item.carry === undefined) return true;
  return [...economy.shops.values()].some(
    ({ hidden, buyback }) => !hidden && buyback && item.sellable && buybackTakes(buyback, item),
  );
};

export const freeWithoutLimit: AuditRule = {
  code: 'free-without-limit',
  severity: 'warning',
  help: 'What is given away without a limit is taken without end.',
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) => {
      const free = offer.prices?.some(({ kind }) => kind === 'free');
      const bounded = offer.limits.length > 0 || offer.stock?.scope === 'player';
      if (!free || bounded || offerIsHidden(offer)) return [];
      if (!offer.gives.some(({ asset }) => isWorthRepeating(economy, asset))) return [];
      return [
        {
          pointer: offerPointer(offer, 'price'),
          subject: offerSubject(offer),
          message: 'it is free, and nothing limits how often a player takes it',
          fix: 'Write limits: {lifetime: 1} (or for each day), or a price.',
        },
      ];
    }),
};

export const stockNeverBinds: AuditRule = {
  code: 'stock-never-binds',
  severity: 'hint',
  help: "Stock for each player that a lifetime limit or the item's carry always reaches first says nothing.",
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) => {
      const { stock } = offer;
      if (stock?.scope !== 'player') return [];
      const lifetime = offer.limits.find(({ period }) => period === 'lifetime')?.most;
      if (lifetime === undefined || stock.units < lifetime) return [];
      return [
        {
          pointer: offerPointer(offer, 'stock'),
          subject: offerSubject(offer),
          message: `${stock.units} in stock for each player never run out: only ${lifetime} can ever be bought`,
          fix: 'Remove the stock, or the limit.',
          mend: { words: 'remove the stock', operations: [{ op: 'remove', path: offerPointer(offer, 'stock') }] },
        },
      ];
    }),
};

export const priceAfterEnd: AuditRule = {
  code: 'price-after-end',
  severity: 'warning',
  help: 'An offer that costs only what has ended by then cannot be bought any more.',
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) => {
      if (offerIsHidden(offer) || !offer.prices) return [];
      const until = Math.min(offer.opening.untilMs ?? Infinity, offer.shop.opening.untilMs ?? Infinity);
      const over = offer.prices.map((choice) =>
        choiceBasket(choice)
          .map(({ asset }) => economy.currencies.get(asset))
          .find((currency) => currency?.ends && currency.ends.atMs < until),
      );
      if (over.some((currency) => currency === undefined)) return [];
      return [
        {
          pointer: offerPointer(offer),
          subject: offerSubject(offer),
          message: `it costs ${over[0]!.name}, which ends before the offer does`,
          fix: 'Write until: on the offer or the shop, no later than the currency ends.',
        },
      ];
    }),
};

export const productMissing: AuditRule = {
  code: 'product-missing',
  severity: 'warning',
  help: 'A real-money price that names no product in some store cannot be bought there.',
  find: ({ economy }) =>
    [...economy.offers.values()].flatMap((offer) =>
      (offer.prices ?? []).flatMap((choice) => {
        const missing =
          choice.kind === 'money' ? [...economy.stores.values()].filter(({ id }) => !(id in choice.products)) : [];
        return missing.length === 0
          ? []
          : [
              {
                pointer: offerPointer(offer, 'price'),
                subject: offerSubject(offer),
                message: `it names no product for ${missing.map(({ name }) => name).join(' and ')}`,
                fix: `Write products: {${missing.map(({ id }) => `${id}: ...`).join(', ')}} beside money.`,
              },
            ];
      }),
    ),
};

export const endsWithoutConversion: AuditRule = {
  code: 'ends-without-conversion',
  severity: 'hint',
  help: 'What players have left of a currency is lost when it ends, unless it turns into something.',
  find: ({ economy }) =>
    [...economy.currencies.values()]
      .filter(({ ends }) => ends && ends.into === undefined)
      .map(({ id, name }) => ({
        pointer: pointerOf(['currencies', id, 'ends']),
        subject: name,
        message: 'what players have left of it is lost when it ends',
        fix: 'Write into: another currency, and rate: how much of it for each.',
      })),
};

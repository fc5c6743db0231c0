/** Hints at slips that everybody makes: copies that were not finished, and a start that is out of scale with the prices. */
import type { Basket } from '../../amount/index.js';
import { unitsFormat } from '../../amount/index.js';
import type { OfferDocument } from '../../document/index.js';
import { choiceBasket, quantitiesEvaluate } from '../../economy/index.js';
import type { Economy, Offer, Persona } from '../../economy/index.js';
import type { Scope } from '../../formula/index.js';
import { pointerOf } from '../../issue/index.js';
import { activityPay, payScope } from '../../simulation/index.js';
import { amountText, basketText, economyLabels } from '../../texts/index.js';
import { offerIsHidden, offerPointer, offerSubject } from '../finding.js';
import type { AuditRule, RuleFinding } from '../finding.js';

/** The later ones of things that are the same in what `keyOf` says, each with the first; nothing is the same where it is undefined. */
function again<T>(things: Iterable<T>, keyOf: (thing: T) => string | undefined): { one: T; first: T }[] {
  const firsts = new Map<string, T>();
  const found: { one: T; first: T }[] = [];
  for (const one of things) {
    const key = keyOf(one);
    if (key === undefined) continue;
    const first = firsts.get(key);
    if (first === undefined) firsts.set(key, one);
    else found.push({ one, first });
  }
  return found;
}

export const offerTwice: AuditRule = {
  code: 'offer-twice',
  severity: 'hint',
  help: 'The same thing offered twice in a shop, at the same price to the same players: one of the two is a slip.',
  find: ({ document, economy }) =>
    [...economy.shops.values()].flatMap((shop) => {
      const offers = shop.shelves.flatMap((shelf) => (shelf.hidden ? [] : shelf.offers));
      const written = (offer: Offer): OfferDocument =>
        document.shops![shop.id]!.shelves[offer.shelf.id]!.offers[offer.id]!;
      return again(
        offers.filter(({ hidden }) => !hidden),
        (offer) => {
          const { gives, count = 1, price, stock, limits, when, from, until } = written(offer);
          const asks = price ?? (typeof gives === 'string' ? document.items?.[gives]?.worth : undefined);
          return JSON.stringify([gives, count, asks, stock, limits, when, from, until]);
        },
      ).map(({ one, first }) => ({
        pointer: offerPointer(one),
        subject: offerSubject(one),
        message: `it is the same as "${first.id}": the same thing at the same price`,
        fix: 'Remove one of the two, or change what it gives or asks.',
      }));
    }),
};

const bare = (text: string): string => text.trim().toLowerCase();

export const nameTaken: AuditRule = {
  code: 'name-taken',
  severity: 'hint',
  help: 'Two things of one displayed name: players cannot tell them apart.',
  find: ({ economy }) => {
    const named = [
      ...[...economy.currencies.values()].map(({ id, name }) => ({ section: 'currencies', id, name })),
      ...[...economy.items.values()].map(({ id, name }) => ({ section: 'items', id, name })),
    ];
    return again(named, ({ name }) => bare(name)).map(({ one, first }) => ({
      pointer: pointerOf([one.section, one.id, 'name']),
      subject: one.name,
      message: `"${first.id}" is called that too`,
      fix: 'Give one of them another name.',
    }));
  },
};

export const descriptionCopied: AuditRule = {
  code: 'description-copied',
  severity: 'hint',
  help: 'Two items that are described in the same words: one is likely a copy that was not finished.',
  find: ({ document }) =>
    again(Object.entries(document.items ?? {}), ([, { description }]) => description && bare(description)).map(
      ({ one: [id, { name }], first: [other, { name: otherName }] }) => ({
        pointer: pointerOf(['items', id, 'description']),
        subject: name,
        message: `it is described in the words of ${otherName === name ? other : otherName}`,
        fix: 'Write what it is, or leave the description out.',
      }),
    ),
};

interface Asked {
  offer: Offer;
  /** One for each way to pay. */
  prices: Basket[];
}

/** What a new player is asked, offer by offer: those that are paid in the game. */
function askedOfNew({ offers }: Economy, scope: Scope): Asked[] {
  return [...offers.values()].flatMap((offer) => {
    if (offerIsHidden(offer)) return [];
    const prices = (offer.prices ?? []).flatMap((choice) => {
      const price = choice.kind === 'assets' ? quantitiesEvaluate(choiceBasket(choice), scope) : undefined;
      return price?.ok ? [price.basket] : [];
    });
    return prices.length > 0 ? [{ offer, prices }] : [];
  });
}

const canPay = (holds: (asset: string) => number, prices: readonly Basket[]): boolean =>
  prices.some((price) => Object.entries(price).every(([asset, units]) => holds(asset) >= units));

/** Of fewer offers it says nothing that all can be bought. */
const SOME_OFFERS = 8;
const NEARLY_ALL = 0.8;

export const startBuysAll: AuditRule = {
  code: 'start-buys-nearly-all',
  severity: 'hint',
  help: 'A new player who can buy nearly everything at once has nothing to play for.',
  find: ({ economy, probes }) => {
    const asked = askedOfNew(economy, probes.newPlayer);
    const start = (asset: string): number => economy.currencies.get(asset)?.start ?? 0;
    const bought = asked.filter(({ prices }) => canPay(start, prices));
    if (asked.length < SOME_OFFERS || bought.length < NEARLY_ALL * asked.length) return [];
    // Where prices come to nothing it is no start that pays them.
    const rich = [...economy.currencies.values()].find((one) => one.start > 0);
    if (!rich) return [];
    const { id, name } = rich;
    return [
      {
        pointer: pointerOf(['currencies', id, 'start']),
        subject: name,
        message: `a new player can buy any of ${bought.length} of the ${asked.length} offers at once`,
        fix: 'Let new players have less, or ask more.',
      },
    ];
  },
};

/** What a persona earns in a day at most: all of their time at what pays best, while no limit is reached. */
function dayOf(economy: Economy, { sessions, plays }: Persona): Basket {
  const minutes = (sessions.minutes * sessions.perDay.reduce((sum, one) => sum + one, 0)) / sessions.perDay.length;
  const scope = payScope(economy);
  const best: Record<string, number> = {};
  for (const { activity } of plays)
    for (const [asset, { high }] of Object.entries(activityPay(economy, activity, scope).first))
      best[asset] = Math.max(best[asset] ?? 0, high);
  return Object.fromEntries(Object.entries(best).map(([asset, perMinute]) => [asset, perMinute * minutes]));
}

export const nothingWithinADay: AuditRule = {
  code: 'nothing-within-a-day',
  severity: 'hint',
  help: 'A new player who can buy nothing at first, and nothing after a day of the persona who plays least.',
  find: ({ economy, probes }): RuleFinding[] => {
    const asked = askedOfNew(economy, probes.newPlayer);
    const time = ({ sessions }: Persona): number =>
      sessions.minutes * sessions.perDay.reduce((sum, one) => sum + one, 0);
    const [modest] = [...economy.personas.values()].sort((a, b) => time(a) - time(b));
    // What is free, or found in crates, needs no money.
    const isGiven = [...economy.offers.values()].some(({ prices }) => prices?.some(({ kind }) => kind === 'free'));
    if (!modest || asked.length === 0 || isGiven) return [];
    const earned = dayOf(economy, modest);
    const holds = (asset: string): number => {
      const { start = 0, refill } = economy.currencies.get(asset) ?? {};
      return Math.max(start, refill?.upTo ?? 0) + (earned[asset] ?? 0);
    };
    if (asked.some(({ prices }) => canPay(holds, prices))) return [];
    const short = (price: Basket): number =>
      Math.max(...Object.entries(price).map(([asset, units]) => units / Math.max(holds(asset), 1e-9)));
    const [nearest] = asked
      .flatMap(({ offer, prices }) => prices.map((price) => ({ offer, price })))
      .sort((one, other) => short(one.price) - short(other.price)) as [{ offer: Offer; price: Basket }];
    const labels = economyLabels(economy);
    const has = Object.fromEntries(Object.keys(nearest.price).map((asset) => [asset, Math.floor(holds(asset))]));
    return [
      {
        pointer: pointerOf(['personas', modest.id]),
        subject: modest.name,
        message: `a new ${modest.name} can buy nothing within a day: ${offerSubject(nearest.offer)} asks ${basketText(labels, nearest.price)}, and they have ${basketText(labels, has)} at most by then`,
        fix: 'Offer something cheaper, let play pay more, or let new players have more.',
      },
    ];
  },
};

/** Beside what prices in the middle ask. */
const TIMES_TOO_MUCH = 50;
const THOUSANDS = 1000;

export const startOutOfScale: AuditRule = {
  code: 'start-out-of-scale',
  severity: 'hint',
  help: 'A start in the thousands beside prices in tens: a nought too much, or prices from another scale.',
  find: ({ economy, probes }) => {
    const asked = askedOfNew(economy, probes.newPlayer);
    return [...economy.currencies.values()].flatMap(({ id, name, start, decimals }): RuleFinding[] => {
      const prices = asked.flatMap(({ prices: all }) => all.flatMap((price) => price[id] ?? [])).sort((a, b) => a - b);
      const middle = prices[prices.length >> 1];
      if (middle === undefined || start < THOUSANDS * 10 ** decimals || start < TIMES_TOO_MUCH * middle) return [];
      return [
        {
          pointer: pointerOf(['currencies', id, 'start']),
          subject: name,
          message: `new players have ${unitsFormat(start, decimals)}, and an offer asks ${amountText(economyLabels(economy), id, middle)} in the middle`,
          fix: 'Write a smaller start, or prices of the same scale.',
        },
      ];
    });
  },
};

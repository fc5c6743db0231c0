/** What a player sees in a shop at an instant: what is on show, at what price, and why something cannot be bought. */
import type { Basket } from '../amount/index.js';
import { choiceBasket, quantityFormula } from '../economy/index.js';
import type { Economy, Offer, Sale, Shelf, Shop } from '../economy/index.js';
import { progressEnds, progressOf } from '../progress/index.js';
import type { GoalStanding, TrackStanding } from '../progress/index.js';
import { playerHolds, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { isOnShow, shelfShown, shownUntilMs } from '../rotation/index.js';
import type { OnShow } from '../rotation/index.js';
import { levelNextMs, openingChangesMs, openingIsOpen, periodAround } from '../schedule/index.js';
import { buybackTakes, purchaseCheck, sellCheck } from '../trade/index.js';
import { verdictExplain } from '../texts/index.js';
import type { ActVerdict, Shared, Verdict } from '../trade/index.js';
import type { ExplainedVerdict } from '../texts/index.js';

/** One way to pay for an offer, with its own answer. */
export interface FrontChoice {
  pay: string;
  total: Basket;
  allowed: boolean;
  /** What one time costs without the sale that runs, where one does. */
  before?: Basket;
  /** Real money by ISO 4217 code, where it is paid so. */
  money?: Readonly<Record<string, number>>;
}

/** What a player reads of an offer, in one language. */
export interface OfferTold {
  /** The price of each alternative, by `pay`. */
  prices: Record<string, string>;
  /** What each costs without the sale that runs. */
  before: Record<string, string>;
  /** The sale that lowers the price. */
  sale: string | null;
  /** The question before buying, for the alternative that the verdict is about. */
  ask: string | null;
  /** Why not, one sentence for each reason. */
  refusals: string[];
}

export interface FrontOffer {
  id: string;
  name: string;
  description: string | null;
  badge: string | null;
  icon: string | null;
  choices: FrontChoice[];
  /** Of the first alternative that is allowed, or else of the first. */
  verdict: ExplainedVerdict;
  /** Where a language was asked for. */
  told?: OfferTold;
}

export interface FrontShelf {
  id: string;
  name: string;
  /** Where only a part of the shelf is on show at a time: which period this is, and until when (exclusive). */
  rotates?: { period: number; untilMs: number };
  offers: FrontOffer[];
}

export interface Front {
  /** The language of names, `wallet` and `told`, where one was asked for. */
  language?: string;
  wallet?: string;
  shop: string;
  name: string;
  icon: string | null;
  player: string;
  atMs: number;
  shelves: FrontShelf[];
  /** What the player has of every currency. */
  balances: Record<string, number>;
  /** Offers that can be bought now, the one that asks the largest share of the wallet first. */
  affordable: string[];
  /** What this shop would pay for one unit of each thing that the player holds. */
  buysBack: { item: string; held: number; pays: Basket; allowed: boolean }[];
  /** What the player works towards. */
  goals: GoalStanding[];
  tracks: TrackStanding[];
  /** The offer closest to being affordable among those that only money stands against. */
  nextGoal: { offer: string; short: Basket } | null;
  /** Until when (exclusive) this answer holds if the player does nothing; null when nothing is due. */
  changesMs: number | null;
}

/** Linear in the shop's offers. A shop that is closed shows its shelves all the same, each offer with the reason. */
export function frontMake(economy: Economy, shop: Shop, player: Player, shared: Shared, nowMs: number): Front {
  const { player: settled } = playerSettle(economy, player, nowMs);
  const shown: FrontOffer[] = [];
  const sold = soldBack(economy, shop, settled, shared, nowMs);
  const shelves = shop.shelves
    .filter(({ hidden }) => !hidden)
    .map((shelf): FrontShelf => {
      const onShow = shelfShown(economy, shelf, settled.id, nowMs);
      const offers = offersOnShow(shelf, onShow, nowMs).map((offer) =>
        frontOffer(economy, offer, settled, shared, nowMs),
      );
      shown.push(...offers);
      return {
        id: shelf.id,
        name: shelf.name,
        ...(onShow.kind === 'drawn' ? { rotates: { period: onShow.period.index, untilMs: onShow.period.endMs } } : {}),
        offers,
      };
    })
    .filter(({ offers, rotates }) => offers.length > 0 || rotates);
  return {
    shop: shop.id,
    name: shop.name,
    icon: shop.icon ?? null,
    player: player.id,
    atMs: nowMs,
    shelves,
    balances: Object.fromEntries([...economy.currencies.keys()].map((id) => [id, playerHolds(economy, settled, id)])),
    affordable: affordable(shown),
    buysBack: sold.map(({ item, gives, allowed }) => ({
      item,
      held: playerHolds(economy, settled, item),
      pays: gives,
      allowed,
    })),
    ...progressOf(economy, settled, nowMs),
    nextGoal: nextGoal(shown),
    changesMs: changesMs(
      economy,
      shop,
      settled,
      nowMs,
      shown.map(({ verdict }) => verdict),
      sold,
    ),
  };
}

/** In the order of the shelf. */
function offersOnShow(shelf: Shelf, onShow: OnShow, nowMs: number): Offer[] {
  return shelf.offers.filter(
    (offer) => !offer.hidden && openingIsOpen(offer.opening, nowMs) && isOnShow(onShow, offer.id),
  );
}

function frontOffer(economy: Economy, offer: Offer, player: Player, shared: Shared, nowMs: number): FrontOffer {
  const ask = (pay: string | undefined): Verdict =>
    purchaseCheck(economy, player, shared, { offer: offer.id, ...(pay === undefined ? {} : { pay }) }, nowMs);
  const verdicts = offer.prices === undefined ? [ask(undefined)] : offer.prices.map(({ pay }) => ask(pay));
  const best = verdicts.find(({ allowed }) => allowed) ?? verdicts[0]!;
  const item = economy.items.get(offer.gives[0]?.asset ?? '');
  return {
    id: offer.id,
    name: offer.name,
    description: offer.description ?? null,
    badge: offer.badge ?? null,
    icon: item?.icon ?? null,
    choices: verdicts.flatMap(({ price, allowed }) =>
      price
        ? [
            {
              pay: price.pay,
              total: price.total,
              allowed,
              ...(price.sale ? { before: price.base } : {}),
              ...(price.money ? { money: price.money } : {}),
            },
          ]
        : [],
    ),
    verdict: verdictExplain(economy, best),
  };
}

/** The shop's answer for one unit of each thing that it takes and the player holds. */
function soldBack(economy: Economy, shop: Shop, player: Player, shared: Shared, nowMs: number): ActVerdict[] {
  const { buyback } = shop;
  if (!buyback) return [];
  return [...new Set(player.stacks.map(({ item }) => item))]
    .filter((item) => economy.items.has(item) && buybackTakes(buyback, economy.items.get(item)!))
    .map((item) => sellCheck(economy, player, shared, { item, shop: shop.id }, nowMs));
}

const largestShare = (total: Readonly<Basket>, of: Readonly<Record<string, number>>): number =>
  Math.max(
    0,
    ...Object.entries(total).map(([asset, units]) => (units === 0 ? 0 : units / Math.max(of[asset] ?? 0, 1))),
  );

function affordable(offers: readonly FrontOffer[]): string[] {
  return offers
    .filter(({ verdict }) => verdict.allowed)
    .map(({ id, verdict }) => ({ id, share: largestShare(verdict.price!.total, verdict.before) }))
    .sort((a, b) => b.share - a.share)
    .map(({ id }) => id);
}

function nextGoal(offers: readonly FrontOffer[]): Front['nextGoal'] {
  const goals = offers
    .filter(({ verdict }) => !verdict.allowed && verdict.reasons.every(({ code }) => code === 'short-of'))
    .map(({ id, verdict }) => {
      const short: Basket = Object.fromEntries(
        verdict.reasons.flatMap((reason) => (reason.code === 'short-of' ? [[reason.asset, reason.short]] : [])),
      );
      return { offer: id, short, share: largestShare(short, verdict.price!.total) };
    })
    .sort((a, b) => a.share - b.share);
  return goals[0] ? { offer: goals[0].offer, short: goals[0].short } : null;
}

/** The earliest instant after now at which time alone may change the answer. */
function changesMs(
  economy: Economy,
  shop: Shop,
  player: Player,
  nowMs: number,
  verdicts: readonly Verdict[],
  sold: readonly ActVerdict[],
): number | null {
  const instants: (number | null | undefined)[] = [openingChangesMs(shop.opening, nowMs)];
  const sales = new Set<Sale>();
  for (const shelf of shop.shelves) {
    instants.push(shownUntilMs(shelfShown(economy, shelf, player.id, nowMs)));
    for (const offer of shelf.offers) {
      instants.push(
        openingChangesMs(offer.opening, nowMs),
        dayMatters(offer) ? periodAround(economy.zone, 'day', nowMs).endMs : null,
      );
      for (const sale of offer.sales) sales.add(sale);
    }
  }
  for (const { opening, when } of sales)
    instants.push(
      openingChangesMs(opening, nowMs),
      when?.names.includes('day') ? periodAround(economy.zone, 'day', nowMs).endMs : null,
    );
  if (shop.when?.names.includes('day')) instants.push(periodAround(economy.zone, 'day', nowMs).endMs);
  for (const { id, refill, ends } of economy.currencies.values()) {
    if (player.balances[id]) instants.push(levelNextMs(player.balances[id], refill));
    instants.push(ends?.atMs);
  }
  for (const { expiresMs } of player.stacks) instants.push(expiresMs);
  instants.push(...progressEnds(economy, player, nowMs));
  for (const verdict of verdicts)
    instants.push(verdict.stock?.restocksMs, ...verdict.limits.map(({ resetsMs }) => resetsMs));
  for (const { reasons } of sold)
    for (const reason of reasons) if (reason.code === 'till-short') instants.push(reason.refilledMs);
  const due = instants.filter((instant): instant is number => typeof instant === 'number' && instant > nowMs);
  return due.length === 0 ? null : Math.min(...due);
}

function dayMatters(offer: Offer): boolean {
  const formulas = [
    offer.when,
    ...offer.gives.map(quantityFormula),
    ...(offer.prices ?? []).flatMap((choice) => choiceBasket(choice).map(quantityFormula)),
  ];
  return formulas.some((formula) => formula?.names.includes('day'));
}

/**
 * Ways of spending. A policy sees exactly what the storefront would show, decides what to try, and buys
 * through the same check and apply as a real player.
 */
import type { Economy, Offer, Persona } from '../economy/index.js';
import type { Verdict } from '../trade/index.js';

/** What a policy may see and do on one visit. */
export interface Visit {
  economy: Economy;
  /** What is there to be seen: of a shelf that rotates, what is on show. */
  offers: readonly Offer[];
  parameters: Persona['spending'];
  holds(asset: string): number;
  /** The answer for an offer and one way to pay. */
  check(offer: Offer, pay: string): Verdict;
  /** Buys; false when it was refused after all. */
  buy(verdict: Verdict): boolean;
  /** Notes that something was wanted and refused. */
  refused(verdict: Verdict): void;
  /** A number from 0 to 1 that belongs to this visit and this offer, whatever else happens. */
  luck(offer: Offer): number;
  /** What came in per day so far. */
  incomePerDay(asset: string): number;
}

export type Policy = (visit: Visit) => void;

/** The most purchases of one visit: an economy with a money loop must not hang the run. */
const MOST_PURCHASES = 50;

export const POLICIES: Readonly<Record<'wishlist' | 'impulse', Policy>> = {
  /** Saves for the next wish it does not own; buys other things only when they delay the wish by no more than `delayDays`. */
  wishlist(visit) {
    let wish = nextWish(visit);
    for (let bought = 0; wish && bought < MOST_PURCHASES; bought++) {
      const verdicts = waysToGet(visit, wish);
      const best = verdicts.find((verdict) => verdict.allowed && sparesReserve(visit, verdict));
      if (!best || !visit.buy(best)) {
        if (verdicts[0] && !best) visit.refused(verdicts[0]);
        buySideThings(visit, verdicts[0]);
        return;
      }
      wish = nextWish(visit);
    }
    if (!wish) buySideThings(visit, undefined);
  },
  /** Goes through what it can afford, cheapest first, and buys each with probability `chance`. */
  impulse(visit) {
    for (const verdict of affordableCheapestFirst(visit)) {
      if (visit.luck(visit.economy.offers.get(verdict.offer)!) >= visit.parameters.chance) continue;
      const now = visit.check(visit.economy.offers.get(verdict.offer)!, verdict.price!.pay);
      if (now.allowed && sparesReserve(visit, now)) visit.buy(now);
    }
  },
};

function nextWish({ parameters, holds }: Visit): string | undefined {
  return parameters.wishes.find((item) => holds(item) === 0);
}

/** Policies spend what is earned: real money needs a receipt. */
const paidInGame = ({ prices = [] }: Offer) => prices.filter(({ kind }) => kind !== 'money');

/** Answers for every offer and way to pay that gives the item, cheapest share of the wallet first. */
function waysToGet(visit: Visit, item: string): Verdict[] {
  const verdicts: Verdict[] = [];
  for (const offer of visit.offers) {
    if (!offer.gives.some(({ asset }) => asset === item)) continue;
    for (const { pay } of paidInGame(offer)) verdicts.push(visit.check(offer, pay));
  }
  return verdicts.sort((a, b) => priceShare(a) - priceShare(b));
}

function sparesReserve({ parameters: { keeps } }: Visit, verdict: Verdict): boolean {
  return Object.keys(verdict.price?.total ?? {}).every((asset) => verdict.after[asset]! >= (keeps[asset] ?? 0));
}

/** The largest part of what is held that a price takes: compares prices in different currencies. */
function priceShare({ price, before }: Verdict): number {
  return Math.max(
    0,
    ...Object.entries(price?.total ?? {}).map(([asset, units]) => units / Math.max(before[asset] ?? 0, 1)),
  );
}

function affordableCheapestFirst(visit: Visit): Verdict[] {
  const verdicts: Verdict[] = [];
  for (const offer of visit.offers) {
    const allowed = paidInGame(offer)
      .map(({ pay }) => visit.check(offer, pay))
      .find((verdict) => verdict.allowed && sparesReserve(visit, verdict));
    if (allowed) verdicts.push(allowed);
  }
  return verdicts.sort((a, b) => priceShare(a) - priceShare(b));
}

function buySideThings(visit: Visit, wish: Verdict | undefined): void {
  const wished = wish?.price?.total ?? {};
  for (const verdict of affordableCheapestFirst(visit)) {
    const offer = visit.economy.offers.get(verdict.offer)!;
    if (visit.luck(offer) >= visit.parameters.chance) continue;
    const delay = Math.max(
      0,
      ...Object.entries(verdict.price!.total).map(([asset, units]) =>
        asset in wished ? units / Math.max(visit.incomePerDay(asset), 1e-9) : 0,
      ),
    );
    if (delay > visit.parameters.delayDays) continue;
    const now = visit.check(offer, verdict.price!.pay);
    if (now.allowed && sparesReserve(visit, now)) visit.buy(now);
  }
}

/**
 * Ways of spending. A policy sees exactly what the storefront would show, decides what to try, and buys
 * through the same check and apply as a real player.
 */
import type { Basket } from '../amount/index.js';
import type { Offer, Persona } from '../economy/index.js';

/** What a policy needs to know of an answer: as much of a verdict as it looks at. */
export interface Answer {
  allowed: boolean;
  price: { total: Readonly<Basket> } | null;
  /** Holdings of what is paid, before and after. */
  before: Readonly<Record<string, number>>;
  after: Readonly<Record<string, number>>;
}

/** What a policy may see and do on one visit; `A` is how whoever plays it answers. */
export interface Visit<A extends Answer> {
  /** What is there to be seen: of a shelf that rotates, what is on show. */
  offers: readonly Offer[];
  parameters: Persona['spending'];
  holds(asset: string): number;
  /** The ways to pay for an offer in the game: policies spend what is earned, and real money needs a receipt. */
  ways(offer: Offer): readonly string[];
  /** The answer for an offer and one way to pay. */
  check(offer: Offer, pay: string): A;
  /** The same where it is allowed, and nothing where it is refused, whatever for. */
  allowed(offer: Offer, pay: string): A | undefined;
  /** Buys; false when it was refused after all. */
  buy(answer: A): boolean;
  /** Notes that something was wanted and refused. */
  refused(answer: A): void;
  /** A number from 0 to 1 that belongs to this visit and this offer, whatever else happens. */
  luck(offer: Offer): number;
  /** What came in per day so far. */
  incomePerDay(asset: string): number;
}

export type Policy = <A extends Answer>(visit: Visit<A>) => void;

/** An answer with what it is about. */
interface Way<A> {
  offer: Offer;
  pay: string;
  answer: A;
}

/** The most purchases of one visit: an economy with a money loop must not hang the run. */
const MOST_PURCHASES = 50;

export const POLICIES: Readonly<Record<'wishlist' | 'impulse', Policy>> = {
  /** Saves for the next wish it does not own; buys other things only when they delay the wish by no more than `delayDays`. */
  wishlist(visit) {
    let wish = nextWish(visit);
    for (let bought = 0; wish && bought < MOST_PURCHASES; bought++) {
      const ways = waysToGet(visit, wish);
      const best = ways.find(({ answer }) => answer.allowed && sparesReserve(visit, answer));
      if (!best || !visit.buy(best.answer)) {
        if (ways[0] && !best) visit.refused(ways[0].answer);
        buySideThings(visit, ways[0]?.answer);
        return;
      }
      wish = nextWish(visit);
    }
    if (!wish) buySideThings(visit, undefined);
  },
  /** Goes through what it can afford, cheapest first, and buys each with probability `chance`. */
  impulse(visit) {
    for (const { offer, pay } of affordableCheapestFirst(visit)) {
      if (visit.luck(offer) >= visit.parameters.chance) continue;
      buyIfStill(visit, offer, pay);
    }
  },
};

/** The ways to pay for an offer in the game. */
export const waysToPay = ({ prices = [] }: Offer): string[] =>
  prices.filter(({ kind }) => kind !== 'money').map(({ pay }) => pay);

function nextWish<A extends Answer>({ parameters, holds }: Visit<A>): string | undefined {
  return parameters.wishes.find((item) => holds(item) === 0);
}

/** Answers for every offer and way to pay that gives the item, cheapest share of the wallet first. */
function waysToGet<A extends Answer>(visit: Visit<A>, item: string): Way<A>[] {
  const ways: Way<A>[] = [];
  for (const offer of visit.offers) {
    if (!offer.gives.some(({ asset }) => asset === item)) continue;
    for (const pay of visit.ways(offer)) ways.push({ offer, pay, answer: visit.check(offer, pay) });
  }
  return cheapestFirst(ways);
}

const cheapestFirst = <A extends Answer>(ways: Way<A>[]): Way<A>[] =>
  ways.sort((a, b) => priceShare(a.answer) - priceShare(b.answer));

function sparesReserve<A extends Answer>({ parameters: { keeps } }: Visit<A>, { price, after }: Answer): boolean {
  for (const asset in price?.total) if (after[asset]! < (keeps[asset] ?? 0)) return false;
  return true;
}

/** The largest part of what is held that a price takes: compares prices in different currencies. */
function priceShare({ price, before }: Answer): number {
  let share = 0;
  for (const asset in price?.total) share = Math.max(share, price.total[asset]! / Math.max(before[asset] ?? 0, 1));
  return share;
}

function affordableCheapestFirst<A extends Answer>(visit: Visit<A>): Way<A>[] {
  const affordable: Way<A>[] = [];
  for (const offer of visit.offers)
    for (const pay of visit.ways(offer)) {
      const answer = visit.allowed(offer, pay);
      if (!answer || !sparesReserve(visit, answer)) continue;
      affordable.push({ offer, pay, answer });
      break;
    }
  return cheapestFirst(affordable);
}

function buySideThings<A extends Answer>(visit: Visit<A>, wish: A | undefined): void {
  const wished = wish?.price?.total ?? {};
  for (const { offer, pay, answer } of affordableCheapestFirst(visit)) {
    if (visit.luck(offer) >= visit.parameters.chance) continue;
    let delay = 0;
    for (const asset in answer.price?.total)
      if (asset in wished)
        delay = Math.max(delay, answer.price.total[asset]! / Math.max(visit.incomePerDay(asset), 1e-9));
    if (delay > visit.parameters.delayDays) continue;
    buyIfStill(visit, offer, pay);
  }
}

/** What was bought before may have changed the answer. */
function buyIfStill<A extends Answer>(visit: Visit<A>, offer: Offer, pay: string): void {
  const now = visit.allowed(offer, pay);
  if (now && sparesReserve(visit, now)) visit.buy(now);
}

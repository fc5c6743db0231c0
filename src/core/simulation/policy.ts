/**
 * Ways of spending. A policy sees exactly what the storefront would show, decides what to try, and buys
 * through the same check and apply as a real player.
 */
import type { Basket } from '../amount/index.js';
import type { Offer, Persona } from '../economy/index.js';
import type { Verdict } from '../trade/index.js';

/** What a policy needs to know of an answer. */
export interface Answer {
  allowed: boolean;
  /** The largest part of what is held that the price takes (`priceShare`). */
  share: number;
  /** Whether the reserve is left (`keeps`). */
  spares: boolean;
  /** What is paid; undefined where no price could be worked out. */
  total: Readonly<Basket> | undefined;
}

/** What part of what is held one amount takes: compares prices in different currencies. */
export const priceShare = (units: number, held: number): number => units / Math.max(held, 1);

/**
 * What a policy may see and do on one visit. Whoever plays it says what an offer (`O`), a way to pay for it (`W`) and an
 * answer (`A`) are.
 */
export interface Visit<O, W, A extends Answer> {
  /** What is there to be seen: of a shelf that rotates, what is on show. */
  offers: readonly O[];
  parameters: Persona['spending'];
  holds(asset: string): number;
  /** Those that give an item, in their order. */
  giving(item: string): readonly O[];
  /** The ways to pay for an offer in the game: policies spend what is earned, and real money needs a receipt. */
  ways(offer: O): readonly W[];
  /** The answer for an offer and one way to pay. */
  check(offer: O, way: W): A;
  /** The answer where it is allowed and spares the reserve, and nothing where not, whatever for. */
  allowed(offer: O, way: W): A | undefined;
  /** False where an offer is surely out of reach, so that nothing more need be asked. */
  inReach(offer: O): boolean;
  /** The first way to pay that is: what a loop over `ways` finds. */
  firstAllowed(offer: O): Way<O, W, A> | undefined;
  /** Buys; false when it was refused after all. */
  buy(answer: A): boolean;
  /** Notes that something was wanted and refused. */
  refused(answer: A): void;
  /** A number from 0 to 1 that belongs to this visit and this offer, whatever else happens. */
  luck(offer: O): number;
  /** What came in per day so far. */
  incomePerDay(asset: string): number;
}

export type Policy = <O, W, A extends Answer>(visit: Visit<O, W, A>) => void;

/** An answer with what it is about. */
export interface Way<O, W, A> {
  offer: O;
  way: W;
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
      const best = ways.find(({ answer }) => answer.allowed && answer.spares);
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
    for (const { offer, way } of temptingCheapestFirst(visit)) buyIfStill(visit, offer, way);
  },
};

/** An answer with the verdict that it comes from. */
export interface VerdictAnswer extends Answer {
  verdict: Verdict;
}

export function verdictAnswer(verdict: Verdict, keeps: Readonly<Basket>): VerdictAnswer {
  const { allowed, price, before, after } = verdict;
  let share = 0;
  let spares = true;
  for (const asset in price?.total) {
    share = Math.max(share, priceShare(price.total[asset]!, before[asset]!));
    spares &&= after[asset]! >= (keeps[asset] ?? 0);
  }
  return { allowed, share, spares, total: price?.total, verdict };
}

/** What of a visit follows from checking one way after the other: how the reference and tests answer. */
export function byChecking<O, W, A extends Answer>(
  ways: (offer: O) => readonly W[],
  check: (offer: O, way: W) => A,
): Pick<Visit<O, W, A>, 'ways' | 'check' | 'allowed' | 'inReach' | 'firstAllowed'> {
  const allowed = (offer: O, way: W): A | undefined => {
    const answer = check(offer, way);
    return answer.allowed && answer.spares ? answer : undefined;
  };
  const firstAllowed = (offer: O): Way<O, W, A> | undefined => {
    for (const way of ways(offer)) {
      const answer = allowed(offer, way);
      if (answer) return { offer, way, answer };
    }
    return undefined;
  };
  return { ways, check, allowed, inReach: () => true, firstAllowed };
}

/** The ways to pay for an offer in the game. */
export const waysToPay = ({ prices = [] }: Offer): string[] =>
  prices.filter(({ kind }) => kind !== 'money').map(({ pay }) => pay);

function nextWish<O, W, A extends Answer>({ parameters, holds }: Visit<O, W, A>): string | undefined {
  return parameters.wishes.find((item) => holds(item) === 0);
}

/** Answers for every offer and way to pay that gives the item, cheapest share of the wallet first. */
function waysToGet<O, W, A extends Answer>(visit: Visit<O, W, A>, item: string): Way<O, W, A>[] {
  const ways: Way<O, W, A>[] = [];
  for (const offer of visit.giving(item))
    for (const way of visit.ways(offer)) ways.push({ offer, way, answer: visit.check(offer, way) });
  return ways.sort(byShare);
}

const byShare = (a: { answer: Answer }, b: { answer: Answer }): number => a.answer.share - b.answer.share;

/**
 * What can be afforded, of what the luck of this visit turns to (with probability `chance`), cheapest first. Luck is
 * asked before the price: it is the same whatever an offer costs.
 */
function temptingCheapestFirst<O, W, A extends Answer>(visit: Visit<O, W, A>): Way<O, W, A>[] {
  const { chance } = visit.parameters;
  const affordable: Way<O, W, A>[] = [];
  for (const offer of visit.offers) {
    if (!visit.inReach(offer) || visit.luck(offer) >= chance) continue;
    const found = visit.firstAllowed(offer);
    if (found) affordable.push(found);
  }
  return affordable.sort(byShare);
}

function buySideThings<O, W, A extends Answer>(visit: Visit<O, W, A>, wish: A | undefined): void {
  const wished = wish?.total ?? {};
  for (const { offer, way, answer } of temptingCheapestFirst(visit)) {
    let delay = 0;
    for (const asset in answer.total)
      if (asset in wished) delay = Math.max(delay, answer.total[asset]! / Math.max(visit.incomePerDay(asset), 1e-9));
    if (delay > visit.parameters.delayDays) continue;
    buyIfStill(visit, offer, way);
  }
}

/** What was bought before may have changed the answer. */
function buyIfStill<O, W, A extends Answer>(visit: Visit<O, W, A>, offer: O, way: W): void {
  const now = visit.allowed(offer, way);
  if (now) visit.buy(now);
}

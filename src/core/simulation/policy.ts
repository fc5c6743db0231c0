/**
 * Ways of spending. A policy sees exactly what the storefront would show, decides what to try, and buys
 * through the same check and apply as a real player.
 */
import type { Basket } from '../amount/index.js';
import type { Offer } from '../economy/index.js';
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
 * What a policy may see and do on one visit. Whoever plays it says what an offer (`O`), a way to pay for it (`W`), an
 * answer (`A`) and an item that is wished for (`I`) are.
 */
export interface Visit<O, W, A extends Answer, I> {
  /** In the order in which they are saved for. */
  wishes: readonly I[];
  /** Of the persona's spending. */
  delayDays: number;
  holds(item: I): number;
  /** Those that give an item, in their order. */
  giving(item: I): readonly O[];
  /** The ways to pay for an offer in the game: policies spend what is earned, and real money needs a receipt. */
  ways(offer: O): readonly W[];
  /** The answer for an offer and one way to pay. */
  check(offer: O, way: W): A;
  /** The answer where it is allowed and spares the reserve, and nothing where not, whatever for. */
  allowed(offer: O, way: W): A | undefined;
  /**
   * Of all that is on show, in its order: what the luck of this visit turns to (with probability `chance`), with the
   * first way to pay that is `allowed`. Luck is asked before the price: it is the same whatever an offer costs.
   */
  tempting(): Way<O, W, A>[];
  /** Buys; false when it was refused after all. */
  buy(answer: A): boolean;
  /** Notes that something was wanted and refused. */
  refused(answer: A): void;
  /** What came in per day so far. */
  incomePerDay(asset: string): number;
}

export type Policy = <O, W, A extends Answer, I>(visit: Visit<O, W, A, I>) => void;

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
    for (let bought = 0; wish !== undefined && bought < MOST_PURCHASES; bought++) {
      const ways = waysToGet(visit, wish);
      const best = ways.find(({ answer }) => answer.allowed && answer.spares);
      if (!best || !visit.buy(best.answer)) {
        if (ways[0] && !best) visit.refused(ways[0].answer);
        buySideThings(visit, ways[0]?.answer);
        return;
      }
      wish = nextWish(visit);
    }
    if (wish === undefined) buySideThings(visit, undefined);
  },
  /** Goes through what it can afford, cheapest first, and buys each with probability `chance`. */
  impulse(visit) {
    let isChanged = false;
    for (const way of temptingCheapestFirst(visit)) isChanged = buyIfStill(visit, way, isChanged) || isChanged;
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

/**
 * What of a visit follows from checking one way after the other: how the reference and tests answer. `luck` is a number
 * from 0 to 1 that belongs to this visit and an offer, whatever else happens.
 */
export function byChecking<O, W, A extends Answer>({
  offers,
  chance,
  luck,
  ways,
  check,
}: {
  offers: readonly O[];
  chance: number;
  luck: (offer: O) => number;
  ways: (offer: O) => readonly W[];
  check: (offer: O, way: W) => A;
}): Pick<Visit<O, W, A, unknown>, 'ways' | 'check' | 'allowed' | 'tempting'> {
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
  const tempting = (): Way<O, W, A>[] =>
    offers.flatMap((offer) => {
      const found = luck(offer) < chance ? firstAllowed(offer) : undefined;
      return found ? [found] : [];
    });
  return { ways, check, allowed, tempting };
}

/** The ways to pay for an offer in the game. */
export const waysToPay = ({ prices = [] }: Offer): string[] =>
  prices.filter(({ kind }) => kind !== 'money').map(({ pay }) => pay);

function nextWish<O, W, A extends Answer, I>({ wishes, holds }: Visit<O, W, A, I>): I | undefined {
  return wishes.find((item) => holds(item) === 0);
}

/** Answers for every offer and way to pay that gives the item, cheapest share of the wallet first. */
function waysToGet<O, W, A extends Answer, I>(visit: Visit<O, W, A, I>, item: I): Way<O, W, A>[] {
  const ways: Way<O, W, A>[] = [];
  for (const offer of visit.giving(item))
    for (const way of visit.ways(offer)) ways.push({ offer, way, answer: visit.check(offer, way) });
  return ways.length > 1 ? ways.sort(byShare) : ways;
}

const byShare = (a: { answer: Answer }, b: { answer: Answer }): number => a.answer.share - b.answer.share;

function temptingCheapestFirst<O, W, A extends Answer, I>(visit: Visit<O, W, A, I>): Way<O, W, A>[] {
  const tempting = visit.tempting();
  return tempting.length > 1 ? tempting.sort(byShare) : tempting;
}

function buySideThings<O, W, A extends Answer, I>(visit: Visit<O, W, A, I>, wish: A | undefined): void {
  const wished = wish?.total ?? {};
  let isChanged = false;
  for (const way of temptingCheapestFirst(visit)) {
    const { total } = way.answer;
    let delay = 0;
    for (const asset in total)
      if (asset in wished) delay = Math.max(delay, total[asset]! / Math.max(visit.incomePerDay(asset), 1e-9));
    if (delay <= visit.delayDays) isChanged = buyIfStill(visit, way, isChanged) || isChanged;
  }
}

/** What was bought since it was asked may have changed the answer. */
function buyIfStill<O, W, A extends Answer, I>(
  visit: Visit<O, W, A, I>,
  asked: Way<O, W, A>,
  isChanged: boolean,
): boolean {
  const answer = isChanged ? visit.allowed(asked.offer, asked.way) : asked.answer;
  return answer !== undefined && visit.buy(answer);
}

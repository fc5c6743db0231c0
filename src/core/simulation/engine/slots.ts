/** A compiled economy in numbered slots: what the engine's columns and loops count by. */
import { assetMost, basketArrivals, counterKey } from '../../player/index.js';
import type { CounterKey } from '../../player/index.js';
import type { Basket, Units } from '../../amount/index.js';
import { ruleLimits } from '../../earning/index.js';
import { choiceBasket, quantitiesFixed } from '../../economy/index.js';
import type {
  Activity,
  Currency,
  EarningRule,
  Economy,
  Goal,
  Item,
  Offer,
  PriceChoice,
  Sale,
  Shelf,
  Shop,
  Track,
} from '../../economy/index.js';
import { offerLuck } from '../luck.js';
import type { RunSetup } from '../scenario.js';
import { metIn } from './met.js';
import { keyOfText } from '../../random/index.js';
import type { Key } from '../../random/index.js';
import type { Limit, Period } from '../../schedule/index.js';
import { REASON_CODES, basketGivesNothing } from '../../trade/index.js';
import type { QuoteResult, ReasonCode } from '../../trade/index.js';

/** One currency or item. Currencies come first, so that a slot below their number is one. */
export interface AssetSlot {
  id: string;
  currency: Currency | undefined;
  item: Item | undefined;
  /** The most that a player may hold. */
  most: Units;
  /** Whether what passes it is told as a reason: a currency without a cap has none. */
  bounded: boolean;
  /** Lies in stacks that expire, each at its time. */
  timed: boolean;
  /** Up to where it comes back by itself; undefined where it does not. */
  upTo: Units | undefined;
  /** How long it surely takes until some comes back, ms. */
  everyMs: number;
  /** When it ends, epoch ms. */
  endsMs: number;
  /** What its refill, its end and what passes its cap are told as. */
  refilled: number;
  ended: number;
  overCap: number;
}

/** Amounts by slot, in the order in which they are written. */
export interface Amounts {
  slots: readonly number[];
  units: readonly Units[];
}

/** A limit that is counted for each player. */
export interface CountedLimit {
  limit: Limit;
  most: number;
  counter: number;
  /** How long a duration's window is, ms; 0 where the period is the same for everybody. */
  everyMs: number;
  /** The last period that was asked for, of those that are the same for everybody. */
  period: Period;
}

/** What is given: the bundles in it, and what arrives once these are unpacked. */
export interface Gift {
  bundles: Amounts;
  arrivals: Amounts;
}

/** What one time of an offer costs and gives. */
export interface Terms extends Gift {
  total: Basket;
  gives: Basket;
  cost: Amounts;
}

/** Why there is no price. */
export type Untold = Extract<QuoteResult, { ok: false }>['why'];

/** One way to pay for a deal. */
export interface Way {
  choice: PriceChoice;
  pay: string;
  /** What it costs and gives where no formula says so, while no sale runs. */
  fixed: Terms | Untold | undefined;
  /** The first amount of a fixed price, while no sale lowers it. */
  least: { slot: number; units: Units } | undefined;
  /**
   * What fixed prices come to under sales, by which of the offer's sales run; undefined where a formula or a sale's
   * condition looks at the player.
   */
  reduced: Map<number, Terms | Untold> | undefined;
}

/** An offer with what is asked of it at every visit. */
export interface Deal {
  offer: Offer;
  slot: number;
  /** What luck is keyed by. */
  luck: number;
  cause: number;
  /** The sales that may lower its price. */
  sales: readonly number[];
  shop: number;
  /** Slots of the items that it gives. */
  items: readonly number[];
  /** The ways to pay in the game. */
  ways: readonly Way[];
  /** What is counted when it is bought: its limits, and how often it was ever. */
  limits: readonly CountedLimit[];
  counted: readonly CountedLimit[];
  /** Where `bought(offer)` is counted. */
  lifetime: number;
  /** Where what is left of a player's own stock lies; undefined where it has none. */
  ownStock: number | undefined;
  sharedStock: number | undefined;
}

export interface RuleSlot {
  rule: EarningRule;
  /** What luck is keyed by. */
  key: Key;
  cause: number;
  limits: readonly CountedLimit[];
  /** Where the guarantee of its table is counted. */
  loot: number | undefined;
}

/** A goal, with where what counts for it is kept. */
export interface GoalSlot {
  goal: Goal;
  /** What it gives beside what its table does. */
  gives: Gift;
  key: Key;
  cause: number;
  counted: CountedLimit;
  reached: CountedLimit;
  /** Where it is counted whether the goal before it was reached; undefined where it waits for none. */
  after: number | undefined;
  loot: number | undefined;
}

export interface TrackSlot {
  track: Track;
  /** What each of its levels gives. */
  gives: readonly Gift[];
  cause: number;
  earned: number;
  level: number;
  /** Where the day of its first level is kept, among all that is reached. */
  firstStep: number;
}

/** Something that is reached on a day: goals in their order, then the levels of tracks. */
export type Step = { kind: 'goal'; goal: Goal } | { kind: 'level'; track: Track; level: number };

export interface ActivitySlot {
  activity: Activity;
  needs: Amounts;
  cause: number;
}

export interface Slots {
  assets: readonly AssetSlot[];
  assetOf: ReadonlyMap<string, number>;
  currencies: number;
  attributes: readonly string[];
  /** Slots of currencies that come back or end: all that time alone changes, beside items that expire. */
  settling: readonly number[];
  deals: readonly Deal[];
  dealOf: ReadonlyMap<string, number>;
  /** Offers by shelf, in the order in which players meet them. */
  shelves: readonly { shelf: Shelf; deals: readonly Deal[] }[];
  shops: readonly Shop[];
  sales: readonly Sale[];
  rules: ReadonlyMap<string, readonly RuleSlot[]>;
  goals: readonly GoalSlot[];
  tracks: readonly TrackSlot[];
  steps: readonly Step[];
  activities: ReadonlyMap<string, ActivitySlot>;
  /** How many counters each player has. */
  counters: number;
  ownStocks: number;
  sharedStocks: number;
  /** Causes of flows of money, by number. */
  causes: readonly string[];
  /** What a player begins with is told as. */
  beginning: number;
  /** Reasons of which targets want to know on how many days each player met them. */
  watched: readonly ReasonCode[];
}

const LIFETIME: Limit = { period: 'lifetime', most: Infinity, span: { kind: 'lifetime' } };

/** Of what the run may come by. */
export function slotsMake(setup: RunSetup): Slots {
  const { economy } = setup;
  const met = metIn(setup);
  const causes: string[] = [];
  const cause = (name: string): number => causes.push(name) - 1;
  const beginning = cause('start:new_player');
  const assets: AssetSlot[] = [
    ...[...economy.currencies.values()].map((currency) => ({ id: currency.id, currency, item: undefined })),
    ...[...economy.items.values()]
      .filter(({ id }) => met.items.has(id))
      .map((item) => ({ id: item.id, currency: undefined, item })),
  ].map(({ id, currency, item }) => ({
    id,
    currency,
    item,
    most: assetMost(economy, id),
    bounded: item !== undefined || currency?.cap !== undefined,
    timed: item?.kind === 'timed' && Number.isFinite(item.lastsMs),
    upTo: currency?.refill?.upTo,
    everyMs: currency?.refill?.comes.kind === 'duration' ? currency.refill.comes.everyMs : 0,
    endsMs: currency?.ends?.atMs ?? Infinity,
    refilled: currency?.refill ? cause(`refill:${id}`) : NaN,
    ended: currency?.ends ? cause(`ended:${id}`) : NaN,
    overCap: currency ? cause(`over-cap:${id}`) : NaN,
  }));
  const assetOf = new Map(assets.map(({ id }, slot) => [id, slot]));
  const amounts = (basket: Readonly<Basket>): Amounts => amountsOf(assetOf, basket);

  const counters = new Map<CounterKey, number>();
  const counter = (key: CounterKey): number => {
    const known = counters.get(key);
    if (known !== undefined) return known;
    counters.set(key, counters.size);
    return counters.size - 1;
  };
  const counted = (limit: Limit, key: CounterKey): CountedLimit => ({
    limit,
    most: limit.most,
    counter: counter(key),
    everyMs: limit.span.kind === 'duration' ? limit.span.everyMs : 0,
    period: { startMs: 0, endMs: 0 },
  });

  let ownStocks = 0;
  let sharedStocks = 0;
  const shops = [...economy.shops.values()];
  const sales = [...economy.sales.values()];
  const offers = [...economy.offers.values()].filter(({ id }) => met.offers.has(id));
  const deals = offers.map((offer, slot): Deal => {
    const { stock, limits, prices = [] } = offer;
    const given = quantitiesFixed(offer.gives);
    const ways = prices
      .filter(({ kind }) => kind !== 'money')
      .map((choice): Way => {
        const total = given && quantitiesFixed(choiceBasket(choice));
        const isZero = choice.kind === 'assets' && total && Object.values(total).every((units) => units === 0);
        const nothing = isZero
          ? 'zero-price'
          : given && basketGivesNothing(economy, given)
            ? 'gives-nothing'
            : undefined;
        const fixed = total && (nothing ?? termsOf(assetOf, economy, total, given!));
        const cost = typeof fixed === 'object' ? fixed.cost : undefined;
        return {
          choice,
          pay: choice.pay,
          fixed,
          least: cost && cost.slots.length > 0 ? { slot: cost.slots[0]!, units: cost.units[0]! } : undefined,
          reduced:
            total && offer.sales.length < MOST_SALES && offer.sales.every(({ when }) => when === undefined)
              ? new Map()
              : undefined,
        };
      });
    const bounds = limits.map((limit) => counted(limit, counterKey.offer(offer.id, limit.period)));
    const lifetime = counted(LIFETIME, counterKey.offer(offer.id, 'lifetime'));
    return {
      offer,
      slot,
      luck: offerLuck(offer.id),
      cause: cause(`purchase:${offer.id}`),
      sales: offer.sales.map((sale) => sales.indexOf(sale)),
      shop: shops.indexOf(offer.shop),
      items: offer.gives.map(({ asset }) => assetOf.get(asset)!).filter((asset) => asset >= economy.currencies.size),
      ways,
      limits: bounds,
      counted: bounds.some((one) => one.counter === lifetime.counter) ? bounds : [...bounds, lifetime],
      lifetime: lifetime.counter,
      ownStock: stock?.scope === 'player' ? ownStocks++ : undefined,
      sharedStock: stock?.scope === 'shared' ? sharedStocks++ : undefined,
    };
  });

  const dealOf = new Map(deals.map(({ offer, slot }) => [offer.id, slot]));
  const ruleSlot = (rule: EarningRule): RuleSlot => {
    return {
      rule,
      key: keyOfText(rule.id),
      cause: cause(`earning:${rule.id}`),
      limits: ruleLimits(rule).map((limit) => counted(limit, counterKey.earning(rule.id, limit.period))),
      loot: rule.loot === undefined ? undefined : counter(counterKey.loot(rule.loot)),
    };
  };
  const goalSlot = (goal: Goal): GoalSlot => ({
    goal,
    gives: giftOf(assetOf, economy, goal.gives),
    key: keyOfText(goal.id),
    cause: cause(`goal:${goal.id}`),
    counted: counted(goal.period, counterKey.goal(goal.id)),
    reached: counted(goal.period, counterKey.reached(goal.id)),
    after: goal.after === undefined ? undefined : counter(counterKey.reached(goal.after)),
    loot: goal.loot === undefined ? undefined : counter(counterKey.loot(goal.loot)),
  });
  const steps: Step[] = [...economy.goals.values()].map((goal) => ({ kind: 'goal', goal }));
  const trackSlot = (track: Track): TrackSlot => ({
    track,
    gives: track.levels.map(({ gives }) => giftOf(assetOf, economy, gives)),
    cause: cause(`track:${track.id}`),
    earned: counter(counterKey.track(track.id)),
    level: counter(counterKey.level(track.id)),
    firstStep:
      steps.push(...track.levels.map(({ level }): Step => ({ kind: 'level', track, level }))) - track.levels.length,
  });
  return {
    assets,
    assetOf,
    currencies: economy.currencies.size,
    attributes: [...economy.attributes.keys()],
    settling: assets.flatMap(({ currency }, slot) => ((currency?.refill ?? currency?.ends) ? [slot] : [])),
    deals,
    dealOf,
    shelves: shops.flatMap(({ shelves }) =>
      shelves.map((shelf) => ({ shelf, deals: shelf.offers.flatMap(({ id }) => deals[dealOf.get(id) ?? -1] ?? []) })),
    ),
    shops,
    sales,
    rules: new Map([...economy.earningByEvent].map(([event, rules]) => [event, rules.map(ruleSlot)])),
    goals: [...economy.goals.values()].map(goalSlot),
    tracks: [...economy.tracks.values()].map(trackSlot),
    steps,
    activities: new Map(
      [...economy.activities.values()].map((activity) => [
        activity.id,
        { activity, needs: amounts(activity.needs), cause: cause(`activity:${activity.id}`) },
      ]),
    ),
    counters: counters.size,
    ownStocks,
    sharedStocks,
    causes,
    beginning,
    watched: watchedReasons(setup),
  };
}

/** Those that the targets of the run look at. */
function watchedReasons({ economy }: RunSetup): ReasonCode[] {
  const asked = new Set([...economy.targets.values()].map((target) => target.measure === 'refused' && target.reason));
  return REASON_CODES.filter((code) => asked.has(code));
}

export const amountsOf = (assetOf: ReadonlyMap<string, number>, basket: Readonly<Basket>): Amounts => ({
  slots: Object.keys(basket).map((asset) => assetOf.get(asset)!),
  units: Object.values(basket),
});

/** As many sales of one offer as their numbers fit into 31 bits. */
const MOST_SALES = 31;

export function termsOf(assetOf: ReadonlyMap<string, number>, economy: Economy, total: Basket, gives: Basket): Terms {
  return {
    total,
    gives,
    cost: amountsOf(assetOf, total),
    ...giftOf(assetOf, economy, gives),
  };
}

export function giftOf(assetOf: ReadonlyMap<string, number>, economy: Economy, gives: Readonly<Basket>): Gift {
  const bundles: Basket = {};
  for (const asset in gives) if (economy.items.get(asset)?.kind === 'bundle') bundles[asset] = gives[asset]!;
  return { bundles: amountsOf(assetOf, bundles), arrivals: amountsOf(assetOf, basketArrivals(economy, gives)) };
}

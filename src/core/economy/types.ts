/** The compiled economy: what every computation reads. Amounts are smallest units, instants epoch milliseconds. */
import type { IntlMessageFormat } from 'intl-messageformat';
import type { Basket, Fraction, Rounding, Units } from '../amount/index.js';
import type { Formula, Value, ValueType } from '../formula/index.js';
import type { Accrual, Beat, Limit, Opening, Period } from '../schedule/index.js';
import type { Activity, Persona, Scenario, Target } from './playTypes.js';
import type { Goal, TeamGoal, Share, TeamKind, Ranking, Track } from './progressTypes.js';

/** An amount of an asset: fixed, or a formula, whose result `decimals` and `rounding` turn into units. */
export type Quantity =
  | { kind: 'fixed'; asset: string; units: Units }
  | { kind: 'formula'; asset: string; formula: Formula; decimals: number; rounding: Rounding };
export type QuantityBasket = Quantity[];

/** The formula of a quantity; undefined where it is fixed. */
export const quantityFormula = (quantity: Quantity): Formula | undefined =>
  quantity.kind === 'formula' ? quantity.formula : undefined;
/** Undefined where a formula says how much. */
export const fixedUnits = (quantity: Quantity): Units | undefined =>
  quantity.kind === 'fixed' ? quantity.units : undefined;

export interface Currency {
  id: string;
  name: string;
  /** The name of exactly one; undefined where it is the same. */
  singular: string | undefined;
  symbol: string;
  decimals: number;
  rounding: Rounding;
  premium: boolean;
  start: Units;
  cap: Units | undefined;
  overCap: 'clip' | 'refuse';
  refill: Accrual | undefined;
  ends: CurrencyEnd | undefined;
}

/** From `atMs` on every balance turns into `numerator / denominator` units of `into` for each unit, rounded down; without `into` it is lost. */
export interface CurrencyEnd {
  atMs: number;
  into: string | undefined;
  numerator: bigint;
  denominator: bigint;
}

/** What every item has. */
interface AnyItem {
  id: string;
  name: string;
  singular: string | undefined;
  description: string | undefined;
  icon: string | undefined;
  group: string | undefined;
  tags: readonly string[];
  sellable: boolean;
  carry: number | undefined;
  stack: number | undefined;
  worth: Basket;
}
interface Usable {
  onUse: UseEffect | undefined;
}
interface Yielding {
  yields: Yield | undefined;
}
export type Durable = AnyItem & Usable & Yielding & { kind: 'durable' };
/** `uses`: how often a unit can be used. */
export type Consumable = AnyItem & Usable & Yielding & { kind: 'consumable'; uses: number };
/** `lastsMs`: how long a unit lasts. */
export type Timed = AnyItem & Usable & Yielding & { kind: 'timed'; lastsMs: number };
/** `contents`: what it unpacks into in the end, bundles in it included. */
export type Bundle = AnyItem & { kind: 'bundle'; gives: Basket; contents: Basket };
/** `gives`: what comes beside the picks of its table. */
export type Box = AnyItem &
  Yielding & {
    kind: 'box';
    gives: Basket;
    loot: string | undefined;
    opensWith: { item: string; keeps: boolean } | undefined;
  };
/** An item with what its kind needs, and nothing else. */
export type Item = Durable | Consumable | Timed | Bundle | Box;

/** What using an item does, where it does anything beside being used up. */
export const itemOnUse = (item: Item): UseEffect | undefined => ('onUse' in item ? item.onUse : undefined);
export const itemYields = (item: Item): Yield | undefined => ('yields' in item ? item.yields : undefined);

export interface UseEffect {
  set: readonly { attribute: string; to: Value | Formula }[];
  gives: QuantityBasket;
}

/** What each owned unit gives for every interval, gathered for at most `upTo` intervals. */
export interface Yield {
  gives: Basket;
  everyMs: number;
  upTo: number;
}

export interface LootEntry {
  id: string;
  weight: number;
  /** Each amount is drawn from `from` to `to`, every one as likely. */
  gives: readonly { asset: string; from: Units; to: Units }[];
  table: string | undefined;
  when: Formula | undefined;
}

export interface LootTable {
  id: string;
  name: string;
  picks: { from: number; to: number };
  distinct: boolean;
  entries: readonly LootEntry[];
  guarantee: { entry: string; within: number } | undefined;
}

/** Cash on hand by currency; of a currency that is absent it has nothing to pay with. */
export type Till = ReadonlyMap<string, { holds: Units; refill: Accrual | undefined }>;

export interface Buyback {
  groups: readonly string[];
  tags: readonly string[];
  items: readonly string[];
  /** Of the worth or of the price paid, as an exact fraction. */
  numerator: bigint;
  denominator: bigint;
  of: 'worth' | 'paid';
  /** The only currency it pays in; undefined: whatever the worth or price is in. */
  pays: string | undefined;
  resell: boolean;
}

/** Takes its part of a real-money price. */
export interface Store {
  id: string;
  name: string;
  /** The store's share of the price after tax, 0 to 1. */
  fee: number;
  /** How the store rounds its share to smallest units. */
  rounding: Rounding;
  /** Tax that the price includes, as a part of the net price: 0.23 for 23 %. */
  tax: number;
}

/**
 * One way to pay: `pay` is the name a request picks it by. Real money is paid outside, and shown by a receipt; its
 * amounts are smallest units by ISO 4217 code.
 */
export type PriceChoice =
  | { kind: 'free'; pay: 'free' }
  | { kind: 'assets'; pay: string; basket: QuantityBasket }
  | {
      kind: 'money';
      pay: 'money';
      amounts: Readonly<Record<string, Units>>;
      products: Readonly<Record<string, string>>;
    };

/** What is paid in the game; nothing where it is free or paid outside. */
export const choiceBasket = (choice: PriceChoice): QuantityBasket => (choice.kind === 'assets' ? choice.basket : []);

export interface Offer {
  id: string;
  pointer: string[];
  shop: Shop;
  shelf: Shelf;
  hidden: boolean;
  name: string;
  description: string | undefined;
  badge: string | undefined;
  /** What is written on the offer itself, where anything is; otherwise it is called after what it gives. */
  own: { name: string | undefined; description: string | undefined };
  /** Of an offer that gives one kind of item or currency: which, and how many at a time. */
  single: { asset: string; count: number } | undefined;
  /** Whether several prices are written, so that each stands in a list. */
  listed: boolean;
  gives: QuantityBasket;
  /** undefined: no price, so never sold. */
  prices: PriceChoice[] | undefined;
  stock: { units: Units; scope: 'shared' | 'player'; restock: Accrual | undefined } | undefined;
  limits: Limit[];
  when: Formula | undefined;
  opening: Opening;
  /** Every sale that may lower its price, in the order of the document. */
  sales: Sale[];
}

/** One offer of a rotation's pool: more weight, more often on show. */
export interface PoolOffer {
  id: string;
  weight: number;
  opening: Opening;
}

/** Of the offers of a shelf, `show` are on show in each period of the beat. */
export interface Rotation {
  /** `SHOP/SHELF`: what its luck is keyed by. */
  key: string;
  seed: number;
  show: number;
  /** After an offer was on show it is not again for so many periods. */
  avoid: number;
  /** Each player sees another selection. */
  perPlayer: boolean;
  beat: Beat;
  pool: readonly PoolOffer[];
}

/** How a shelf decides what is on show: by drawing, or it shows all that it holds. */
export type ShelfRule = { kind: 'all' } | { kind: 'drawn'; rotation: Rotation };

/**
 * What whoever runs the game has decided for one period. It is kept with the period's time, not with its number, since
 * numbers mean another time as soon as a release changes the beat: it holds in the period around its middle.
 */
export interface PeriodRecord extends Period {
  /** On show whatever the draw says. */
  pinned: readonly string[];
  /** Not on show whatever the draw says. */
  without: readonly string[];
}

/** What is known of a shelf's rotation beside its rule. */
export interface RotationRecord {
  periods: readonly PeriodRecord[];
  /** The rules of earlier releases with the instant (exclusive) up to which each holds, oldest first: what is on show does not jump when a release comes. */
  earlier: readonly { untilMs: number; rule: ShelfRule }[];
}

/** Lowers prices for a time. */
export interface Sale {
  id: string;
  name: string;
  /** Its offers are named one by one, not picked by shop, group or tag. */
  byOffer: boolean;
  /** What is left of a price, as an exact fraction; or a set price, for the alternative that asks for the same assets. */
  reduces: { keeps: Fraction; percent: number } | { to: Basket };
  opening: Opening;
  when: Formula | undefined;
}

/** A text as it is, or one that fills something in. */
export type Message = string | IntlMessageFormat;

/** Texts by language and key. */
export interface Texts {
  /** The language in which the economy's own names and descriptions are written. */
  language: string;
  messages: ReadonlyMap<string, ReadonlyMap<string, Message>>;
}

export interface Shelf {
  id: string;
  name: string;
  hidden: boolean;
  /** `SHOP/SHELF`: what is recorded of its rotation is found by it. */
  key: string;
  rotation: Rotation | undefined;
  offers: Offer[];
}
export interface Shop {
  id: string;
  name: string;
  icon: string | undefined;
  hidden: boolean;
  when: Formula | undefined;
  opening: Opening;
  till: Till | undefined;
  buyback: Buyback | undefined;
  shelves: Shelf[];
}

export interface EarningRule {
  id: string;
  name: string;
  on: string;
  when: Formula | undefined;
  chance: number | Formula;
  gives: QuantityBasket;
  loot: string | undefined;
  share: Share;
  takes: QuantityBasket;
  limits: Limit[];
  cooldownMs: number | undefined;
}

/** A kind of thing that the game reports, with the fields that it must have. */
export interface GameEventKind {
  id: string;
  fields: ReadonlyMap<string, ValueType>;
}

export interface Economy {
  name: string;
  zone: string;
  seed: number;
  /** What a new player's attributes are. */
  attributes: ReadonlyMap<string, Value>;
  currencies: ReadonlyMap<string, Currency>;
  items: ReadonlyMap<string, Item>;
  loot: ReadonlyMap<string, LootTable>;
  stores: ReadonlyMap<string, Store>;
  sales: ReadonlyMap<string, Sale>;
  texts: Texts;
  /** What is recorded of rotations, by `SHOP/SHELF`: empty but in a service that has something to record. */
  rotationRecords: ReadonlyMap<string, RotationRecord>;
  /** Items whose units expire, items that yield, currencies that end: most economies have none, so settling can skip them. */
  timedItems: readonly Timed[];
  yieldingItems: readonly (Item & Yielding & { yields: Yield })[];
  endingCurrencies: readonly Currency[];
  shops: ReadonlyMap<string, Shop>;
  /** By id over all shops. */
  offers: ReadonlyMap<string, Offer>;
  earning: ReadonlyMap<string, EarningRule>;
  earningByEvent: ReadonlyMap<string, readonly EarningRule[]>;
  /** Those that are complete: the audit tells of the others. */
  goals: ReadonlyMap<string, Goal>;
  tracks: ReadonlyMap<string, Track>;
  teamKinds: ReadonlyMap<string, TeamKind>;
  teamGoals: ReadonlyMap<string, TeamGoal>;
  /** Those that are complete: the audit tells of the others. */
  rankings: ReadonlyMap<string, Ranking>;
  events: ReadonlyMap<string, GameEventKind>;
  activities: ReadonlyMap<string, Activity>;
  personas: ReadonlyMap<string, Persona>;
  scenarios: ReadonlyMap<string, Scenario>;
  /** Those that are complete: the audit tells of the others. */
  targets: ReadonlyMap<string, Target>;
  /** Every formula that is written anywhere in it. */
  formulas: readonly Formula[];
  /** `bundleFloor`: the least part of its parts' prices that a bundle may cost; undefined where the designer sets none. */
  audit: {
    bundleFloor: number | undefined;
    earningFactor: number | undefined;
    /** Why a hint is silenced, by `CODE POINTER`. */
    silenced: ReadonlyMap<string, string>;
  };
}

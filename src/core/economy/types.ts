/** The compiled economy: what every computation reads. Amounts are smallest units, instants epoch milliseconds. */
import type { IntlMessageFormat } from 'intl-messageformat';
import type { Basket, Fraction, Rounding, Units } from '../amount/index.js';
import type { Formula, Value, ValueType } from '../formula/index.js';
import type { Accrual, Beat, Limit, Opening, Period } from '../schedule/index.js';

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

/** Cash on hand by currency; a currency that is absent never runs out. */
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

/** What brings a goal nearer. `by` is 1 where it is left out. */
export type GoalCounts =
  | { kind: 'events'; event: string; when: Formula | undefined; by: number | Formula }
  | { kind: 'purchases'; offers: ReadonlySet<string> }
  | { kind: 'earned' | 'spent'; currency: string }
  | { kind: 'owned'; items: ReadonlySet<string>; distinct: boolean }
  | { kind: 'attribute'; attribute: string };

export interface Goal {
  id: string;
  name: string;
  description: string | undefined;
  counts: GoalCounts;
  /** In smallest units where it counts money. */
  target: number;
  /** How long what is counted counts, and within what it can be reached once. */
  period: Limit;
  after: string | undefined;
  /** A part of its target: players see it from there on. */
  shownFrom: number;
  gives: Basket;
  loot: string | undefined;
  share: Share;
  sets: ReadonlyMap<string, Value>;
}

/** What members of a team work towards together: it adds up what each of them does, and pays the team. */
export interface TeamGoal extends Goal {
  /** Its kind. */
  team: string;
  counts: Exclude<GoalCounts, { kind: 'owned' | 'attribute' }>;
}

/** The part of money that goes to the team of each kind. */
export type Share = ReadonlyMap<string, Fraction>;

export interface TeamKind {
  id: string;
  name: string;
  description: string | undefined;
  /** Members at most. */
  most: number;
}

/** What places are given by; of an amount earned and of a goal only what was counted in this period. */
export type RankedBy =
  | { kind: 'balance'; currency: string }
  | { kind: 'earned'; currency: string; period: Limit }
  | { kind: 'goal'; goal: string; money: string | undefined; period: Limit };

export interface Ranking {
  id: string;
  name: string;
  description: string | undefined;
  /** Who has places: players, or the teams of a kind. */
  of: { kind: 'players' } | { kind: 'teams'; team: string };
  by: RankedBy;
}

/** A level with what must have been earned in all to reach it. */
export interface TrackLevel {
  level: number;
  costs: Units;
  from: Units;
  gives: Basket;
}

export interface Track {
  id: string;
  name: string;
  currency: string;
  attribute: string;
  /** Where new players are. */
  start: number;
  /** The lowest first. */
  levels: readonly TrackLevel[];
}

/** A kind of thing that the game reports, with the fields that it must have. */
export interface GameEventKind {
  id: string;
  fields: ReadonlyMap<string, ValueType>;
}

/** How a value is drawn for a made-up player; what each means is in `simulation/draw.ts`. */
export type DrawRule =
  | { kind: 'constant'; value: Value }
  | { kind: 'formula'; formula: Formula }
  | { kind: 'range'; from: number; to: number }
  | { kind: 'weights'; values: readonly { value: Value; weight: number }[] }
  /** The player's choice; drawn by weights where nobody chooses for pay. */
  | { kind: 'chosen'; values: readonly { value: Value; weight: number }[] }
  | { kind: 'poisson'; mean: number }
  | { kind: 'normal'; mean: number; deviation: number }
  | { kind: 'lognormal'; mu: number; sigma: number }
  | { kind: 'geometric'; chance: number };

/** Something that made-up players do: it takes time and what it needs, and reports events. */
export interface Activity {
  id: string;
  name: string;
  minutes: number;
  needs: Basket;
  emits: readonly { event: string; fields: readonly { field: string; draw: DrawRule }[] }[];
}

/** When made-up players play. */
export interface Sessions {
  /** How many on a day, Monday first: on average or (`fixed`) each time. */
  perDay: readonly number[];
  fixed: boolean;
  /** How long each is. */
  minutes: number;
  begins: SessionBegins;
}

/** In which hours sessions begin: evenly in so many from one on, or by shares that end, hour by hour, at `upTo` (the last at 1). */
export type SessionBegins =
  | { kind: 'evenly'; fromHour: number; hours: number }
  | { kind: 'hourly'; hours: readonly { hour: number; upTo: number }[] };

export interface Persona {
  id: string;
  name: string;
  attributes: readonly { attribute: string; draw: DrawRule }[];
  sessions: Sessions;
  plays: readonly { activity: Activity; weight: number }[];
  /** The currency for whose pay choices are made; by weights where there is none. */
  playsFor: string | undefined;
  spending: {
    policy: 'wishlist' | 'impulse';
    wishes: readonly string[];
    /** `wishlist`: how many days a side purchase may delay the wish. */
    delayDays: number;
    /** The chance that something affordable is bought on a visit. */
    chance: number;
    /** What is never spent. */
    keeps: Basket;
  };
  /** The chance to leave for good, each day. */
  leaves: number;
}

export interface Scenario {
  id: string;
  name: string;
  startMs: number;
  days: number;
  players: number;
  seed: number | undefined;
  mix: readonly { persona: string; weight: number }[];
}

/** What a target is of, with everything that it needs; `undefined` personas stand for all players. */
export type Measured =
  | { measure: 'days-to-own' | 'days-to-afford'; item: string; percentile: number }
  | { measure: 'days-to-goal'; goal: string; percentile: number }
  | { measure: 'days-to-level'; track: string; level: number; percentile: number }
  | { measure: 'owners'; item: string; day: number | undefined }
  | { measure: 'wallet'; currency: string; percentile: number; day: number | undefined }
  | { measure: 'net-flow'; currency: string }
  | { measure: 'refused'; reason: string }
  | { measure: 'pay'; activity: string; than: string; currency: string }
  | { measure: 'prices'; currency: string };

/** What a run is held against. Bounds are as written, both included: days from 1, percent, display units, times. */
export type Target = Measured & {
  id: string;
  name: string;
  /** The one scenario that it is meant for. */
  scenario: string | undefined;
  persona: string | undefined;
  from: number | undefined;
  to: number | undefined;
};

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
  /** `bundleFloor`: the least part of its parts' prices that a bundle may cost; undefined where the designer sets none. */
  audit: {
    bundleFloor: number | undefined;
    earningFactor: number | undefined;
    /** Why a hint is silenced, by `CODE POINTER`. */
    silenced: ReadonlyMap<string, string>;
  };
}

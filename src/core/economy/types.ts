/** The compiled economy: what every computation reads. Amounts are smallest units, instants epoch milliseconds. */
import type { Basket, Rounding, Units } from '../amount/index.js';
import type { Formula, Value } from '../formula/index.js';
import type { EconomyDocument } from './schema.js';

/** A fixed amount (`units`) or a formula; `decimals` and `rounding` turn the formula's result into units. */
export interface Quantity {
  asset: string;
  units?: Units;
  formula?: Formula;
  decimals: number;
  rounding: Rounding;
}
export type QuantityBasket = Quantity[];

/** Something that comes back by itself: `amount` after every `everyMs`, never above `upTo`. */
export interface Accrual {
  amount: Units;
  everyMs: number;
  upTo: Units;
}

export interface Currency {
  id: string;
  name: string;
  symbol: string;
  decimals: number;
  rounding: Rounding;
  premium: boolean;
  start: Units;
  cap: Units | undefined;
  overCap: 'clip' | 'refuse';
  refill: Accrual | undefined;
}

export interface Item {
  id: string;
  name: string;
  kind: 'durable' | 'consumable' | 'bundle';
  group: string | undefined;
  carry: number | undefined;
  stack: number | undefined;
  worth: Basket;
  /** What a bundle unpacks into in the end, bundles in it included; empty for other kinds. */
  contents: Basket;
}

/** `most` per period; `everyMs` is set where the period is a duration. */
export interface Limit {
  period: string;
  most: number;
  everyMs: number | undefined;
}

/** One way to pay: `pay` is the name a request picks it by. */
export interface PriceChoice {
  pay: string;
  basket: QuantityBasket;
}

export interface Offer {
  id: string;
  pointer: string[];
  shop: Shop;
  shelf: Shelf;
  hidden: boolean;
  name: string;
  description: string | undefined;
  badge: string | undefined;
  gives: QuantityBasket;
  /** undefined: no price, so never sold. */
  prices: PriceChoice[] | undefined;
  stock: { units: Units; scope: 'shared' | 'player'; restock: Accrual | undefined } | undefined;
  limits: Limit[];
  when: Formula | undefined;
  fromMs: number | undefined;
  untilMs: number | undefined;
}

export interface Shelf {
  id: string;
  name: string;
  hidden: boolean;
  offers: Offer[];
}
export interface Shop {
  id: string;
  name: string;
  hidden: boolean;
  when: Formula | undefined;
  fromMs: number | undefined;
  untilMs: number | undefined;
  shelves: Shelf[];
}

export interface EarningRule {
  id: string;
  name: string;
  on: string;
  when: Formula | undefined;
  chance: number | Formula;
  gives: QuantityBasket;
  takes: QuantityBasket;
  limits: Limit[];
  cooldownMs: number | undefined;
}

export interface Economy {
  document: EconomyDocument;
  name: string;
  zone: string;
  seed: number;
  /** What a new player's attributes are. */
  attributes: ReadonlyMap<string, Value>;
  currencies: ReadonlyMap<string, Currency>;
  items: ReadonlyMap<string, Item>;
  shops: ReadonlyMap<string, Shop>;
  /** By id over all shops. */
  offers: ReadonlyMap<string, Offer>;
  earning: ReadonlyMap<string, EarningRule>;
  earningByEvent: ReadonlyMap<string, readonly EarningRule[]>;
}

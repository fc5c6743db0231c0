/** What a check of a purchase says: data only. Sentences are made from it in `texts`. */
import type { Basket, Units } from '../amount/index.js';
import type { FormulaInput } from '../formula/index.js';
import type { Step } from './quote.js';

/** The most times one request may buy an offer. */
export const MAX_TIMES = 1000;

export interface PurchaseRequest {
  offer: string;
  /** How often to buy it at once, 1 to `MAX_TIMES`; 1 by default. */
  times?: number;
  /** Which alternative price, by the assets it asks for joined with "+"; needed only where there are several. */
  pay?: string;
  /** The total that the player was shown. The purchase is refused when the price is higher now. */
  expect?: Basket;
}

/** A sale and what one time costs under it. */
export interface SalePrice {
  id: string;
  name: string;
  price: Basket;
  endsMs: number | null;
}

export interface PriceBreakdown {
  pay: string;
  /** The price of the first of the times, before any reduction. */
  base: Basket;
  /** What is charged for all the times together. */
  total: Basket;
  /** The total that the player was shown, where less is charged. */
  expected?: Basket;
  /** What price formulas read. */
  inputs: FormulaInput[];
  /** The times one after another, where not all of them cost and give the same. */
  steps?: Step[];
  /** The sale that lowers the price, with the price of the first of the times under it. */
  sale?: SalePrice;
  /** Other sales that run and would not lower it as much. */
  passedOver?: SalePrice[];
  /** For all the times together, by ISO 4217 code, where it is paid in real money. */
  money?: Readonly<Record<string, Units>>;
}

export interface LimitLeft {
  period: string;
  most: number;
  used: number;
  left: number;
  resetsMs: number | null;
}
export interface StockLeft {
  left: Units;
  scope: 'shared' | 'player';
  restocksMs: number | null;
}

export interface VerdictOf<R> {
  allowed: boolean;
  reasons: R[];
  offer: string;
  name: string;
  shop: string;
  times: number;
  atMs: number;
  /** The alternatives by name with their totals; a single one where there is no choice. `before`: of the first time, where a sale lowers it. */
  choices: { pay: string; total: Basket; money?: Readonly<Record<string, Units>>; before?: Basket }[];
  /** null where there is none: an unknown offer, no price, no choice made, or a formula that fails. */
  price: PriceBreakdown | null;
  /** What the offer gives, as named in it. */
  gives: Basket;
  /** Holdings of every asset that the purchase touches; `after` may be below 0 where the purchase is refused. */
  before: Record<string, number>;
  after: Record<string, number>;
  limits: LimitLeft[];
  stock: StockLeft | null;
}

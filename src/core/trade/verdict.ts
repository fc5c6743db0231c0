/** What a check of a purchase says: data only. Sentences are made from it in `sentence.ts`. */
import type { Basket, Units } from '../amount/index.js';
import type { FormulaInput } from '../formula/index.js';

/** Every reason against a purchase. The closed list of codes is part of the API: none is renamed or reused. */
export type Reason =
  | { code: 'unknown-offer'; offer: string; nearest: string | null }
  | { code: 'shop-closed'; shop: string; opensMs: number | null }
  | { code: 'not-for-this-player'; shop: string; formula: string; inputs: FormulaInput[] }
  | { code: 'not-on-show'; offer: string; fromMs: number | null }
  | { code: 'no-price'; offer: string }
  | { code: 'bad-formula'; where: string; formula: string; problem: string; inputs: FormulaInput[] }
  | { code: 'requirement-unmet'; formula: string; inputs: FormulaInput[] }
  | { code: 'short-of'; asset: string; needed: Units; held: Units; short: Units; refilledMs: number | null }
  | { code: 'limit-reached'; period: string; most: number; used: number; left: number; resetsMs: number | null }
  | { code: 'out-of-stock'; left: Units; wanted: number; restocksMs: number | null }
  | { code: 'carry-full'; item: string; most: Units; held: Units; arriving: Units }
  | { code: 'over-cap'; currency: string; cap: Units; held: Units; arriving: Units }
  | { code: 'price-changed'; expected: Basket; actual: Basket }
  | { code: 'pay-choice-needed'; choices: string[] }
  | { code: 'receipt-needed'; money: Readonly<Record<string, Units>> }
  | { code: 'too-large'; times: number; most: number }
  | { code: 'unknown-shop'; shop: string; nearest: string | null }
  | { code: 'unknown-item'; item: string; nearest: string | null }
  | { code: 'not-taken'; shop: string; item: string }
  | { code: 'not-sellable'; item: string }
  | { code: 'pays-nothing'; item: string }
  | { code: 'not-held'; item: string; held: Units; wanted: number; begun: boolean }
  | { code: 'till-short'; asset: string; held: Units; needed: Units; refilledMs: number | null }
  | { code: 'not-usable'; item: string; kind: string }
  | { code: 'not-a-box'; item: string }
  | { code: 'key-needed'; key: string; held: Units; needed: Units }
  | { code: 'nothing-to-collect'; item: string; nextMs: number | null };
export type ReasonCode = Reason['code'];

export const REASON_CODES: readonly ReasonCode[] = [
  'unknown-offer',
  'shop-closed',
  'not-for-this-player',
  'not-on-show',
  'no-price',
  'bad-formula',
  'requirement-unmet',
  'short-of',
  'limit-reached',
  'out-of-stock',
  'carry-full',
  'over-cap',
  'price-changed',
  'pay-choice-needed',
  'receipt-needed',
  'too-large',
  'unknown-shop',
  'unknown-item',
  'not-taken',
  'not-sellable',
  'pays-nothing',
  'not-held',
  'till-short',
  'not-usable',
  'not-a-box',
  'key-needed',
  'nothing-to-collect',
];

/** The most times one request may buy an offer. */
export const MAX_TIMES = 1000;

export interface PurchaseRequest {
  offer: string;
  /** How often to buy it at once, 1 to `MAX_TIMES`; 1 by default. */
  times?: number;
  /** Which alternative price, by the assets it asks for joined with "+"; needed only where there are several. */
  pay?: string;
  /** The total that the player was shown. The purchase is refused when it is not the price now. */
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
  /** What price formulas read. */
  inputs: FormulaInput[];
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

export interface Verdict {
  allowed: boolean;
  reasons: Reason[];
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

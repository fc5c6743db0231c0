/** What a check of a purchase says: data only. Sentences are made from it in `sentence.ts`. */
import type { Basket, Units } from '../amount/index.js';
import type { FormulaInput } from '../formula/index.js';
import {
  anyKeys,
  anyText,
  anyValue,
  anyWhole,
  finiteNumber,
  listOf,
  mapOf,
  orNull,
  shapeOf,
  yesNo,
} from '../schema/index.js';
import type { RecordOf, Shape } from '../schema/index.js';

export const formulaInput = shapeOf<FormulaInput>({ name: anyText(), value: anyValue() });
const formula = { formula: anyText(), inputs: listOf(formulaInput, { most: 200, of: 'inputs' }) };
const units = anyWhole;
const count = anyWhole;
/** Epoch ms; null where nothing is due. */
const comesMs = () => orNull(anyWhole());
/** A name that was meant; null where none is near. */
const nearest = () => orNull(anyText());
const amounts = () => mapOf(units(), anyKeys);

/**
 * Every reason against a purchase or an act, with what it says. The closed list of codes is part of the API: none is
 * renamed or reused.
 */
export const REASONS = {
  'unknown-offer': { offer: anyText(), nearest: nearest() },
  'shop-closed': { shop: anyText(), opensMs: comesMs() },
  'not-for-this-player': { shop: anyText(), ...formula },
  'not-on-show': { offer: anyText(), fromMs: comesMs() },
  'no-price': { offer: anyText() },
  'bad-formula': { where: anyText(), problem: anyText(), ...formula },
  'requirement-unmet': formula,
  'short-of': { asset: anyText(), needed: units(), held: units(), short: units(), refilledMs: comesMs() },
  'limit-reached': { period: anyText(), most: count(), used: count(), left: count(), resetsMs: comesMs() },
  'out-of-stock': { left: units(), wanted: count(), restocksMs: comesMs() },
  'carry-full': { item: anyText(), most: units(), held: units(), arriving: units() },
  'over-cap': { currency: anyText(), cap: units(), held: units(), arriving: units() },
  'price-changed': { expected: amounts(), actual: amounts() },
  'pay-choice-needed': { choices: listOf(anyText(), { most: 100, of: 'choices' }) },
  'receipt-needed': { money: amounts() },
  'too-large': { times: finiteNumber(), most: count() },
  'unknown-shop': { shop: anyText(), nearest: nearest() },
  'unknown-item': { item: anyText(), nearest: nearest() },
  'not-taken': { shop: anyText(), item: anyText() },
  'not-sellable': { item: anyText() },
  'pays-nothing': { item: anyText() },
  'not-held': { item: anyText(), held: units(), wanted: count(), begun: yesNo() },
  'till-short': { asset: anyText(), held: units(), needed: units(), refilledMs: comesMs() },
  'not-usable': { item: anyText(), kind: anyText() },
  'not-a-box': { item: anyText() },
  'key-needed': { key: anyText(), held: units(), needed: units() },
  'nothing-to-collect': { item: anyText(), nextMs: comesMs() },
} as const satisfies Record<string, Readonly<Record<string, Shape<unknown>>>>;
export type ReasonCode = keyof typeof REASONS;
export type Reason = { [C in ReasonCode]: { code: C } & RecordOf<(typeof REASONS)[C]> }[ReasonCode];

/** In the order of the table, which is that of the documents. */
export const REASON_CODES = Object.keys(REASONS) as readonly ReasonCode[];

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

export { purchaseApply } from './apply.js';
export type { Purchased } from './apply.js';
export { offerStock, purchaseCheck, windowIsOpen } from './check.js';
export type { SharedStocks } from './check.js';
export { instantText, reasonSentence, verdictExplain } from './sentence.js';
export type { ExplainedVerdict } from './sentence.js';
export { MAX_TIMES, REASON_CODES } from './verdict.js';
export type { LimitLeft, PriceBreakdown, PurchaseRequest, Reason, ReasonCode, StockLeft, Verdict } from './verdict.js';

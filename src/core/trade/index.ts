export type { ActKind, ActRequest, ActVerdict, Acted } from './act.js';
export { purchaseApply } from './apply.js';
export type { Purchased } from './apply.js';
export { offerStock, purchaseCheck } from './check.js';
export type { SharedStocks } from './check.js';
export { buybackTakes, buybackUnit, sellApply, sellCheck } from './sell.js';
export { instantText, reasonSentence, verdictExplain } from './sentence.js';
export type { Explained, ExplainedVerdict } from './sentence.js';
export { saleEndsMs, salesReduce, salesRunning } from './sale.js';
export { sharedKeys, tillLevel } from './till.js';
export { collectApply, collectCheck, openApply, openCheck, useApply, useCheck } from './use.js';
export { MAX_TIMES, REASON_CODES } from './verdict.js';
export type {
  LimitLeft,
  PriceBreakdown,
  PurchaseRequest,
  Reason,
  ReasonCode,
  SalePrice,
  StockLeft,
  Verdict,
} from './verdict.js';

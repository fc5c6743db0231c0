export { ACT_KINDS } from './act.js';
export type { ActKind, ActRequest, ActVerdict, Acted } from './act.js';
export { ACTS } from './acts.js';
export { purchaseApply } from './apply.js';
export { purchaseCheck } from './check.js';
export { salesReduce, salesRunning } from './sale.js';
export { buybackTakes, buybackUnit, sellCheck } from './sell.js';
export { UNTOUCHED, sharedWith } from './shared.js';
export type { Shared } from './shared.js';
export { tillLevel } from './till.js';
export { MAX_TIMES, REASONS, REASON_CODES, formulaInput } from './verdict.js';
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

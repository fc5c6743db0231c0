export { MAX_LOG_LENGTH, logRead, purchasesRead } from './log.js';
export type { BrokenLine, Happened, LogRead, PurchasesRead, Known, Recorded } from './log.js';

export { MAX_LOG_LENGTH, purchasesRead } from './log.js';
export type { BrokenLine, LogRead, Recorded } from './log.js';
export { Replay, replayPurchases } from './replay.js';
export type { GroupReplayed, OfferReplayed, Replayed, ReplayResult } from './replay.js';

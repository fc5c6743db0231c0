export { Replay, replayPurchases } from './replay.js';
export type { GroupReplayed, OfferReplayed, Replayed, ReplayResult } from './replay.js';
export { replayCsv, replayExamples } from './report.js';

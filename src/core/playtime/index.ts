export { earningsOf } from './earnings.js';
export type { EarningsResult } from './earnings.js';
export { playingTime, timeOrder } from './playingTime.js';
export type { Minutes, PlayingTime } from './playingTime.js';
export { ladderOf } from './ladder.js';
export type { Ladder, LadderWhere, Rung } from './ladder.js';
export { dayText, durationText, playingTimeShort, playingTimeText } from './words.js';
export type { AssetEarnings, PersonaEarnings } from './types.js';

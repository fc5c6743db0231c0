/** Every reason against a purchase or an act: each code stands beside the rule that tells it. */
import type { RecordOf } from '../schema/index.js';
import { ACT_REASONS } from './act.js';
import { PURCHASE_REASONS } from './rules.js';
import { SELL_REASONS } from './sell.js';
import { USE_REASONS } from './use.js';

/** What each code says. The closed list of codes is part of the API: none is renamed or reused. */
export const REASONS = { ...PURCHASE_REASONS, ...ACT_REASONS, ...SELL_REASONS, ...USE_REASONS };
export type ReasonCode = keyof typeof REASONS;
export type Reason = { [C in ReasonCode]: { code: C } & RecordOf<(typeof REASONS)[C]> }[ReasonCode];

/** In the order of the table, which is that of the documents. */
export const REASON_CODES = Object.keys(REASONS) as readonly ReasonCode[];

/** Every reason against a purchase or an act: each code stands beside the rule that tells it. */
import { ACT_REASONS } from './act.js';
import type { ActVerdictOf } from './act.js';
import type { ReasonsOf } from './reasonBlocks.js';
import { PURCHASE_REASONS } from './rules.js';
import { SELL_REASONS } from './sell.js';
import { USE_REASONS } from './use.js';
import type { VerdictOf } from './verdict.js';

/** What each code says. The closed list of codes is part of the API: none is renamed or reused. */
export const REASONS = { ...PURCHASE_REASONS, ...ACT_REASONS, ...SELL_REASONS, ...USE_REASONS };
export type ReasonCode = keyof typeof REASONS;
export type Reason = ReasonsOf<typeof REASONS>;

/** What a check of a purchase says. */
export type Verdict = VerdictOf<Reason>;
/** What a check of an act says. */
export type ActVerdict = ActVerdictOf<Reason>;

/** In the order of the table, which is that of the documents. */
export const REASON_CODES = Object.keys(REASONS) as readonly ReasonCode[];

/** Every act by its name: what checks it and what does it. */
import type { Economy } from '../economy/index.js';
import type { Player } from '../player/index.js';
import type { ActKind, ActRequest, Acted } from './act.js';
import type { ActVerdict } from './reasons.js';
import type { Shared } from './shared.js';
import { sellApply, sellCheck } from './sell.js';
import { collectApply, collectCheck, openApply, openCheck, useApply, useCheck } from './use.js';

interface Act {
  /** May the player do this? Every reason against it is listed. */
  check(economy: Economy, player: Player, shared: Shared, request: ActRequest, nowMs: number): ActVerdict;
  /** Does what a verdict allowed. Throws for one that refuses. */
  apply(economy: Economy, player: Player, shared: Shared, verdict: ActVerdict): Acted;
}

export const ACTS: { readonly [A in ActKind]: Act } = {
  sell: { check: sellCheck, apply: sellApply },
  use: {
    check: (economy, player, _shared, request, nowMs) => useCheck(economy, player, request, nowMs),
    apply: (economy, player, _shared, verdict) => useApply(economy, player, verdict),
  },
  open: {
    check: (economy, player, _shared, request, nowMs) => openCheck(economy, player, request, nowMs),
    apply: (economy, player, _shared, verdict) => openApply(economy, player, verdict),
  },
  collect: {
    check: (economy, player, _shared, request, nowMs) => collectCheck(economy, player, request, nowMs),
    apply: (economy, player, _shared, verdict) => collectApply(economy, player, verdict),
  },
};

/** What all players share: limited stock, and the cash of tills. */
import type { Level } from '../schedule/index.js';

/** Absent means untouched. As the result of an act it holds only what changed. */
export interface Shared {
  /** What is left of shared stock, in purchases, by offer. */
  readonly stocks: Readonly<Record<string, Level>>;
  /** What tills hold, by shop and asset. */
  readonly tills: Readonly<Record<string, Readonly<Record<string, Level>>>>;
}

export const UNTOUCHED: Shared = { stocks: {}, tills: {} };

/** What players share after a change. */
export function sharedWith(shared: Shared, changed: Shared): Shared {
  const tills = { ...shared.tills };
  for (const shop in changed.tills) tills[shop] = { ...tills[shop], ...changed.tills[shop] };
  return { stocks: { ...shared.stocks, ...changed.stocks }, tills };
}

/** What the line and the list of the ladder have in common. */
import type { EconomyDocument } from '../../core/document/index.js';
import type { Rung, Step } from '../../core/playtime/index.js';

/** A price that is being moved, and not yet kept. */
export interface Moving {
  offer: string;
  units: number;
}

export const factorText = ({ factor }: Step): string =>
  factor === undefined ? '' : `× ${factor.toFixed(factor < 10 ? 2 : 0)}`;

export function iconOf({ items, shops }: EconomyDocument, { shop, shelf, offer }: Rung): string {
  const { gives } = shops?.[shop]?.shelves[shelf.split('/')[1]!]?.offers[offer] ?? {};
  const one = typeof gives === 'string' ? gives : Object.keys(gives ?? {})[0];
  return items?.[one ?? '']?.icon ?? '🏷️';
}

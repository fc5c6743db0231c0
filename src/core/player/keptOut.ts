/** What was due to a player and did not come, with what keeps it out. */
import { MAX_UNITS } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import { assetMost } from './player.js';

export interface KeptOut {
  asset: string;
  units: Units;
  /** The currency's cap, the item's carry, its stacks, or the ceiling of all amounts. */
  by: 'cap' | 'carry' | 'slots' | 'ceiling';
  /** Most that a player may hold of it. */
  most: Units;
}

/** `dropped` as `playerReceive` tells it. */
export const keptOutOf = (economy: Economy, dropped: Readonly<Basket>): KeptOut[] =>
  Object.entries(dropped).map(([asset, units]) => {
    const most = assetMost(economy, asset);
    return { asset, units, by: keeper(economy, asset, most), most };
  });

function keeper(economy: Economy, asset: string, most: Units): KeptOut['by'] {
  if (most === MAX_UNITS) return 'ceiling';
  const item = economy.items.get(asset);
  if (!item) return 'cap';
  return item.carry === most ? 'carry' : 'slots';
}

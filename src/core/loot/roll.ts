/** Rolls a table for a player: the draw that `odds.ts` gives the chances of. */
import { basketAdd } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy, LootEntry, LootTable } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import type { Random } from '../random/index.js';
import { entriesOpen, entryGuaranteed } from './odds.js';

export interface Rolled {
  gives: Basket;
  /** Ids of the entries of this table that were drawn, in order. */
  drawn: string[];
  /** Openings since the guaranteed entry last came, this one included; what the next opening is given as `since`. */
  since: number;
}

/**
 * One opening. `since` counts the openings without the guaranteed entry up to now. In the last one that the guarantee
 * allows, the first pick is that entry. Where a table is reached through another, its own guarantee does not count.
 */
export function lootRoll(economy: Economy, table: LootTable, scope: Scope, random: Random, since: number): Rolled {
  const gives: Basket = {};
  let pool = entriesOpen(table, scope);
  const guaranteed = entryGuaranteed(table, pool);
  const forced = guaranteed !== undefined && since + 1 >= table.guarantee!.within;
  const picks = whole(random, table.picks.from, table.picks.to);
  const drawn: string[] = [];
  for (let pick = 0; pick < (forced ? Math.max(1, picks) : picks) && pool.length > 0; pick++) {
    const entry = forced && pick === 0 ? guaranteed : weighted(pool, random());
    drawn.push(entry.id);
    take(economy, entry, scope, random, gives);
    if (table.distinct) pool = pool.filter((other) => other !== entry);
  }
  // An opening at which the entry could not come neither counts for its guarantee nor begins it anew.
  if (!guaranteed) return { gives, drawn, since: table.guarantee ? since : 0 };
  return { gives, drawn, since: drawn.includes(guaranteed.id) ? 0 : since + 1 };
}

const whole = (random: Random, from: number, to: number): number => from + Math.floor(random() * (to - from + 1));

function weighted(pool: readonly LootEntry[], luck: number): LootEntry {
  let left = luck * pool.reduce((sum, { weight }) => sum + weight, 0);
  for (const entry of pool) {
    left -= entry.weight;
    if (left < 0) return entry;
  }
  return pool.at(-1)!;
}

function take(economy: Economy, entry: LootEntry, scope: Scope, random: Random, into: Basket): void {
  for (const { asset, from, to } of entry.gives) basketAdd(into, asset, whole(random, from, to));
  if (entry.table === undefined) return;
  const nested = lootRoll(economy, withoutGuarantee(economy.loot.get(entry.table)!), scope, random, 0);
  for (const asset in nested.gives) basketAdd(into, asset, nested.gives[asset]!);
}

const withoutGuarantee = (table: LootTable): LootTable =>
  table.guarantee ? { ...table, guarantee: undefined } : table;

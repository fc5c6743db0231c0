/** Rolling for a player, who remembers how long each table's guarantee has waited. */
import type { Economy } from '../economy/index.js';
import { counterKey, playerScope, playerWith } from '../player/index.js';
import type { Player } from '../player/index.js';
import { streamOf } from '../random/index.js';
import type { Key } from '../random/index.js';
import { lootRoll } from './roll.js';
import type { Rolled } from './roll.js';

/** One opening of a table; the same luck draws the same. Nothing is given yet: that is the caller's part. */
export function playerLoot(
  economy: Economy,
  player: Player,
  table: string,
  nowMs: number,
  luck: Key,
): Pick<Rolled, 'gives' | 'drawn'> & { player: Player } {
  const key = counterKey.loot(table);
  const scope = playerScope(economy, player, nowMs);
  const since = player.counters[key]?.count ?? 0;
  const rolled = lootRoll(economy, economy.loot.get(table)!, scope, streamOf(luck), since);
  const { gives, drawn } = rolled;
  if (rolled.since === since) return { gives, drawn, player };
  const counters = { ...player.counters, [key]: { count: rolled.since, startMs: 0 } };
  return { gives, drawn, player: playerWith(player, { counters }) };
}

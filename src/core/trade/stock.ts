/** Limited stock: purchases run it down, and it comes back by its rule. */
import type { Offer } from '../economy/index.js';
import { offerAsset, stockAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerWith } from '../player/index.js';
import type { Player } from '../player/index.js';
import { levelChange, levelNextMs, levelSettle } from '../schedule/index.js';
import type { Level } from '../schedule/index.js';
import { UNTOUCHED } from './shared.js';
import type { Shared } from './shared.js';
import type { StockLeft } from './verdict.js';

/** The stock of an offer at an instant, restocked up to then; undefined where it never runs out. */
export function offerStock(player: Player, { stocks }: Shared, offer: Offer, nowMs: number): Level | undefined {
  if (!offer.stock) return undefined;
  const level = (offer.stock.scope === 'player' ? player.stocks : stocks)[offer.id] ?? {
    units: offer.stock.units,
    sinceMs: null,
  };
  return offer.stock.restock ? levelSettle(level, offer.stock.restock, nowMs) : level;
}

/** What a verdict tells of it; null where it never runs out. */
export function stockLeft(player: Player, shared: Shared, offer: Offer, nowMs: number): StockLeft | null {
  const level = offerStock(player, shared, offer, nowMs);
  return level
    ? { left: level.units, scope: offer.stock!.scope, restocksMs: levelNextMs(level, offer.stock!.restock) ?? null }
    : null;
}

export interface StockChanged {
  player: Player;
  /** What changed of what all players share. */
  shared: Shared;
  movements: Movement[];
}

/**
 * Puts `by` purchases of an offer into its stock, or takes them where `by` is below 0. The ledger counts shared stock;
 * a player's own is a count of theirs, as a limit is.
 */
export function stockChange(
  player: Player,
  shared: Shared,
  offer: Offer,
  by: number,
  cause: string,
  nowMs: number,
): StockChanged {
  const before = offerStock(player, shared, offer, nowMs);
  if (!before) return { player, shared: UNTOUCHED, movements: [] };
  const { scope, restock } = offer.stock!;
  const after = levelChange(before, by, restock, nowMs);
  if (scope === 'player')
    return {
      player: playerWith(player, { stocks: { ...player.stocks, [offer.id]: after } }),
      shared: UNTOUCHED,
      movements: [],
    };
  const account = stockAccount(offer.id);
  const asset = offerAsset(offer.id);
  const written = shared.stocks[offer.id];
  const came = before.units - (written?.units ?? 0);
  const movements: Movement[] = [];
  if (came > 0)
    movements.push({
      asset,
      units: came,
      from: worldAccount(written ? 'restock' : 'stock'),
      to: account,
      cause: `stock:${offer.id}`,
    });
  if (by < 0) movements.push({ asset, units: -by, from: account, to: worldAccount('sold'), cause });
  if (by > 0) movements.push({ asset, units: by, from: worldAccount('sold'), to: account, cause });
  return { player, shared: { ...UNTOUCHED, stocks: { [offer.id]: after } }, movements };
}

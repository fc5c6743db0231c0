/** What a table gives over many openings: odds now, in the long run, and how many openings players need. */
import type { Basket } from '../amount/index.js';
import type { Box, Economy, LootTable } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import { basketArrivals } from '../player/index.js';
import { ANYTHING, TableOdds, entriesOpen } from './odds.js';

/** How many openings it takes: on average (null where it may never come), and for 50, 90 and 99 of 100 players (null beyond `MOST_OPENINGS`). */
export interface OpeningsNeeded {
  mean: number | null;
  half: number | null;
  nine: number | null;
  most: number | null;
}

export interface AssetOdds {
  asset: string;
  /** Of at least one unit in a first opening, 0 to 1. */
  chance: number;
  /** Mean units in a first opening. */
  expected: number;
  /** The same over very many openings, the guarantee included; equal to the above where there is none. */
  longRunChance: number;
  longRunExpected: number;
  /** Until there is at least one. */
  openings: OpeningsNeeded;
  /** The share of players who have at least one, by openings; at most 100 points. */
  curve: { openings: number; share: number }[];
}

export interface LootOdds {
  table: string;
  name: string;
  picks: { from: number; to: number };
  /** Mean times that each entry is drawn in a first opening; entries that cannot be drawn have 0. */
  entries: { id: string; weight: number; times: number }[];
  /** The chance that a first opening gives nothing at all. */
  nothing: number;
  guarantee: { entry: string; within: number } | null;
  /** Entries that come once, since what they give ends their own condition: later openings, and the long run, are without them. */
  once: string[];
  assets: AssetOdds[];
  /** Until all of those that were asked for are had, each at least once; null where none were. */
  together: ({ assets: string[] } & OpeningsNeeded) | null;
}

/** Beyond this many openings nobody counts. */
export const MOST_OPENINGS = 10_000;

/** The odds of a table for a player. `always`: what comes with every opening, such as the rest of a box. */
export function lootOdds(
  economy: Economy,
  table: LootTable,
  scope: Scope,
  always: Readonly<Basket> = {},
  together: readonly string[] = [],
): LootOdds {
  const odds = new TableOdds(economy, table, scope);
  const within = odds.guaranteed ? table.guarantee!.within : undefined;
  const first = within === 1 ? odds.timesForced() : odds.times();
  const assets = [...new Set([...Object.keys(always), ...odds.assets])];
  const wanted = [...new Set(together)];
  const ended = entriesOnce(economy, table, scope);
  const once = [...ended].flatMap(([id, entries]) =>
    entries.map((entry) => (id === table.id ? entry : `${entry} of ${economy.loot.get(id)!.name}`)),
  );
  const later = ended.size > 0 ? lootOdds(...tableLater(economy, table, ended), scope, always).assets : undefined;
  const inLongRun = (one: AssetOdds): AssetOdds => {
    if (!later) return one;
    const then = later.find(({ asset }) => asset === one.asset);
    return { ...one, longRunChance: then?.longRunChance ?? 0, longRunExpected: then?.longRunExpected ?? 0 };
  };
  return {
    table: table.id,
    name: table.name,
    picks: table.picks,
    entries: table.entries.map((entry) => ({
      id: entry.id,
      weight: entry.weight,
      times: odds.open.includes(entry) ? first[odds.open.indexOf(entry)]! : 0,
    })),
    nothing: Object.keys(always).length > 0 ? 0 : within === 1 ? odds.noneForced(ANYTHING) : odds.none(ANYTHING),
    guarantee: odds.guaranteed ? table.guarantee! : null,
    once,
    assets: assets.map((asset) => inLongRun(assetOdds(odds, asset, within, always[asset] ?? 0))),
    together:
      wanted.length === 0
        ? null
        : {
            assets: wanted,
            ...allHad(
              odds,
              wanted.filter((asset) => (always[asset] ?? 0) === 0),
              within,
            ),
          },
  };
}

/** By table, open entries whose condition does not hold any more once what they give is owned; of tables in it too. */
function entriesOnce(
  economy: Economy,
  table: LootTable,
  scope: Scope,
  found = new Map<string, string[]>(),
): Map<string, string[]> {
  for (const { id, when, gives, table: nested } of entriesOpen(table, scope)) {
    if (nested !== undefined && !found.has(nested)) entriesOnce(economy, economy.loot.get(nested)!, scope, found);
    if (!when?.references.some(({ lookup }) => lookup === 'owned')) continue;
    const had = new Map(gives.map(({ asset, to }) => [asset, to]));
    const after: Scope = { ...scope, owned: (item) => scope.owned(item) + (had.get(item) ?? 0) };
    if (when.run(after) !== true) found.set(table.id, [...new Set([...(found.get(table.id) ?? []), id])]);
  }
  return found;
}

/** A table, and all others, without entries that have ended. */
function tableLater(
  economy: Economy,
  table: LootTable,
  ended: ReadonlyMap<string, readonly string[]>,
): [Economy, LootTable] {
  const without = (one: LootTable): LootTable => {
    const ids = ended.get(one.id) ?? [];
    const guarantee = one.guarantee && ids.includes(one.guarantee.entry) ? undefined : one.guarantee;
    return { ...one, entries: one.entries.filter(({ id }) => !ids.includes(id)), guarantee };
  };
  const loot = new Map([...economy.loot].map(([id, one]) => [id, without(one)]));
  return [{ ...economy, loot }, without(table)];
}

/** Mean units of each asset in an opening, in the long run: `longRunExpected` without what else `lootOdds` works out. */
export function lootMeans(economy: Economy, table: LootTable, scope: Scope): Readonly<Record<string, number>> {
  let known = meansKnown.get(economy);
  if (!known) meansKnown.set(economy, (known = new Map()));
  const key = openKey(economy, table, scope);
  let means = known.get(key);
  if (!means) known.set(key, (means = meansNow(economy, table, scope)));
  return means;
}

/** They are asked for at every event, and are the same for all players to whom the same entries are open. */
const meansKnown = new WeakMap<Economy, Map<string, Readonly<Record<string, number>>>>();

/** The table with those of its entries, and of the tables in it, that can be drawn. */
const openKey = (economy: Economy, table: LootTable, scope: Scope): string =>
  `${table.id}(${entriesOpen(table, scope)
    .map(({ id, table: nested }) =>
      nested === undefined ? id : `${id}:${openKey(economy, economy.loot.get(nested)!, scope)}`,
    )
    .join()})`;

function meansNow(economy: Economy, table: LootTable, scope: Scope): Readonly<Record<string, number>> {
  const odds = new TableOdds(economy, table, scope);
  const share = odds.guaranteed ? forcedShare(odds.hit(), table.guarantee!.within) : 0;
  return Object.fromEntries(odds.assets.map((asset) => [asset, longRunMean(odds, asset, share)]));
}

const longRunMean = (odds: TableOdds, asset: string, share: number): number => {
  const plain = odds.mean(asset, odds.times());
  return share === 0 ? plain : plain * (1 - share) + odds.mean(asset, odds.timesForced()) * share;
};

/** The odds of a box: its table's with what it always gives; a box without a table has certain contents only. */
export function boxOdds(
  economy: Economy,
  box: Pick<Box, 'id' | 'name' | 'gives' | 'loot'>,
  scope: Scope,
  together: readonly string[] = [],
): LootOdds {
  const table = box.loot === undefined ? undefined : economy.loot.get(box.loot);
  const empty: LootTable = {
    id: box.id,
    name: box.name,
    picks: { from: 0, to: 0 },
    distinct: false,
    entries: [],
    guarantee: undefined,
  };
  return { ...lootOdds(economy, table ?? empty, scope, basketArrivals(economy, box.gives), together), name: box.name };
}

function assetOdds(odds: TableOdds, asset: string, within: number | undefined, always: number): AssetOdds {
  const plain = { none: always > 0 ? 0 : odds.none(asset), mean: always + odds.mean(asset, odds.times()) };
  if (within === undefined)
    return {
      asset,
      chance: 1 - plain.none,
      expected: plain.mean,
      longRunChance: 1 - plain.none,
      longRunExpected: plain.mean,
      ...openingsNeeded({ none: plain.none, noneAndMissed: plain.none, noneForced: plain.none, within: 1 }),
    };
  const hit = odds.hit();
  const forced = {
    none: always > 0 ? 0 : odds.noneForced(asset),
    mean: always + odds.mean(asset, odds.timesForced()),
  };
  const share = forcedShare(hit, within);
  const first = within === 1 ? forced : plain;
  return {
    asset,
    chance: 1 - first.none,
    expected: first.mean,
    longRunChance: 1 - (plain.none * (1 - share) + forced.none * share),
    longRunExpected: always + longRunMean(odds, asset, share),
    ...openingsNeeded({
      none: plain.none,
      noneAndMissed: always > 0 ? 0 : odds.none(asset, odds.guaranteed),
      noneForced: forced.none,
      within,
    }),
  };
}

/**
 * The share of openings that the guarantee decides, in the long run. The wait since the last hit is a renewal
 * process: it has length k with chance hit (1 - hit)^(k-1), and `within` at the most.
 */
function forcedShare(hit: number, within: number): number {
  let reached = 1;
  let meanWait = 0;
  for (let k = 1; k < within; k++) {
    meanWait += reached;
    reached *= 1 - hit;
  }
  return reached / (meanWait + reached);
}

interface Waiting {
  /** The chance of none in an ordinary opening; of none and no hit of the guaranteed entry; of none when forced. */
  none: number;
  noneAndMissed: number;
  noneForced: number;
  within: number;
}

/** As many things of a set are looked at together: each more doubles the work. */
export const MOST_TOGETHER = 10;

/** Why the odds of a set cannot be told, with the place of the asset that is to blame where one is; undefined where they can. */
export function togetherProblem(
  economy: Economy,
  together: readonly string[],
): { at: number | undefined; problem: string; fix: string } | undefined {
  if (together.length > MOST_TOGETHER)
    return {
      at: undefined,
      problem: `there are ${together.length} assets in the set, more than ${MOST_TOGETHER}`,
      fix: `Name ${MOST_TOGETHER} at the most.`,
    };
  const at = together.findIndex((asset) => !economy.currencies.has(asset) && !economy.items.has(asset));
  if (at < 0) return undefined;
  const near = nearestName(together[at]!, [...economy.items.keys(), ...economy.currencies.keys()]);
  return {
    at,
    problem: `there is no currency or item "${together[at]}"`,
    fix: near === undefined ? 'Name some that the table gives.' : `Did you mean "${near}"?`,
  };
}

/**
 * Openings until all of a set are had. By inclusion and exclusion over its parts (de Moivre): all are had unless one is
 * missing, and that none of a part has come by the n-th opening is followed as for one asset, the guarantee included.
 */
function allHad(odds: TableOdds, assets: readonly string[], within = 1): OpeningsNeeded {
  if (assets.length === 0) return { mean: 1, half: 1, nine: 1, most: 1 };
  const parts = Array.from({ length: 2 ** assets.length - 1 }, (_, place) => {
    const part = new Set(assets.filter((_asset, bit) => ((place + 1) >> bit) & 1));
    const none = odds.noneOf(part);
    const isGuaranteed = odds.guaranteed !== undefined;
    const chain: Waiting = {
      none,
      noneAndMissed: isGuaranteed ? odds.noneOf(part, odds.guaranteed) : none,
      noneForced: isGuaranteed ? odds.noneOfForced(part) : none,
      within,
    };
    return { sign: part.size % 2 === 1 ? 1 : -1, chain, waiting: startOf(chain) };
  });
  const means = parts.map(({ sign, chain }) => [sign, meanWait(chain)] as const);
  const mean = means.some(([, wait]) => wait === null)
    ? null
    : means.reduce((sum, [sign, wait]) => sum + sign * wait!, 0);
  const needed: OpeningsNeeded = { mean, half: null, nine: null, most: null };
  for (let n = 1; n <= MOST_OPENINGS && needed.most === null; n++) {
    let missing = 0;
    for (const part of parts) {
      part.waiting = stepOf(part.chain, part.waiting);
      missing += part.sign * part.waiting.reduce((sum, one) => sum + one, 0);
    }
    // Rounding of the sums is far below what a person reads.
    const share = 1 - missing + 1e-12;
    if (share >= 0.5) needed.half ??= n;
    if (share >= 0.9) needed.nine ??= n;
    if (share >= 0.99) needed.most ??= n;
    if (mean === null && n > 1000) break;
  }
  return needed;
}

/** The mean number of openings until the first of them: from the last state of the wait back to the first. */
function meanWait({ none, noneAndMissed, noneForced, within }: Waiting): number | null {
  let [here, again] = [1, noneForced];
  for (let since = within - 2; since >= 0; since--)
    [here, again] = [1 + noneAndMissed * here, Math.max(0, none - noneAndMissed) + noneAndMissed * again];
  return again < 1 - 1e-15 ? here / (1 - again) : null;
}

const startOf = ({ within }: Waiting): Float64Array<ArrayBuffer> => {
  const waiting = new Float64Array(within);
  waiting[0] = 1;
  return waiting;
};

/** Those who still have none after one more opening, by how long ago the guaranteed entry last came. */
function stepOf(
  { none, noneAndMissed, noneForced, within }: Waiting,
  waiting: Float64Array<ArrayBuffer>,
): Float64Array<ArrayBuffer> {
  const next = new Float64Array(within);
  for (let since = 0; since < within - 1; since++) {
    next[since + 1] = waiting[since]! * noneAndMissed;
    next[0]! += waiting[since]! * Math.max(0, none - noneAndMissed);
  }
  next[0]! += waiting[within - 1]! * noneForced;
  return next;
}

/** Follows the players who still have none, by how long ago the guaranteed entry last came. */
function openingsNeeded(chain: Waiting): Pick<AssetOdds, 'openings' | 'curve'> {
  const shares: number[] = [];
  let waiting = startOf(chain);
  for (let n = 1; n <= MOST_OPENINGS; n++) {
    waiting = stepOf(chain, waiting);
    const left = waiting.reduce((sum, one) => sum + one, 0);
    shares.push(1 - left);
    if (left <= 0.005 || (n > 1 && left === 1)) break;
  }
  const after = (share: number) => {
    const index = shares.findIndex((one) => one >= share);
    return index < 0 ? null : index + 1;
  };
  const step = Math.max(1, Math.ceil(shares.length / 100));
  const curve = shares
    .map((share, index) => ({ openings: index + 1, share }))
    .filter(({ openings }) => openings % step === 0 || openings === 1 || openings === shares.length);
  return { openings: { mean: meanWait(chain), half: after(0.5), nine: after(0.9), most: after(0.99) }, curve };
}

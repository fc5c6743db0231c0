/**
 * The exact odds of a loot table: worked out, not sampled, through nesting, ranges, drawing without replacement and
 * the guarantee. Chances are doubles made of sums and products of positive numbers only, at most 300 entries x 100
 * picks deep over nested tables, so rounding stays below 1e-12; see `distinct.ts` for its integral.
 */
import type { Economy, LootEntry, LootTable } from '../economy/index.js';
import type { Scope } from '../formula/index.js';
import { drawnChances, drawnProduct } from './distinct.js';

/** What one opening does to one asset: the chance of none at all, and the mean number of units. */
interface Moments {
  none: number;
  mean: number;
}
type AssetMoments = Map<string, Moments>;

/** Stands for "any asset": its `none` is the chance of nothing at all. No asset has such an id. */
export const ANYTHING = '*';
const NEVER: Moments = { none: 1, mean: 0 };

/** Entries that can be drawn under `scope`: a weight above 0, and a condition that holds. */
export const entriesOpen = (table: LootTable, scope: Scope): LootEntry[] =>
  table.entries.filter(({ weight, when }) => weight > 0 && (when === undefined || when.run(scope) === true));

/** The guaranteed entry while it can be drawn at all. */
export const entryGuaranteed = (table: LootTable, open: readonly LootEntry[]): LootEntry | undefined =>
  table.guarantee && open.find(({ id }) => id === table.guarantee!.entry);

/** One table under one scope, ready to be asked. Nested tables are worked out once. */
export class TableOdds {
  readonly open: LootEntry[];
  readonly guaranteed: LootEntry | undefined;
  readonly assets: string[];
  private readonly inEntry: AssetMoments[];
  private readonly chances: number[];
  /** `picks[i]`: how many picks, and how likely. */
  private readonly picks: { count: number; chance: number }[];

  constructor(
    private readonly economy: Economy,
    readonly table: LootTable,
    scope: Scope,
    /** Tables that were worked out already, those in this one among them. */
    private readonly known: Map<string, TableOdds> = new Map(),
  ) {
    this.open = entriesOpen(table, scope);
    this.guaranteed = entryGuaranteed(table, this.open);
    const total = this.open.reduce((sum, { weight }) => sum + weight, 0);
    this.chances = this.open.map(({ weight }) => weight / total);
    this.inEntry = this.open.map((entry) => entryMoments(economy, entry, scope, known));
    this.assets = [...new Set(this.inEntry.flatMap((moments) => [...moments.keys()]))].filter((id) => id !== ANYTHING);
    const { from, to } = table.picks;
    this.picks = Array.from({ length: to - from + 1 }, (_, i) => ({ count: from + i, chance: 1 / (to - from + 1) }));
  }

  /** The chance that an opening gives none of these assets at all. The same three as of one asset. */
  noneOf(assets: ReadonlySet<string>, without?: LootEntry): number {
    const factors = this.open.map((entry) => (entry === without ? 0 : this.entryNoneOf(entry, assets)));
    return this.overRolls(this.open, factors, 0);
  }
  noneOfForced(assets: ReadonlySet<string>): number {
    const others = this.table.distinct ? this.open.filter((entry) => entry !== this.guaranteed) : this.open;
    const factors = others.map((entry) => this.entryNoneOf(entry, assets));
    return this.entryNoneOf(this.guaranteed!, assets) * this.overRolls(others, factors, 1);
  }

  /** What an entry gives together comes together: parts of a bundle are no chances of their own. */
  private entryNoneOf({ gives, table }: LootEntry, assets: ReadonlySet<string>): number {
    let none = table === undefined ? 1 : this.known.get(table)!.noneOf(assets);
    for (const { asset, from, to } of gives)
      if (partsOf(this.economy, asset).some(([part]) => assets.has(part))) none *= from > 0 ? 0 : 1 / (to - from + 1);
    return none;
  }

  private entry(index: number, asset: string): Moments {
    return this.inEntry[index]!.get(asset) ?? NEVER;
  }

  /** An opening without the guarantee. `without`: count only openings in which that entry is not drawn. */
  none(asset: string, without?: LootEntry): number {
    const factors = this.open.map((entry, index) => (entry === without ? 0 : this.entry(index, asset).none));
    return this.overRolls(this.open, factors, 0);
  }

  /** An opening whose first pick is the guaranteed entry. */
  noneForced(asset: string): number {
    const first = this.open.indexOf(this.guaranteed!);
    const others = this.table.distinct ? this.open.filter((entry) => entry !== this.guaranteed) : this.open;
    const factors = others.map((entry) => this.entry(this.open.indexOf(entry), asset).none);
    return this.entry(first, asset).none * this.overRolls(others, factors, 1);
  }

  /** The mean over the number of picks, `done` of them being settled already, of the product of what is drawn. */
  private overRolls(entries: readonly LootEntry[], factors: readonly number[], done: number): number {
    const left = (count: number) => Math.max(0, Math.max(count, done) - done);
    if (entries.length === 0) return 1;
    if (!this.table.distinct) {
      const sum = entries.reduce((total, { weight }) => total + weight, 0);
      const perRoll = entries.reduce((total, { weight }, index) => total + (weight / sum) * factors[index]!, 0);
      return this.picks.reduce((total, { count, chance }) => total + chance * perRoll ** left(count), 0);
    }
    const products = drawnProduct(
      entries.map(({ weight }) => weight),
      factors,
      left(this.picks.at(-1)!.count),
    );
    return this.picks.reduce((total, { count, chance }) => total + chance * products[left(count)]!, 0);
  }

  /** Mean number of times that each open entry is drawn in an opening without the guarantee. */
  times(): number[] {
    return (this.timesKnown ??= this.timesNow());
  }
  private timesKnown: number[] | undefined;
  private timesNow(): number[] {
    const { from, to } = this.table.picks;
    if (!this.table.distinct) return this.chances.map((chance) => (chance * (from + to)) / 2);
    return this.open.length === 0 ? [] : drawnChances(weightsOf(this.open), this.beyond(0));
  }

  /** The same for an opening whose first pick is the guaranteed entry. */
  timesForced(): number[] {
    return (this.forcedKnown ??= this.timesForcedNow());
  }
  private forcedKnown: number[] | undefined;
  private timesForcedNow(): number[] {
    const { guaranteed, open, table } = this;
    if (!table.distinct) {
      const more = this.picks.reduce((sum, { count, chance }) => sum + chance * Math.max(0, count - 1), 0);
      return open.map((entry, index) => this.chances[index]! * more + (entry === guaranteed ? 1 : 0));
    }
    const others = open.filter((entry) => entry !== guaranteed);
    const chances = others.length === 0 ? [] : drawnChances(weightsOf(others), this.beyond(1));
    return open.map((entry) => (entry === guaranteed ? 1 : chances[others.indexOf(entry)]!));
  }

  /** The chance of more than k further picks, for k from 0. */
  private beyond(done: number): number[] {
    return Array.from({ length: Math.max(1, this.table.picks.to - done) }, (_, k) =>
      this.picks.reduce((sum, { count, chance }) => sum + (count - done > k ? chance : 0), 0),
    );
  }

  mean(asset: string, times: readonly number[]): number {
    return times.reduce((sum, count, index) => sum + count * this.entry(index, asset).mean, 0);
  }

  /** The chance that an opening without the guarantee draws the guaranteed entry. */
  hit(): number {
    if (!this.guaranteed) return 0;
    return (
      1 -
      this.overRolls(
        this.open,
        this.open.map((entry) => (entry === this.guaranteed ? 0 : 1)),
        0,
      )
    );
  }
}

const weightsOf = (entries: readonly LootEntry[]): number[] => entries.map(({ weight }) => weight);

function entryMoments(economy: Economy, entry: LootEntry, scope: Scope, known: Map<string, TableOdds>): AssetMoments {
  const result: AssetMoments = new Map();
  for (const { asset, from, to } of entry.gives) {
    const none = from > 0 ? 0 : 1 / (to - from + 1);
    arrive(economy, asset, { none, mean: (from + to) / 2 }, result);
    if (to > 0) result.set(ANYTHING, { none: (result.get(ANYTHING) ?? NEVER).none * none, mean: 0 });
  }
  if (entry.table === undefined) return result;
  let nested = known.get(entry.table);
  if (!nested) known.set(entry.table, (nested = new TableOdds(economy, economy.loot.get(entry.table)!, scope, known)));
  const times = nested.times();
  for (const asset of [...nested.assets, ANYTHING])
    result.set(asset, { none: nested.none(asset), mean: nested.mean(asset, times) });
  return result;
}

function partsOf(economy: Economy, asset: string): [string, number][] {
  const item = economy.items.get(asset);
  return item?.kind === 'bundle' ? Object.entries(item.contents) : [[asset, 1]];
}

/** Bundles count as what they unpack into. */
function arrive(economy: Economy, asset: string, moments: Moments, into: AssetMoments): void {
  for (const [part, units] of partsOf(economy, asset)) {
    const before = into.get(part) ?? NEVER;
    // Two amounts of one asset in one entry come of independent ranges.
    into.set(part, { none: before.none * moments.none, mean: before.mean + moments.mean * units });
  }
}

/** The player who acts: what is held in the columns, and the ways in which that changes. */
import type { Basket } from '../../amount/index.js';
import { MAX_UNITS, unitsShare } from '../../amount/index.js';
import { countKept } from '../../economy/index.js';
import type { Formula, Read, Scope, Value } from '../../formula/index.js';
import { stacksAdd, stacksRemove } from '../../player/index.js';
import type { Receiving, Stack } from '../../player/index.js';
import { daysBetween, levelSettle, limitPeriod, periodAround } from '../../schedule/index.js';
import type { Period } from '../../schedule/index.js';
import { TOTAL, dayTally, flowAt } from '../tally.js';
import type { DayTally, RunTally } from '../tally.js';
import type { RunSetup } from '../scenario.js';
import { levelSince, sinceOf } from './crowd.js';
import type { Crowd } from './crowd.js';
import { giftOf } from './slots.js';
import type { Amounts, AssetSlot, CountedLimit, Gift, Slots } from './slots.js';

const NO_FIELDS: readonly string[] = [];
const FITS: Receiving = { fits: true };

/** What came by one deed: what was kept of each currency where that is earned, and the first `itemCount` items that came. */
export interface Came {
  /** Whether money that comes is earned. */
  earns: boolean;
  earned: Float64Array;
  items: number[];
  itemCount: number;
}

export class State {
  player = 0;
  /** That of the player who acts. */
  persona = 0;
  todayIs = 0;
  nowMs = 0;
  /** The row that is read and written: the player's own, or a copy of it to look at. */
  units: Float64Array;
  at = 0;
  private since: Float64Array;
  private sinceAt = 0;
  private timed: Stack[] = [];
  /** Nothing is told of what happens to a copy. */
  isCopy = false;
  private readonly copyUnits: Float64Array;
  private readonly copySince: Float64Array;
  /** Of the event that is being handled, by their place in it. */
  fields: readonly Value[] = [];
  /** Takes down what comes, where goals or levels look at it. */
  deed: Came | undefined;
  /** For what asks by name: quotes, and the conditions of tables. Fields of an event are not in it. */
  readonly scope: Scope;
  /** What is counted of the running day. */
  today: DayTally;
  private flowsAt = 0;
  private readonly totals: Float64Array;
  // What is asked of assets all the time, by slot: of currencies that do not come back `upTo` is NaN.
  private readonly most: Float64Array;
  private readonly upTo: Float64Array;
  private readonly everyMs: Float64Array;
  private readonly endsMs: Float64Array;
  private ages: Period & { days: number } = { startMs: 0, endMs: 0, days: 0 };

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
    private readonly crowd: Crowd,
    run: RunTally,
  ) {
    this.today = dayTally(slots, setup.crowd.length);
    this.totals = run.totals;
    this.units = crowd.units;
    this.since = crowd.since;
    this.most = Float64Array.from(slots.assets, ({ most }) => most);
    this.upTo = Float64Array.from(slots.assets, ({ upTo }) => upTo ?? NaN);
    this.everyMs = Float64Array.from(slots.assets, ({ everyMs }) => everyMs);
    this.endsMs = Float64Array.from(slots.assets, ({ endsMs }) => endsMs);
    this.copyUnits = new Float64Array(crowd.assets);
    this.copySince = new Float64Array(slots.currencies);
    this.scope = {
      name: (name) => this.named(name)(),
      owned: (item) => this.read('owned', item)(),
      balance: (currency) => this.read('balance', currency)(),
      bought: (offer) => this.read('bought', offer)(),
    };
  }

  // Formulas read the columns by closures that are made once: of names, and of what is owned, held and bought.

  /** A formula over the player who acts, and over the fields of an event where they are given. */
  bound(formula: Formula, fields = NO_FIELDS): () => Value {
    const run = formula.bind((read: Read): (() => Value) => {
      if (read.kind === 'lookup') return this.read(read.lookup, read.id);
      const field = fields.indexOf(read.name);
      return field < 0 ? this.named(read.name) : () => this.fields[field]!;
    });
    // What it reads is bound already, so that it asks for no state.
    return run as () => Value;
  }

  private readonly reads = new Map<string, () => number>();

  private read(lookup: 'owned' | 'balance' | 'bought', id: string): () => number {
    const key = `${lookup} ${id}`;
    const known = this.reads.get(key) ?? this.readMake(lookup, id);
    this.reads.set(key, known);
    return known;
  }

  private readMake(lookup: 'owned' | 'balance' | 'bought', id: string): () => number {
    const { slots, crowd } = this;
    // What nobody comes by in the run has no slot.
    if (lookup === 'bought') {
      const deal = slots.deals[slots.dealOf.get(id) ?? -1];
      if (!deal) return () => 0;
      const { lifetime } = deal;
      return () => crowd.count[crowd.countAt(this.player, lifetime)]!;
    }
    const slot = slots.assetOf.get(id);
    if (slot === undefined) return () => 0;
    if (lookup === 'owned') return () => this.units[this.at + slot]!;
    const scale = 10 ** (this.setup.economy.currencies.get(id)?.decimals ?? 0);
    return () => this.units[this.at + slot]! / scale;
  }

  private readonly names = new Map<string, () => Value>();

  private named(name: string): () => Value {
    const known = this.names.get(name) ?? this.namedMake(name);
    this.names.set(name, known);
    return known;
  }

  private namedMake(name: string): () => Value {
    if (name === 'day') return () => this.age();
    const { attributes } = this.slots;
    const attribute = attributes.indexOf(name);
    if (attribute < 0) return () => 0;
    return () => this.crowd.attributes[this.player * attributes.length + attribute]!;
  }

  /** Whole days since the player's first; everybody begins at once. */
  private age(): number {
    const { ages, nowMs } = this;
    if (nowMs < ages.startMs || nowMs >= ages.endMs) {
      const { zone } = this.setup.economy;
      this.ages = { ...periodAround(zone, 'day', nowMs), days: daysBetween(zone, this.setup.startMs, nowMs) };
    }
    return this.ages.days;
  }

  enter(player: number): void {
    const { crowd } = this;
    this.player = player;
    this.units = crowd.units;
    this.at = player * crowd.assets;
    this.since = crowd.since;
    this.sinceAt = player * this.slots.currencies;
    this.timed = crowd.timedOf(player);
    this.isCopy = false;
    this.persona = crowd.persona[player]!;
    this.flowsAt = flowAt(this.slots, this.persona, 0, 0);
  }

  heldOf(slot: number): number {
    return this.units[this.at + slot]!;
  }

  holdsAll({ slots, units }: Amounts): boolean {
    for (let i = 0; i < slots.length; i++) if (this.units[this.at + slots[i]!]! < units[i]!) return false;
    return true;
  }

  private timedSet(stacks: Stack[]): void {
    this.timed = stacks;
    if (!this.isCopy) this.crowd.timed[this.player] = stacks;
  }

  /** Notes what moved in: money by cause, and items that are had for the first time. */
  private cameIn(slot: number, units: number, cause: number): void {
    if (this.isCopy) return;
    const { crowd, slots } = this;
    this.totals[TOTAL.movements]!++;
    crowd.earned[this.at + slot]! += units;
    if (slot < slots.currencies) {
      this.flow(slot, 0, cause, units);
      return;
    }
    const at = this.player * crowd.items + slot - slots.currencies;
    if (crowd.ownedDay[at] === 0) crowd.ownedDay[at] = this.todayIs + 1;
  }

  private wentOut(slot: number, units: number, cause: number): void {
    if (this.isCopy) return;
    this.totals[TOTAL.movements]!++;
    if (slot < this.slots.currencies) this.flow(slot, 1, cause, units);
  }

  private flow(currency: number, way: 0 | 1, cause: number, units: number): void {
    this.today.flows[this.flowsAt + (2 * currency + way) * this.slots.causes.length + cause]! += units;
  }

  /** What a player begins with is not earned. */
  begin(slot: number, units: number, sinceMs: number | null): void {
    this.units[this.at + slot] = units;
    this.since[this.sinceAt + slot] = sinceOf(sinceMs);
    if (this.slots.assets[slot]!.currency!.start === 0) return;
    this.cameIn(slot, units, this.slots.beginning);
    this.crowd.earned[this.at + slot] = 0;
  }

  /** As `levelChange`: counting begins now where the units fall below what comes back by itself. */
  private moneySet(slot: number, units: number): void {
    this.units[this.at + slot] = units;
    const upTo = this.upTo[slot]!;
    const at = this.sinceAt + slot;
    if (units >= upTo) this.since[at] = NaN;
    else if (units < upTo && Number.isNaN(this.since[at])) this.since[at] = this.nowMs;
  }

  pay({ slots, units }: Amounts, cause: number): void {
    for (let i = 0; i < slots.length; i++) if (units[i]! > 0) this.give(slots[i]!, units[i]!, cause);
  }

  /** What a player gives away of one asset. */
  give(slot: number, units: number, cause: number): void {
    const left = this.units[this.at + slot]! - units;
    if (slot < this.slots.currencies) this.moneySet(slot, left);
    else {
      this.units[this.at + slot] = left;
      const asset = this.slots.assets[slot]!;
      if (asset.timed) this.timedSet(stacksRemove(this.timed, asset.id, units));
    }
    this.wentOut(slot, units, cause);
  }

  /** What arrives, bundles unpacked before; what passes a cap or a carry limit is dropped. Returns what is kept. */
  arrive(slot: number, arriving: number, cause: number, { paid, fits }: Receiving = {}): number {
    const units = Math.min(arriving, MAX_UNITS);
    if (units === 0) return 0;
    const held = this.units[this.at + slot]!;
    const asset = this.slots.assets[slot]!;
    const isMoney = slot < this.slots.currencies;
    const kept = this.kept(slot, units, 0, fits);
    this.cameIn(slot, units, cause);
    if (this.deed && !this.isCopy) {
      if (!isMoney) this.deed.items[this.deed.itemCount++] = slot;
      else if (this.deed.earns) this.deed.earned[slot]! += kept;
    }
    if (kept < units) this.dropped(slot, units - kept, asset, cause);
    if (kept === 0) return 0;
    if (isMoney) {
      this.moneySet(slot, held + kept);
      return kept;
    }
    this.units[this.at + slot] = held + kept;
    if (asset.timed)
      this.timedSet(
        stacksAdd(this.timed, asset.item!, kept, this.slots.causes[cause]!, this.nowMs, paid?.[asset.id] ?? null),
      );
    return kept;
  }

  /** How much of what arrives would be kept, once `less` of it is gone. */
  private kept(slot: number, units: number, less: number, fits = false): number {
    const room = Math.max(0, this.most[slot]! - (this.units[this.at + slot]! - less));
    return units <= room || fits || this.slots.assets[slot]!.currency?.overCap !== 'refuse' ? Math.min(units, room) : 0;
  }

  /** Whether anything arrives, and a cap or carry would keep out all of it; `less` of each slot is given away before. */
  keepsOut({ slots, units }: Amounts, less: (slot: number) => number): boolean {
    let comes = false;
    for (let i = 0; i < slots.length; i++) {
      const arriving = Math.min(units[i]!, MAX_UNITS);
      comes ||= arriving > 0;
      if (arriving > 0 && this.kept(slots[i]!, arriving, less(slots[i]!)) > 0) return false;
    }
    return comes;
  }

  private dropped(slot: number, units: number, { currency, overCap }: AssetSlot, cause: number): void {
    this.wentOut(slot, units, currency ? overCap : cause);
    if (currency && !this.isCopy) this.today.capped[this.persona * this.slots.currencies + slot]!++;
  }

  /** Bundles leave a trace: in from the giver, and out to be unpacked. */
  unpack({ slots, units }: Amounts, cause: number): void {
    for (let i = 0; i < slots.length; i++) {
      this.cameIn(slots[i]!, units[i]!, cause);
      this.wentOut(slots[i]!, units[i]!, cause);
    }
  }

  /** `kept`, where it is given, takes up what is kept of each currency. */
  receive({ bundles, arrivals: { slots, units } }: Gift, cause: number, kept?: Float64Array): void {
    this.unpack(bundles, cause);
    for (let i = 0; i < slots.length; i++) {
      const came = this.arrive(slots[i]!, units[i]!, cause);
      if (kept && slots[i]! < this.slots.currencies) kept[slots[i]!]! += came;
    }
  }

  /** As amounts by slot. */
  giftOf(gives: Readonly<Basket>): Gift {
    return giftOf(this.slots.assetOf, this.setup.economy, gives);
  }

  /** What time alone does, in the order of time: refills come, items expire, currencies end. */
  settle(nowMs: number): void {
    this.nowMs = nowMs;
    if (!this.isDue(nowMs)) return;
    for (let dueMs = this.nextDueMs(); dueMs <= nowMs; dueMs = this.nextDueMs()) {
      this.nowMs = dueMs;
      this.refill(dueMs);
      this.expire(dueMs);
      for (const slot of this.slots.settling) this.end(slot);
    }
    this.nowMs = nowMs;
    this.refill(nowMs);
  }

  /** When the next thing expires or a currency ends of which there is something, epoch ms. */
  private nextDueMs(): number {
    let due = Infinity;
    for (const { expiresMs } of this.timed) if (expiresMs !== null && expiresMs < due) due = expiresMs;
    for (const slot of this.slots.settling)
      if (this.endsMs[slot]! < due && !this.isEmpty(slot)) due = this.endsMs[slot]!;
    return due;
  }

  /** Nothing of a currency is there, and nothing of it comes back. */
  private isEmpty(slot: number): boolean {
    return this.heldOf(slot) === 0 && Number.isNaN(this.since[this.sinceAt + slot]);
  }

  private refill(nowMs: number): void {
    const { settling, assets } = this.slots;
    for (const slot of settling) {
      const { currency, refilled } = assets[slot]!;
      const { refill, ends } = currency!;
      if (!refill || (ends && nowMs >= ends.atMs && this.isEmpty(slot))) continue;
      const held = this.heldOf(slot);
      const before = { units: held, sinceMs: levelSince(this.since[this.sinceAt + slot]!) };
      const after = levelSettle(before, refill, ends ? Math.min(nowMs, ends.atMs) : nowMs);
      if (after === before) continue;
      this.units[this.at + slot] = after.units;
      this.since[this.sinceAt + slot] = sinceOf(after.sinceMs);
      if (after.units > held) this.cameIn(slot, after.units - held, refilled);
    }
  }

  /** Whether anything may change by time alone; most often nothing does. */
  private isDue(nowMs: number): boolean {
    const { upTo, everyMs, endsMs } = this;
    const { settling } = this.slots;
    for (let i = 0; i < settling.length; i++) {
      const slot = settling[i]!;
      const held = this.units[this.at + slot]!;
      const since = this.since[this.sinceAt + slot]!;
      const isRunning = !Number.isNaN(since);
      if (held >= upTo[slot]! ? isRunning : held < upTo[slot]! && !(nowMs - since < everyMs[slot]!)) return true;
      if (nowMs >= endsMs[slot]! && (held > 0 || isRunning)) return true;
    }
    return this.timed.length > 0;
  }

  private end(slot: number): void {
    if (this.nowMs < this.endsMs[slot]! || this.isEmpty(slot)) return;
    const { currency, ended } = this.slots.assets[slot]!;
    const units = this.heldOf(slot);
    const { into } = currency!.ends!;
    const becomes = into === undefined ? 0 : (unitsShare(units, currency!.ends!) ?? MAX_UNITS);
    this.units[this.at + slot] = 0;
    this.since[this.sinceAt + slot] = NaN;
    if (units > 0) this.wentOut(slot, units, ended);
    if (becomes > 0) this.arrive(this.slots.assetOf.get(into!)!, becomes, ended, FITS);
  }

  private expire(nowMs: number): void {
    const over = this.timed.filter(({ expiresMs }) => expiresMs !== null && expiresMs <= nowMs);
    if (over.length === 0) return;
    this.timedSet(this.timed.filter((stack) => !over.includes(stack)));
    for (const { item, units } of over) {
      const slot = this.slots.assetOf.get(item)!;
      this.units[this.at + slot]! -= units;
      this.wentOut(slot, units, 0);
    }
  }

  /** From now on the row is looked at as it is after `settle`: looking is not doing, so what time did is not kept. */
  look(nowMs: number): void {
    this.nowMs = nowMs;
    if (!this.isDue(nowMs)) return;
    this.copyUnits.set(this.units.subarray(this.at, this.at + this.crowd.assets));
    this.copySince.set(this.since.subarray(this.sinceAt, this.sinceAt + this.slots.currencies));
    this.units = this.copyUnits;
    this.at = 0;
    this.since = this.copySince;
    this.sinceAt = 0;
    this.isCopy = true;
    this.settle(nowMs);
  }

  // Limits, as `limitUsed` and `limitCount` have them: time never steps back for a player.

  isReached(limit: CountedLimit): boolean {
    const { crowd } = this;
    const at = crowd.countAt(this.player, limit.counter);
    // Most are far from it: whatever was counted in whichever period is not enough.
    return crowd.count[at]! >= limit.most && this.counts(limit, crowd.count[at + 1]!);
  }

  /** Whether what was counted from `startMs` on counts now. */
  private counts(limit: CountedLimit, startMs: number): boolean {
    return limit.everyMs > 0 ? this.nowMs < startMs + limit.everyMs : startMs >= this.periodStart(limit);
  }

  private periodStart({ limit, period }: CountedLimit): number {
    if (this.nowMs < period.startMs || this.nowMs >= period.endMs)
      Object.assign(period, limitPeriod(limit, undefined, this.setup.economy.zone, this.nowMs));
    return period.startMs;
  }

  /** What is counted within its period. */
  used(limit: CountedLimit): number {
    const { crowd } = this;
    const at = crowd.countAt(this.player, limit.counter);
    return crowd.count[at]! > 0 && this.counts(limit, crowd.count[at + 1]!) ? crowd.count[at]! : 0;
  }

  /** Counts on, up to the ceiling; returns what is counted then. */
  count(limit: CountedLimit, times: number): number {
    const { crowd } = this;
    const at = crowd.countAt(this.player, limit.counter);
    const before = crowd.count[at]!;
    if (before > 0 && this.counts(limit, crowd.count[at + 1]!))
      return (crowd.count[at] = countKept(Math.min(MAX_UNITS, before + times)));
    crowd.count[at + 1] = limit.everyMs > 0 ? this.nowMs : this.periodStart(limit);
    return (crowd.count[at] = times);
  }

  /** Counts once more, in the period that another runs in where it does. */
  countWith(limit: CountedLimit, other: CountedLimit): void {
    this.count(limit, 1);
    if (this.used(other) > 0)
      this.crowd.count[this.crowd.countAt(this.player, limit.counter) + 1] = this.countedFrom(other);
  }

  /** When the period began in which it was counted last, epoch ms. */
  countedFrom({ counter }: CountedLimit): number {
    return this.crowd.count[this.crowd.countAt(this.player, counter) + 1]!;
  }
}

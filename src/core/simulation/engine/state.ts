/** The player who acts: what is held in the columns, and the ways in which that changes. */
import type { Basket } from '../../amount/index.js';
import { MAX_UNITS, unitsShare } from '../../amount/index.js';
import type { Value } from '../../formula/index.js';
import type { Scope } from '../../formula/index.js';
import { basketArrivals, stacksAdd, stacksRemove } from '../../player/index.js';
import type { Stack } from '../../player/index.js';
import { daysBetween, levelChange, levelSettle, limitCount, limitUsed, periodAround } from '../../schedule/index.js';
import type { Level, Limit, Period } from '../../schedule/index.js';
import type { Recorder } from '../recorder.js';
import type { RunSetup } from '../scenario.js';
import { levelSince, sinceOf } from './crowd.js';
import type { Crowd } from './crowd.js';
import type { Amounts, CountedLimit, Slots } from './slots.js';

/** What is written while what a player holds is worked out: the player's own row, or a copy for a question. */
interface Holder {
  units: Float64Array;
  at: number;
  since: Float64Array;
  sinceAt: number;
  timed: Stack[];
  /** A copy: nothing is told of what happens to it. */
  isCopy: boolean;
}

export class State {
  player = 0;
  todayIs = 0;
  nowMs = 0;
  /** The player's row, a copy of it for questions, and which of them is written now. */
  readonly own: Holder;
  readonly copy: Holder;
  holder: Holder;
  /** Of the event that is being handled: formulas may name them. */
  fields: Readonly<Record<string, Value>> | undefined;
  readonly scope: Scope;
  /** Units of money by persona, currency, way and cause, of the running day. */
  private readonly flows: Float64Array;
  private ages: Period & { days: number } = { startMs: 0, endMs: 0, days: 0 };

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
    private readonly crowd: Crowd,
    private readonly recorder: Recorder,
  ) {
    this.flows = new Float64Array(setup.crowd.length * slots.currencies * 2 * slots.causes.length);
    this.own = { units: crowd.units, at: 0, since: crowd.since, sinceAt: 0, timed: [], isCopy: false };
    this.copy = {
      units: new Float64Array(crowd.assets),
      at: 0,
      since: new Float64Array(slots.currencies),
      sinceAt: 0,
      timed: [],
      isCopy: true,
    };
    this.holder = this.own;
    this.scope = this.scopeMake();
  }

  heldOf(slot: number): number {
    return this.holder.units[this.holder.at + slot]!;
  }

  private level(slot: number): Level {
    const { since, sinceAt } = this.holder;
    return { units: this.heldOf(slot), sinceMs: levelSince(since[sinceAt + slot]!) };
  }

  levelSet(slot: number, { units, sinceMs }: Level): void {
    const { holder } = this;
    holder.units[holder.at + slot] = units;
    holder.since[holder.sinceAt + slot] = sinceOf(sinceMs);
  }

  private timedSet(stacks: Stack[]): void {
    this.holder.timed = stacks;
    if (!this.holder.isCopy) this.crowd.timed[this.player] = stacks;
  }

  /** Notes what moved in: money by cause, and items that are had for the first time. */
  cameIn(slot: number, units: number, cause: number): void {
    if (this.holder.isCopy) return;
    const at = this.player * this.crowd.assets + slot;
    this.recorder.totals.movements++;
    this.crowd.earned[at]! += units;
    if (slot < this.slots.currencies) this.flow(slot, 0, cause, units);
    else if (this.crowd.firstDay[at]! < 0) this.crowd.firstDay[at] = this.todayIs;
  }

  private wentOut(slot: number, units: number, cause: number): void {
    if (this.holder.isCopy) return;
    this.recorder.totals.movements++;
    if (slot < this.slots.currencies) this.flow(slot, 1, cause, units);
  }

  private flow(currency: number, way: 0 | 1, cause: number, units: number): void {
    const { slots, crowd } = this;
    const row = (crowd.persona[this.player]! * slots.currencies + currency) * 2 + way;
    this.flows[row * slots.causes.length + cause]! += units;
  }

  pay({ slots, units }: Amounts, cause: number): void {
    for (let i = 0; i < slots.length; i++) if (units[i]! > 0) this.give(slots[i]!, units[i]!, cause);
  }

  /** What a player gives away of one asset. */
  give(slot: number, units: number, cause: number): void {
    const { currency, timed, id } = this.slots.assets[slot]!;
    if (currency) this.levelSet(slot, levelChange(this.level(slot), -units, currency.refill, this.nowMs));
    else {
      this.holder.units[this.holder.at + slot]! -= units;
      if (timed) this.timedSet(stacksRemove(this.holder.timed, id, units));
    }
    this.wentOut(slot, units, cause);
  }

  /** What arrives, bundles unpacked before; what passes a cap or a carry limit is dropped. */
  arrive(slot: number, arriving: number, cause: number, paid: Basket | null): void {
    const units = Math.min(arriving, MAX_UNITS);
    if (units === 0) return;
    const { currency, item, most, timed, id } = this.slots.assets[slot]!;
    const held = this.heldOf(slot);
    const room = Math.max(0, most - held);
    const kept = units <= room ? units : currency?.overCap === 'refuse' ? 0 : room;
    this.cameIn(slot, units, cause);
    if (kept < units) this.wentOut(slot, units - kept, currency ? this.slots.causeOf.get(`over-cap:${id}`)! : cause);
    if (kept === 0) return;
    if (currency) {
      this.levelSet(slot, levelChange(this.level(slot), kept, currency.refill, this.nowMs));
      return;
    }
    this.holder.units[this.holder.at + slot] = held + kept;
    if (timed) this.timedSet(stacksAdd(this.holder.timed, item!, kept, this.slots.causes[cause]!, this.nowMs, paid));
  }

  /** Bundles leave a trace: in from the giver, and out to be unpacked. */
  unpack(gives: Readonly<Basket>, cause: number): void {
    for (const asset in gives) {
      const slot = this.slots.assetOf.get(asset)!;
      if (this.slots.assets[slot]!.item?.kind !== 'bundle') continue;
      this.cameIn(slot, gives[asset]!, cause);
      this.wentOut(slot, gives[asset]!, cause);
    }
  }

  receive(gives: Readonly<Basket>, cause: number): void {
    this.unpack(gives, cause);
    const arrivals = basketArrivals(this.setup.economy, gives);
    for (const asset in arrivals) this.arrive(this.slots.assetOf.get(asset)!, arrivals[asset]!, cause, null);
  }

  /** What time alone does: refills come, currencies end, items expire. */
  settle(nowMs: number): void {
    this.nowMs = nowMs;
    const { slots } = this;
    for (const slot of slots.settling) {
      const { id, refill, ends } = slots.assets[slot]!.currency!;
      if (!refill) continue;
      // Nothing is due: at its bound, or not yet.
      const sinceMs = this.holder.since[this.holder.sinceAt + slot]!;
      const isFull = this.heldOf(slot) >= refill.upTo;
      if (isFull && Number.isNaN(sinceMs)) continue;
      if (!isFull && refill.comes.kind === 'duration' && nowMs - sinceMs < refill.comes.everyMs) continue;
      const before = this.level(slot);
      const after = levelSettle(before, refill, ends ? Math.min(nowMs, ends.atMs) : nowMs);
      if (after === before) continue;
      this.levelSet(slot, after);
      if (after.units > before.units) this.cameIn(slot, after.units - before.units, slots.causeOf.get(`refill:${id}`)!);
    }
    for (const slot of slots.settling) {
      const { id, name, ends } = slots.assets[slot]!.currency!;
      if (!ends || nowMs < ends.atMs) continue;
      const { units, sinceMs } = this.level(slot);
      if (units === 0 && sinceMs === null) continue;
      const cause = slots.causeOf.get(`ended:${id}`)!;
      const into = ends.into === undefined ? 0 : unitsShare(units, ends);
      if (into === undefined) throw new Error(`${name} turns into more than the ceiling`);
      this.levelSet(slot, { units: 0, sinceMs: null });
      if (units > 0) this.wentOut(slot, units, cause);
      if (into > 0) this.receive({ [ends.into!]: into }, cause);
    }
    if (this.holder.timed.length > 0) this.expire(nowMs);
  }

  private expire(nowMs: number): void {
    const over = this.holder.timed.filter(({ expiresMs }) => expiresMs !== null && expiresMs <= nowMs);
    if (over.length === 0) return;
    this.timedSet(this.holder.timed.filter((stack) => !over.includes(stack)));
    for (const { item, units } of over) {
      const slot = this.slots.assetOf.get(item)!;
      this.holder.units[this.holder.at + slot]! -= units;
      this.wentOut(slot, units, 0);
    }
  }

  isReached({ limit, counter }: CountedLimit): boolean {
    const { crowd, player } = this;
    // Most are far from it: whatever was counted in whichever period is not enough.
    if (crowd.count[player * crowd.counters + counter]! < limit.most) return false;
    return limitUsed(limit, crowd.counter(player, counter), this.setup.economy.zone, this.nowMs) >= limit.most;
  }

  countOnce(limit: Limit, counter: number): void {
    const { crowd, player } = this;
    crowd.counterSet(
      player,
      counter,
      limitCount(limit, crowd.counter(player, counter), this.setup.economy.zone, this.nowMs, 1),
    );
  }

  holdsAll({ slots, units }: Amounts): boolean {
    for (let i = 0; i < slots.length; i++) if (this.heldOf(slots[i]!) < units[i]!) return false;
    return true;
  }

  enter(player: number): void {
    const { crowd, own } = this;
    this.player = player;
    own.at = player * crowd.assets;
    own.sinceAt = player * this.slots.currencies;
    own.timed = crowd.timedOf(player);
    this.holder = own;
  }

  private scopeMake(): Scope {
    const { slots, crowd } = this;
    const named = (name: string): Value =>
      name === 'day'
        ? this.age()
        : (crowd.attributes[this.player]![name] ?? this.setup.economy.attributes.get(name) ?? 0);
    return {
      name: (name) => (this.fields && Object.hasOwn(this.fields, name) ? this.fields[name]! : named(name)),
      owned: (item) => this.heldOf(slots.assetOf.get(item)!),
      balance: (currency) =>
        this.heldOf(slots.assetOf.get(currency)!) / 10 ** (this.setup.economy.currencies.get(currency)?.decimals ?? 0),
      bought: (offer) => crowd.count[this.player * crowd.counters + slots.deals[slots.dealOf.get(offer)!]!.lifetime]!,
    };
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

  /** From now on a copy of the row is looked at and changed, brought up to now: looking is not doing. */
  look(nowMs: number): void {
    const { crowd, slots, own, copy } = this;
    copy.units.set(own.units.subarray(own.at, own.at + crowd.assets));
    copy.since.set(own.since.subarray(own.sinceAt, own.sinceAt + slots.currencies));
    copy.timed = own.timed;
    this.holder = copy;
    this.settle(nowMs);
  }

  /** What flowed in the day, as it is told; the next one begins. */
  flowsTell(): void {
    const { slots, recorder, flows } = this;
    const causes = slots.causes.length;
    for (let at = 0; at < flows.length; at++) {
      if (flows[at] === 0) continue;
      const row = Math.floor(at / causes);
      const currency = (row >> 1) % slots.currencies;
      const persona = Math.floor((row >> 1) / slots.currencies);
      recorder.flow(persona, currency, row % 2 === 0 ? 'in' : 'out', slots.causes[at % causes]!, flows[at]!);
    }
    flows.fill(0);
  }
}

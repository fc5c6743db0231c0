/**
 * The engine: the reference's game over columns. What a limit, a level, a quote, a draw or a roll is, it asks the same
 * functions as the live service; how a player's state is held, and in which order the parts of an act change it, it
 * says itself, and tests hold it to the reference byte by byte (decision 0030).
 */
import type { Basket } from '../../amount/index.js';
import { MAX_UNITS, basketAdd, unitsShare } from '../../amount/index.js';
import type { Economy, Offer, Persona, PriceChoice } from '../../economy/index.js';
import { quantitiesEvaluate } from '../../economy/index.js';
import type { Scope, Value } from '../../formula/index.js';
import { lootRoll } from '../../loot/index.js';
import { playerCreate, playerScope, stacksAdd, stacksRemove } from '../../player/index.js';
import type { Stack } from '../../player/index.js';
import { isOnShow, shelfShown, shownUntilMs } from '../../rotation/index.js';
import type { Random } from '../../random/index.js';
import { firstOf, keyBegin, keyDigits, keyEnd, keyNext, keyText, randomStream, streamOf } from '../../random/index.js';
import {
  daysBetween,
  levelChange,
  levelSettle,
  limitCount,
  limitUsed,
  openingIsOpen,
  periodAround,
} from '../../schedule/index.js';
import type { Level, Limit, Period } from '../../schedule/index.js';
import { quoteMake } from '../../trade/index.js';
import type { ReasonCode } from '../../trade/index.js';
import { drawValue } from '../draw.js';
import { POLICIES, priceShare } from '../policy.js';
import type { Answer, Visit } from '../policy.js';
import { Recorder } from '../recorder.js';
import type { Simulator } from '../reference.js';
import { sessionCount } from '../sessions.js';
import type { SimulationResult } from '../result.js';
import type { RunSetup } from '../scenario.js';
import { Crowd, levelSince, sinceOf } from './crowd.js';
import { slotsMake, termsOf } from './slots.js';
import type { ActivitySlot, Amounts, CountedLimit, Deal, RuleSlot, Slots, Terms, Untold, Way } from './slots.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;
const LIFETIME: Limit = { period: 'lifetime', most: Infinity, span: { kind: 'lifetime' } };

interface Session {
  player: number;
  /** The day on which it begins, and which of that day's it is: what its luck is keyed by. */
  day: number;
  number: number;
  /** Planned; it begins when the one before is over. */
  startMs: number;
  at: 'planned' | 'play' | 'visit';
  nowMs: number;
  endMs: number;
  turn: number;
}

interface EngineAnswer extends Answer {
  deal: Deal;
  way: Way;
  terms: Terms | Untold;
}

/** What is on show, and until when; by item, what of it gives one, as far as that was asked. */
interface Seen extends Period {
  offers: readonly Deal[];
  giving: Map<string, readonly Deal[]>;
}

interface PersonaSlot {
  persona: Persona;
  plays: readonly { slot: ActivitySlot; weight: number }[];
  /** What is never spent of each asset. */
  keeps: Float64Array;
}

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

/** O(players x days x sessions x offers), without a state of its own for each day. */
export const simulateEngine: Simulator = (setup, { onDay } = {}) => {
  const run = new Engine(setup);
  for (let day = 0; day < setup.days; day++) {
    run.day(day);
    onDay?.(day + 1, setup.days);
  }
  return run.result();
};

class Engine {
  private readonly economy: Economy;
  private readonly slots: Slots;
  private readonly personas: PersonaSlot[];
  private readonly crowd: Crowd;
  private readonly recorder: Recorder;
  private readonly sharedStock: (Level | undefined)[];
  private carried: Session[] = [];
  /** Units of money by persona, currency, way and cause, of the running day. */
  private readonly flows: Float64Array;

  // The player who acts, and when.
  private player = 0;
  private persona: PersonaSlot;
  private todayIs = 0;
  private nowMs = 0;
  private readonly own: Holder;
  private readonly copy: Holder;
  private holder: Holder;
  private fields: Readonly<Record<string, Value>> | undefined;
  private readonly scope: Scope;
  private readonly visit: Visit<Deal, Way, EngineAnswer>;
  private visitLuck = 0;
  /** Whether a shop serves the player: 0 not asked yet, 1 it does, 2 it does not. */
  private readonly serves: Uint8Array;
  /** Whether a sale is on: 1 where it is; and whether any is. */
  private readonly runs: Uint8Array;
  private anyRuns = false;
  private seen: Seen = { startMs: 0, endMs: 0, offers: [], giving: new Map() };
  private ages: Period & { days: number } = { startMs: 0, endMs: 0, days: 0 };

  constructor(private readonly setup: RunSetup) {
    const { economy, crowd, days } = setup;
    this.economy = economy;
    this.slots = slotsMake(economy);
    this.personas = crowd.map(({ persona: id }) => {
      const persona = economy.personas.get(id)!;
      return {
        persona,
        plays: persona.plays
          .filter(({ weight }) => weight > 0)
          .map(({ activity, weight }) => ({ slot: this.slots.activities.get(activity.id)!, weight })),
        keeps: Float64Array.from(this.slots.assets, ({ id: asset }) => persona.spending.keeps[asset] ?? 0),
      };
    });
    const players = crowd.reduce((sum, one) => sum + one.players, 0);
    this.crowd = new Crowd(this.slots, players, days - 1);
    this.recorder = new Recorder(
      setup,
      crowd.map(({ persona, players: count }, index) => ({
        id: persona,
        name: this.personas[index]!.persona.name,
        players: count,
      })),
      players,
    );
    this.sharedStock = new Array<Level | undefined>(this.slots.sharedStocks).fill(undefined);
    this.flows = new Float64Array(crowd.length * this.slots.currencies * 2 * this.slots.causes.length);
    this.serves = new Uint8Array(this.slots.shops);
    this.runs = new Uint8Array(this.slots.sales.length);
    const { assets } = this.crowd;
    this.own = { units: this.crowd.units, at: 0, since: this.crowd.since, sinceAt: 0, timed: [], isCopy: false };
    this.copy = {
      units: new Float64Array(assets),
      at: 0,
      since: new Float64Array(this.slots.currencies),
      sinceAt: 0,
      timed: [],
      isCopy: true,
    };
    this.holder = this.own;
    this.persona = this.personas[0]!;
    this.scope = this.scopeMake();
    this.visit = this.visitMake();
    let player = 0;
    for (const [persona, { players: count }] of crowd.entries())
      for (let number = 0; number < count; number++) this.join(player++, persona, number);
  }

  // What is held.

  private heldOf(slot: number): number {
    return this.holder.units[this.holder.at + slot]!;
  }

  private level(slot: number): Level {
    const { since, sinceAt } = this.holder;
    return { units: this.heldOf(slot), sinceMs: levelSince(since[sinceAt + slot]!) };
  }

  private levelSet(slot: number, { units, sinceMs }: Level): void {
    const { holder } = this;
    holder.units[holder.at + slot] = units;
    holder.since[holder.sinceAt + slot] = sinceOf(sinceMs);
  }

  private timedSet(stacks: Stack[]): void {
    this.holder.timed = stacks;
    if (!this.holder.isCopy) this.crowd.timed[this.player] = stacks;
  }

  /** Notes what moved in: money by cause, and items that are had for the first time. */
  private cameIn(slot: number, units: number, cause: number): void {
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

  private pay({ slots, units }: Amounts, cause: number): void {
    for (let i = 0; i < slots.length; i++) if (units[i]! > 0) this.give(slots[i]!, units[i]!, cause);
  }

  /** What a player gives away of one asset. */
  private give(slot: number, units: number, cause: number): void {
    const { currency, timed, id } = this.slots.assets[slot]!;
    if (currency) this.levelSet(slot, levelChange(this.level(slot), -units, currency.refill, this.nowMs));
    else {
      this.holder.units[this.holder.at + slot]! -= units;
      if (timed) this.timedSet(stacksRemove(this.holder.timed, id, units));
    }
    this.wentOut(slot, units, cause);
  }

  /** What arrives, bundles unpacked before; what passes a cap or a carry limit is dropped. */
  private arrive(slot: number, arriving: number, cause: number, paid: Basket | null): void {
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
  private unpack(gives: Readonly<Basket>, cause: number): void {
    for (const asset in gives) {
      const slot = this.slots.assetOf.get(asset)!;
      if (this.slots.assets[slot]!.item?.kind !== 'bundle') continue;
      this.cameIn(slot, gives[asset]!, cause);
      this.wentOut(slot, gives[asset]!, cause);
    }
  }

  private receive(gives: Readonly<Basket>, cause: number): void {
    let arrivals: Basket | undefined;
    for (const asset in gives) {
      const { item } = this.slots.assets[this.slots.assetOf.get(asset)!]!;
      if (item?.kind === 'bundle') arrivals = {};
    }
    if (arrivals) {
      this.unpack(gives, cause);
      for (const asset in gives) {
        const { item } = this.slots.assets[this.slots.assetOf.get(asset)!]!;
        if (item?.kind !== 'bundle') arrivals[asset] = (arrivals[asset] ?? 0) + gives[asset]!;
        else
          for (const inner in item.contents)
            arrivals[inner] = (arrivals[inner] ?? 0) + item.contents[inner]! * gives[asset]!;
      }
    }
    const arriving = arrivals ?? gives;
    for (const asset in arriving) this.arrive(this.slots.assetOf.get(asset)!, arriving[asset]!, cause, null);
  }

  /** What time alone does: refills come, currencies end, items expire. */
  private settle(nowMs: number): void {
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

  private isReached({ limit, counter }: CountedLimit): boolean {
    const { crowd, player } = this;
    // Most are far from it: whatever was counted in whichever period is not enough.
    if (crowd.count[player * crowd.counters + counter]! < limit.most) return false;
    return limitUsed(limit, crowd.counter(player, counter), this.economy.zone, this.nowMs) >= limit.most;
  }

  private countOnce(limit: Limit, counter: number): void {
    const { crowd, player } = this;
    crowd.counterSet(
      player,
      counter,
      limitCount(limit, crowd.counter(player, counter), this.economy.zone, this.nowMs, 1),
    );
  }

  // Who acts.

  private enter(player: number): void {
    const { crowd, own } = this;
    this.player = player;
    this.persona = this.personas[crowd.persona[player]!]!;
    own.at = player * crowd.assets;
    own.sinceAt = player * this.slots.currencies;
    own.timed = crowd.timedOf(player);
    this.holder = own;
  }

  private scopeMake(): Scope {
    const { slots, crowd } = this;
    const named = (name: string): Value =>
      name === 'day' ? this.age() : (crowd.attributes[this.player]![name] ?? this.economy.attributes.get(name) ?? 0);
    return {
      name: (name) => (this.fields && Object.hasOwn(this.fields, name) ? this.fields[name]! : named(name)),
      owned: (item) => this.heldOf(slots.assetOf.get(item)!),
      balance: (currency) =>
        this.heldOf(slots.assetOf.get(currency)!) / 10 ** (this.economy.currencies.get(currency)?.decimals ?? 0),
      bought: (offer) => crowd.count[this.player * crowd.counters + slots.deals[slots.dealOf.get(offer)!]!.lifetime]!,
    };
  }

  /** Whole days since the player's first; everybody begins at once. */
  private age(): number {
    const { ages, nowMs } = this;
    if (nowMs < ages.startMs || nowMs >= ages.endMs) {
      const { zone } = this.economy;
      this.ages = { ...periodAround(zone, 'day', nowMs), days: daysBetween(zone, this.setup.startMs, nowMs) };
    }
    return this.ages.days;
  }

  private join(player: number, persona: number, number: number): void {
    const { crowd, setup, economy, slots } = this;
    const { id, attributes: rules } = this.personas[persona]!.persona;
    const key = `${id}-${number}`;
    crowd.persona[player] = persona;
    crowd.keys.push(key);
    crowd.luck[player] = keyNext(keyText(keyBegin(setup.seed), key));
    const random = randomStream(setup.seed, key, 'attributes');
    const { player: blank } = playerCreate(economy, key, key, setup.startMs);
    const scope = playerScope(economy, blank, setup.startMs);
    const attributes: Record<string, Value> = { ...blank.attributes };
    for (const { attribute, draw } of rules) attributes[attribute] = drawValue(draw, random, scope);
    crowd.attributes.push(attributes);
    this.enter(player);
    this.todayIs = 0;
    slots.assets.slice(0, slots.currencies).forEach(({ currency }, slot) => {
      this.levelSet(slot, blank.balances[currency!.id]!);
      if (currency!.start === 0) return;
      // What a player begins with is not earned.
      this.cameIn(slot, currency!.start, slots.causeOf.get('start:new_player')!);
      crowd.earned[player * crowd.assets + slot] = 0;
    });
  }

  // Days and sessions.

  day(day: number): void {
    const { crowd, economy, setup } = this;
    this.todayIs = day;
    // Noon of the first day plus whole days of 24 hours stays within the right day across daylight-saving changes.
    const firstNoonMs = periodAround(economy.zone, 'day', setup.startMs).startMs + 12 * HOUR_MS;
    const { startMs, endMs } = periodAround(economy.zone, 'day', firstNoonMs + day * 24 * HOUR_MS);
    const sessions = this.carried.filter(({ player }) => crowd.gone[player] === 0);
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0) this.plan(player, day, startMs, sessions);
    sessions.sort((a, b) => a.startMs - b.startMs || a.player - b.player || a.number - b.number);
    this.carried = sessions.filter((session) => !this.session(session, endMs));
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0) this.nightfall(player, day, endMs);
    this.recordDay(day);
    for (let player = 0; player < crowd.players; player++) if (crowd.lastDay[player] === day) crowd.gone[player] = 1;
  }

  /** The sessions of a day, none beginning before the one before it should be over. */
  private plan(player: number, day: number, dayStartMs: number, into: Session[]): void {
    const { crowd, setup } = this;
    const { perDay, minutes, fromHour, toHour } = this.personas[crowd.persona[player]!]!.persona.sessions;
    const random = this.stream(player, 'sessions', day);
    const count = sessionCount(random, perDay);
    const hours = ((toHour - fromHour + 24) % 24) + 1;
    const starts: number[] = [];
    for (let number = 0; number < count; number++)
      starts.push(Math.max(setup.startMs, Math.floor(dayStartMs + (fromHour + random() * hours) * HOUR_MS)));
    if (count > 1) starts.sort((a, b) => a - b);
    let freeMs = crowd.busyUntil[player]!;
    for (let number = 0; number < count; number++) {
      const startMs = Math.max(starts[number]!, freeMs);
      freeMs = startMs + minutes * MINUTE_MS;
      into.push({ player, day, number, startMs, at: 'planned', nowMs: 0, endMs: 0, turn: 0 });
    }
  }

  private stream(player: number, purpose: string, day: number): Random {
    return streamOf(keyEnd(keyNext(keyDigits(keyNext(keyText(this.crowd.luck[player]!, purpose)), day))));
  }

  /** Plays a session as far as its day goes; false where it goes on after midnight. */
  private session(session: Session, dayEndMs: number): boolean {
    const { crowd } = this;
    this.enter(session.player);
    const { sessions } = this.persona.persona;
    if (session.at === 'planned') {
      // The one before may have run over its time.
      const startMs = Math.max(session.startMs, crowd.busyUntil[session.player]!);
      if (startMs >= dayEndMs) return false;
      session.at = 'play';
      session.nowMs = startMs;
      session.endMs = startMs + sessions.minutes * MINUTE_MS;
      crowd.busyUntil[session.player] = session.endMs;
      this.recorder.totals.sessions++;
      this.settle(startMs);
    }
    if (session.at === 'play') {
      const luck = keyNext(keyText(crowd.luck[session.player]!, 'play'));
      const keyed = keyNext(keyDigits(keyNext(keyDigits(luck, session.day)), session.number));
      while (session.nowMs < session.endMs) {
        const random = streamOf(keyEnd(keyNext(keyDigits(keyed, session.turn))));
        const slot = this.pickActivity(random());
        if (!slot) break;
        const doneMs = session.nowMs + Math.round(slot.activity.minutes * MINUTE_MS);
        if (doneMs >= dayEndMs) return false;
        this.play(slot, random, session, doneMs);
        session.nowMs = doneMs;
        session.turn++;
      }
      session.nowMs = Math.max(session.nowMs, session.endMs);
      crowd.busyUntil[session.player] = session.nowMs;
      session.at = 'visit';
    }
    if (session.nowMs >= dayEndMs) return false;
    this.shop(session);
    return true;
  }

  /** One of the activities whose entry the player can pay, by weight; none when there is none. */
  private pickActivity(luck: number): ActivitySlot | undefined {
    const { plays } = this.persona;
    let total = 0;
    let last: ActivitySlot | undefined;
    for (const { slot, weight } of plays)
      if (this.holdsAll(slot.needs)) {
        total += weight;
        last = slot;
      }
    let left = luck * total;
    for (const { slot, weight } of plays) {
      if (!this.holdsAll(slot.needs)) continue;
      left -= weight;
      if (left < 0) return slot;
    }
    return last;
  }

  private holdsAll({ slots, units }: Amounts): boolean {
    for (let i = 0; i < slots.length; i++) if (this.heldOf(slots[i]!) < units[i]!) return false;
    return true;
  }

  private play({ activity, needs, cause }: ActivitySlot, random: Random, session: Session, nowMs: number): void {
    this.nowMs = nowMs;
    this.pay(needs, cause);
    this.fields = undefined;
    // All are drawn before any pays: what an event pays does not reach into the ones beside it.
    const drawn = activity.emits.map(({ fields }) => {
      const values: Record<string, Value> = {};
      for (const { field, draw } of fields) values[field] = drawValue(draw, random, this.scope);
      return values;
    });
    activity.emits.forEach(({ event }, index) => this.event(event, drawn[index]!, session, nowMs));
  }

  // What events pay.

  private event(name: string, fields: Readonly<Record<string, Value>>, session: Session, nowMs: number): void {
    this.fields = undefined;
    this.settle(nowMs);
    this.recorder.totals.events++;
    this.fields = fields;
    // The event's id, `DAY-NUMBER-TURN-NAME`, as far as luck is keyed by it.
    let key = keyText(keyDigits(this.crowd.luck[session.player]!, session.day), '-');
    key = keyText(keyDigits(key, session.number), '-');
    key = keyNext(keyText(keyText(keyDigits(key, session.turn), '-'), name));
    for (const rule of this.slots.rules.get(name) ?? []) this.earn(rule, key);
    this.fields = undefined;
  }

  private earn({ rule, cause, limits, takes, gives, loot }: RuleSlot, eventKey: number): void {
    const { economy, scope } = this;
    if (rule.when && rule.when.run(scope) !== true) return;
    for (const one of limits) if (this.isReached(one)) return;
    const ruleKey = keyNext(keyText(eventKey, rule.id));
    const chance = typeof rule.chance === 'number' ? rule.chance : (rule.chance.run(scope) as number);
    if (chance < 1 && !(firstOf(keyEnd(ruleKey)) < chance)) return;
    const taken = takes ?? evaluated(rule.takes, scope);
    const given = gives?.gives ?? evaluated(rule.gives, scope);
    if (!taken || !given) return;
    for (const asset in taken) {
      const slot = this.slots.assetOf.get(asset)!;
      // A rule never takes more than there is.
      const reach = Math.min(taken[asset]!, this.heldOf(slot));
      if (reach > 0) this.give(slot, reach, cause);
    }
    let due: Readonly<Basket> = given;
    if (loot !== undefined) {
      const since = this.crowd.counter(this.player, loot)?.count ?? 0;
      const random = streamOf(keyEnd(keyNext(keyText(ruleKey, 'loot'))));
      // What a table's conditions read knows nothing of the event.
      const { fields } = this;
      this.fields = undefined;
      const rolled = lootRoll(economy, economy.loot.get(rule.loot!)!, scope, random, since);
      this.fields = fields;
      if (rolled.since !== since) this.crowd.counterSet(this.player, loot, { count: rolled.since, startMs: 0 });
      const sum = { ...given };
      for (const asset in rolled.gives) basketAdd(sum, asset, rolled.gives[asset]!);
      due = sum;
    }
    if (gives && due === gives.gives && !gives.hasBundle)
      for (let i = 0; i < gives.arrivals.slots.length; i++)
        this.arrive(gives.arrivals.slots[i]!, gives.arrivals.units[i]!, cause, null);
    else this.receive(due, cause);
    for (const { limit, counter } of limits) this.countOnce(limit, counter);
  }

  // Visits.

  private visitMake(): Visit<Deal, Way, EngineAnswer> {
    const { slots, crowd } = this;
    return {
      offers: [],
      parameters: this.persona.persona.spending,
      holds: (asset) => crowd.units[this.player * crowd.assets + slots.assetOf.get(asset)!]!,
      giving: (item) => {
        const { offers, giving } = this.seen;
        const known = giving.get(item);
        if (known) return known;
        const found = offers.filter(({ offer }) => offer.gives.some(({ asset }) => asset === item));
        giving.set(item, found);
        return found;
      },
      ways: ({ ways }) => ways,
      check: (deal, way) => {
        const terms = this.terms(deal, way);
        return this.answer(deal, way, terms, this.allows(deal, terms));
      },
      allowed: (deal, way) => this.allowed(deal, way),
      inReach: (deal) => {
        const { ways } = deal;
        for (let i = 0; i < ways.length; i++) if (!this.isTooDear(deal, ways[i]!)) return true;
        return false;
      },
      firstAllowed: (deal) => {
        const { ways } = deal;
        for (let i = 0; i < ways.length; i++) {
          const answer = this.allowed(deal, ways[i]!);
          if (answer) return { offer: deal, way: ways[i]!, answer };
        }
        return undefined;
      },
      buy: ({ deal, terms }) => {
        this.buy(deal, terms as Terms);
        return true;
      },
      refused: (answer) => this.refused(answer),
      luck: ({ offer }) => firstOf(keyEnd(keyNext(keyText(this.visitLuck, offer.id)))),
      incomePerDay: (asset) =>
        crowd.earned[this.player * crowd.assets + slots.assetOf.get(asset)!]! / (this.todayIs + 1),
    };
  }

  private shop({ player, day, number, nowMs }: Session): void {
    const { crowd, copy, own, visit } = this;
    this.fields = undefined;
    const luck = keyNext(keyText(crowd.luck[player]!, 'visit'));
    this.visitLuck = keyNext(keyDigits(keyNext(keyDigits(luck, day)), number));
    this.serves.fill(0);
    this.anyRuns = false;
    this.slots.sales.forEach(({ opening }, sale) => {
      const runs = openingIsOpen(opening, nowMs);
      this.runs[sale] = runs ? 1 : 0;
      this.anyRuns ||= runs;
    });
    visit.offers = this.offersSeen(nowMs);
    visit.parameters = this.persona.persona.spending;
    // Looking is not doing: what came back meanwhile is booked with the first purchase.
    copy.units.set(own.units.subarray(own.at, own.at + crowd.assets));
    copy.since.set(own.since.subarray(own.sinceAt, own.sinceAt + this.slots.currencies));
    copy.timed = own.timed;
    this.holder = copy;
    this.settle(nowMs);
    POLICIES[visit.parameters.policy](visit);
    this.holder = own;
  }

  private offersSeen(nowMs: number): readonly Deal[] {
    if (nowMs >= this.seen.startMs && nowMs < this.seen.endMs) return this.seen.offers;
    const { economy, slots } = this;
    let startMs = -Infinity;
    let endMs = Infinity;
    const offers: Deal[] = [];
    for (const { shelf, deals: all } of slots.shelves) {
      const shown = shelfShown(economy, shelf, this.crowd.keys[this.player]!, nowMs);
      endMs = Math.min(endMs, shownUntilMs(shown) ?? Infinity);
      if (shown.kind === 'all') {
        offers.push(...all);
        continue;
      }
      startMs = Math.max(startMs, shown.period.startMs);
      offers.push(...all.filter(({ offer }) => isOnShow(shown, offer.id)));
      // What each player sees is asked each time.
      if (shown.rotation.perPlayer) endMs = -Infinity;
    }
    this.seen = { startMs, endMs, offers, giving: new Map() };
    return offers;
  }

  private shopServes({ shop, offer }: Deal): boolean {
    if (this.serves[shop] === 0) {
      const { hidden, opening, when } = offer.shop;
      const does =
        !hidden && openingIsOpen(opening, this.nowMs) && (when === undefined || when.run(this.scope) === true);
      this.serves[shop] = does ? 1 : 2;
    }
    return this.serves[shop] === 1;
  }

  /** An answer where nothing stands against it and the reserve is spared; what is cheap to ask is asked first. */
  private allowed(deal: Deal, way: Way): EngineAnswer | undefined {
    if (this.isTooDear(deal, way)) return undefined;
    // A price that must be worked out is not, where something else stands against it.
    if (!way.fixed && !this.isOffered(deal)) return undefined;
    const terms = this.terms(deal, way);
    if (!this.allows(deal, terms)) return undefined;
    const answer = this.answer(deal, way, terms, true);
    return answer.spares ? answer : undefined;
  }

  /** Whether it can be bought at all, whatever it costs. */
  private isOffered(deal: Deal): boolean {
    const { offer, limits } = deal;
    for (let i = 0; i < limits.length; i++) if (this.isReached(limits[i]!)) return false;
    return this.shopServes(deal) && (offer.when === undefined || offer.when.run(this.scope) === true);
  }

  /** What one time costs and gives now, or why that cannot be worked out. */
  private terms({ offer, sales }: Deal, { fixed, choice, reduced }: Way): Terms | Untold {
    let running = 0;
    if (this.anyRuns) for (let i = 0; i < sales.length; i++) if (this.runs[sales[i]!] === 1) running |= 1 << i;
    if (fixed && running === 0) return fixed;
    // While the same sales run for everybody, everybody is told the same.
    if (!reduced) return this.quoted(offer, choice);
    const known = reduced.get(running);
    if (known) return known;
    const terms = this.quoted(offer, choice);
    reduced.set(running, terms);
    return terms;
  }

  /** No sale lowers it, and its price is more than is held: known without working anything out. */
  private isTooDear(deal: Deal, { least }: Way): boolean {
    return (
      least !== undefined &&
      this.holder.units[this.holder.at + least.slot]! < least.units &&
      !(this.anyRuns && this.isLowered(deal))
    );
  }

  private isLowered({ sales }: Deal): boolean {
    for (let i = 0; i < sales.length; i++) if (this.runs[sales[i]!] === 1) return true;
    return false;
  }

  private quoted(offer: Offer, choice: PriceChoice): Terms | Untold {
    const { economy, slots } = this;
    const result = quoteMake(economy, offer, choice, 1, this.scope, this.nowMs);
    return result.ok ? termsOf(slots.assetOf, economy, result.quote.total, result.quote.gives) : result.why;
  }

  /**
   * Whether nothing stands against a purchase; what most often does is asked first. With `codes`, all that does is
   * written there, as the live check tells it.
   */
  private allows(deal: Deal, terms: Terms | Untold, codes?: ReasonCode[]): boolean {
    const { offer } = deal;
    let allowed = true;
    /** True where nobody wants to know more. */
    const stops = (code: ReasonCode): boolean => {
      allowed = false;
      codes?.push(code);
      return codes === undefined;
    };
    if (typeof terms === 'string') {
      if (stops(terms)) return false;
    } else if (!this.holdsAll(terms.cost) || !this.hasRoom(terms)) {
      if (codes === undefined) return false;
      allowed = false;
      this.amountCodes(terms, codes);
    }
    for (const one of deal.limits) if (this.isReached(one) && stops('limit-reached')) return false;
    const isOffered = !offer.hidden && !offer.shelf.hidden && openingIsOpen(offer.opening, this.nowMs);
    if (!isOffered && stops('not-on-show')) return false;
    const stock = this.stockOf(deal);
    if (stock && stock.units < 1 && stops('out-of-stock')) return false;
    if (codes === undefined) {
      if (!this.shopServes(deal)) return false;
    } else {
      const { hidden, opening, when } = offer.shop;
      if (hidden || !openingIsOpen(opening, this.nowMs)) stops('shop-closed');
      if (when && when.run(this.scope) !== true) stops('not-for-this-player');
    }
    if (offer.when && offer.when.run(this.scope) !== true) stops('requirement-unmet');
    return allowed;
  }

  /** What would be held of something that arrives. */
  private heldAfter(slot: number, arriving: number, cost: Amounts): number {
    const paid = cost.slots.indexOf(slot);
    return this.heldOf(slot) - (paid < 0 ? 0 : cost.units[paid]!) + arriving;
  }

  private hasRoom({ cost, arrivals }: Terms): boolean {
    for (let i = 0; i < arrivals.slots.length; i++) {
      const { most, bounded } = this.slots.assets[arrivals.slots[i]!]!;
      const after = this.heldAfter(arrivals.slots[i]!, arrivals.units[i]!, cost);
      if (after > MAX_UNITS || (bounded && after > most)) return false;
    }
    return true;
  }

  /** What of the amounts stands against it: one reason for each asset. */
  private amountCodes({ cost, arrivals }: Terms, codes: ReasonCode[]): void {
    cost.slots.forEach((slot, i) => {
      if (this.heldOf(slot) < cost.units[i]!) codes.push('short-of');
    });
    let isTooLarge = false;
    arrivals.slots.forEach((slot, i) => {
      const { most, bounded, item } = this.slots.assets[slot]!;
      const after = this.heldAfter(slot, arrivals.units[i]!, cost);
      isTooLarge ||= after > MAX_UNITS;
      if (bounded && after > most) codes.push(item ? 'carry-full' : 'over-cap');
    });
    if (isTooLarge) codes.push('too-large');
  }

  /** What is left of an offer, restocked up to now; undefined where it never runs out. */
  private stockOf({ offer: { stock }, ownStock, sharedStock }: Deal): Level | undefined {
    if (!stock) return undefined;
    const written = ownStock === undefined ? this.sharedStock[sharedStock!] : this.crowd.stock(this.player, ownStock);
    const level = written ?? { units: stock.units, sinceMs: null };
    return stock.restock ? levelSettle(level, stock.restock, this.nowMs) : level;
  }

  private answer(deal: Deal, way: Way, terms: Terms | Untold, allowed: boolean): EngineAnswer {
    if (typeof terms === 'string') return { deal, way, terms, allowed, share: 0, spares: true, total: undefined };
    const { total, cost, arrivals } = terms;
    const { keeps } = this.persona;
    let share = 0;
    let spares = true;
    for (let i = 0; i < cost.slots.length; i++) {
      const slot = cost.slots[i]!;
      const held = this.heldOf(slot);
      const arriving = arrivals.slots.indexOf(slot);
      share = Math.max(share, priceShare(cost.units[i]!, held));
      spares &&= held - cost.units[i]! + (arriving < 0 ? 0 : arrivals.units[arriving]!) >= keeps[slot]!;
    }
    return { deal, way, terms, allowed, share, spares, total };
  }

  private buy(deal: Deal, { total, gives, cost, arrivals, hasBundle }: Terms): void {
    const { slots, crowd, player, nowMs } = this;
    const { offer } = deal;
    if (this.holder.isCopy) {
      this.holder = this.own;
      this.settle(nowMs);
    }
    const cause = slots.causeOf.get(`purchase:${offer.id}`)!;
    this.pay(cost, cause);
    const stock = this.stockOf(deal);
    if (stock) {
      const left = levelChange(stock, -1, offer.stock!.restock, nowMs);
      if (deal.ownStock === undefined) this.sharedStock[deal.sharedStock!] = left;
      else crowd.stockSet(player, deal.ownStock, left);
    }
    if (hasBundle) this.unpack(gives, cause);
    for (let i = 0; i < arrivals.slots.length; i++) {
      const slot = arrivals.slots[i]!;
      // Stacks are told apart by what was paid; all others are one number.
      const paid = slots.assets[slot]!.timed ? paidForEach(total, gives) : null;
      this.arrive(slot, arrivals.units[i]!, cause, paid);
    }
    for (const { limit, counter } of deal.limits) this.countOnce(limit, counter);
    if (!deal.limits.some(({ counter }) => counter === deal.lifetime)) this.countOnce(LIFETIME, deal.lifetime);
    this.recorder.bought(player, this.todayIs, offer.id);
    // What the player holds has changed, and shops may ask for it.
    this.serves.fill(0);
  }

  /** What is wanted and refused counts once a day. */
  private refused({ deal, terms }: EngineAnswer): void {
    const at = this.player * this.slots.deals.length + deal.slot;
    if (this.crowd.refusedDay[at] === this.todayIs) return;
    this.crowd.refusedDay[at] = this.todayIs;
    const codes: ReasonCode[] = [];
    this.allows(deal, terms, codes);
    this.recorder.refused(deal.offer.id, codes);
  }

  private nightfall(player: number, day: number, endMs: number): void {
    const { crowd } = this;
    this.recorder.totals.playerDays++;
    this.enter(player);
    this.settle(endMs - 1);
    const { leaves } = this.persona.persona;
    if (
      leaves > 0 &&
      firstOf(keyEnd(keyNext(keyDigits(keyNext(keyText(crowd.luck[player]!, 'leaves')), day)))) < leaves
    )
      crowd.lastDay[player] = day;
  }

  // What is told.

  private recordDay(day: number): void {
    const { crowd, slots, recorder, flows } = this;
    const causes = slots.causes.length;
    for (let at = 0; at < flows.length; at++) {
      if (flows[at] === 0) continue;
      const row = Math.floor(at / causes);
      const currency = (row >> 1) % slots.currencies;
      const persona = Math.floor((row >> 1) / slots.currencies);
      recorder.flow(persona, currency, row % 2 === 0 ? 'in' : 'out', slots.causes[at % causes]!, flows[at]!);
    }
    flows.fill(0);
    const held = this.personas.map(() => Array.from({ length: slots.currencies }, () => [] as number[]));
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0)
        for (let currency = 0; currency < slots.currencies; currency++)
          held[crowd.persona[player]!]![currency]!.push(crowd.units[player * crowd.assets + currency]!);
    recorder.dayEnds(day, held);
  }

  result(): SimulationResult {
    const { crowd, slots, recorder } = this;
    const players = Array.from({ length: crowd.players }, (_, player) => player);
    for (const player of players)
      for (let slot = slots.currencies; slot < crowd.assets; slot++) {
        const day = crowd.firstDay[player * crowd.assets + slot]!;
        if (day >= 0) recorder.owns(player, slots.assets[slot]!.id, day);
      }
    return recorder.result(
      players.map((player) => ({
        persona: crowd.persona[player]!,
        lastDay: crowd.lastDay[player]!,
        balances: Array.from(
          { length: slots.currencies },
          (_, currency) => crowd.units[player * crowd.assets + currency]!,
        ),
      })),
    );
  }
}

function evaluated(quantities: Parameters<typeof quantitiesEvaluate>[0], scope: Scope): Basket | undefined {
  const result = quantitiesEvaluate(quantities, scope);
  return result.ok ? result.basket : undefined;
}

/** What each unit cost, rounded down, where one kind of thing was bought: stacks are told apart by it. */
function paidForEach(total: Readonly<Basket>, gives: Readonly<Basket>): Basket | null {
  const [asset, ...others] = Object.keys(gives);
  if (asset === undefined || others.length > 0 || gives[asset]! < 1) return null;
  return Object.fromEntries(Object.keys(total).map((paid) => [paid, Math.floor(total[paid]! / gives[asset]!)]));
}

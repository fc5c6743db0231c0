/** Goals and levels over columns: what `core/progress` does for the player who acts, in the same order. */
import { MAX_UNITS, basketAdd } from '../../amount/index.js';
import { countRound } from '../../economy/index.js';
import type { Goal, LootTable, Track } from '../../economy/index.js';
import type { Value } from '../../formula/index.js';
import { lootRoll } from '../../loot/index.js';
import { countProblem, rewardLuck, trackAt } from '../../progress/index.js';
import { streamOf } from '../../random/index.js';
import type { Key } from '../../random/index.js';
import { ruleFailed } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import type { Crowd } from './crowd.js';
import type { CountedLimit, Gift, GoalSlot, Slots, TrackSlot } from './slots.js';
import type { Came, State } from './state.js';

interface BoundGoal {
  index: number;
  goal: Goal;
  slot: GoalSlot;
  counted: CountedLimit;
  reached: CountedLimit;
  /** Slots of the things that are counted, of those that anybody comes by. */
  items: readonly number[];
  distinct: boolean;
  /** The attribute that is looked at. */
  attribute: (() => Value) | undefined;
  /** Attributes that it sets, and to what. */
  sets: readonly number[];
  values: readonly Value[];
  loot: LootTable | undefined;
  /** Goals that look at what there is and begin with this one. */
  followers: BoundGoal[];
  /** What the deed adds to it; NaN where it is looked at. */
  adds: number;
  isTouched: boolean;
}

/** A goal that counts an event, with its formulas over the fields of that event. */
export interface EventGoal {
  goal: BoundGoal;
  when: (() => Value) | undefined;
  by: number | (() => Value);
  fields: readonly string[];
}

interface BoundTrack {
  slot: TrackSlot;
  track: Track;
  currency: number;
  attribute: number;
  sets: readonly number[];
  /** A level that costs nothing is reached with any deed. */
  hasFreeLevels: boolean;
}

/** A deed: what it brought, and the attributes that it set. */
interface Deed extends Came {
  set: readonly number[];
}

const NONE: readonly number[] = [];

export class Progress {
  /** Whether there is anything to count at all. */
  readonly isAny: boolean;
  private readonly goals: readonly BoundGoal[];
  private readonly byDeal: readonly (readonly BoundGoal[])[];
  private readonly byEarned: readonly (readonly BoundGoal[])[];
  private readonly bySpent: readonly (readonly BoundGoal[])[];
  private readonly byItem: readonly (readonly BoundGoal[])[];
  private readonly byAttribute: readonly (readonly BoundGoal[])[];
  /** All that look at what there is. */
  private readonly looking: readonly BoundGoal[];
  private readonly tracks: readonly BoundTrack[];
  // These lists keep their places from one deed to the next: emptying them would take longer than what is in them.
  private readonly touched: BoundGoal[] = [];
  private touchedCount = 0;
  private readonly open: BoundGoal[] = [];
  /** The deed at hand, and those that followed from it: their rewards. */
  private readonly deeds: Deed[] = [];
  private deedsCount = 0;
  /** What the reward of a goal draws by. */
  private luck: Key = { high: 0, low: 0 };

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
    private readonly crowd: Crowd,
    private readonly state: State,
  ) {
    const { attributes, assetOf, dealOf } = slots;
    const { loot } = setup.economy;
    this.isAny = slots.goals.length > 0 || slots.tracks.length > 0;
    this.goals = slots.goals.map((slot, index): BoundGoal => {
      const { goal } = slot;
      const { counts } = goal;
      return {
        index,
        goal,
        slot,
        counted: slot.counted,
        reached: slot.reached,
        items: counts.kind === 'owned' ? [...counts.items].flatMap((id) => assetOf.get(id) ?? []) : [],
        distinct: counts.kind === 'owned' && counts.distinct,
        attribute: counts.kind === 'attribute' ? () => state.scope.name(counts.attribute) : undefined,
        sets: [...goal.sets.keys()].map((name) => attributes.indexOf(name)),
        values: [...goal.sets.values()],
        loot: goal.loot === undefined ? undefined : loot.get(goal.loot),
        followers: [],
        adds: 0,
        isTouched: false,
      };
    });
    this.looking = this.goals.filter(({ goal: { counts } }) => counts.kind === 'owned' || counts.kind === 'attribute');
    for (const one of this.looking) this.goals.find(({ goal }) => goal.id === one.goal.after)?.followers.push(one);
    const watching = (count: number, of: (goal: BoundGoal) => readonly number[]): BoundGoal[][] => {
      const lists = Array.from({ length: count }, (): BoundGoal[] => []);
      for (const goal of this.goals) for (const place of of(goal)) lists[place]!.push(goal);
      return lists;
    };
    const money =
      (kind: 'earned' | 'spent') =>
      ({ goal: { counts } }: BoundGoal): number[] =>
        counts.kind === kind ? [assetOf.get(counts.currency)!] : [];
    this.byDeal = watching(slots.deals.length, ({ goal: { counts } }) =>
      counts.kind === 'purchases' ? [...counts.offers].flatMap((id) => dealOf.get(id) ?? []) : [],
    );
    this.byEarned = watching(slots.currencies, money('earned'));
    this.bySpent = watching(slots.currencies, money('spent'));
    this.byItem = watching(slots.assets.length, ({ items }) => items);
    this.byAttribute = watching(attributes.length, ({ goal: { counts } }) =>
      counts.kind === 'attribute' ? [attributes.indexOf(counts.attribute)].filter((place) => place >= 0) : [],
    );
    this.tracks = slots.tracks.map((slot) => ({
      slot,
      track: slot.track,
      currency: assetOf.get(slot.track.currency)!,
      attribute: attributes.indexOf(slot.track.attribute),
      sets: [attributes.indexOf(slot.track.attribute)],
      hasFreeLevels: slot.track.levels.some(({ costs }) => costs === 0),
    }));
  }

  /** Goals that count an event of this kind. */
  eventGoals(event: string, fields: readonly string[]): EventGoal[] {
    const { state } = this;
    return this.goals.flatMap((goal): EventGoal[] => {
      const { counts } = goal.goal;
      if (counts.kind !== 'events' || counts.event !== event) return [];
      const by = typeof counts.by === 'number' ? counts.by : state.bound(counts.by, fields);
      return [{ goal, when: counts.when && state.bound(counts.when, fields), by, fields }];
    });
  }

  /** From now on what comes is taken down. `earns`: money that comes is earned. */
  begin(earns: boolean): void {
    this.state.deed = this.deedNew(earns);
  }

  /** The rules have paid for an event. */
  eventDone(goals: readonly EventGoal[], luck: Key): void {
    this.state.deed = undefined;
    for (const one of goals) {
      if (one.when && one.when() !== true) continue;
      const value = typeof one.by === 'number' ? one.by : (one.by() as number);
      const count = typeof one.by === 'number' ? value : countRound(value);
      if (count === undefined) throw this.failed(one, value);
      this.touch(one.goal, count);
    }
    this.make(luck);
  }

  /** Something was bought, for amounts of these slots. */
  bought(deal: number, slots: readonly number[], units: readonly number[]): void {
    const { state, crowd } = this;
    state.deed = undefined;
    for (const goal of this.byDeal[deal]!) this.touch(goal, 1);
    for (let i = 0; i < slots.length; i++)
      if (slots[i]! < this.slots.currencies && units[i]! > 0)
        for (const goal of this.bySpent[slots[i]!]!) this.touch(goal, units[i]!);
    this.make({ high: crowd.luckHigh[state.player]!, low: crowd.luckLow[state.player]! });
  }

  private deedNew(earns: boolean): Deed {
    let deed = this.deeds[this.deedsCount];
    if (!deed) {
      deed = { earns, earned: new Float64Array(this.slots.currencies), items: [], itemCount: 0, set: NONE };
      this.deeds.push(deed);
    }
    this.deedsCount++;
    deed.earns = earns;
    for (let currency = 0; currency < deed.earned.length; currency++) deed.earned[currency] = 0;
    deed.itemCount = 0;
    deed.set = NONE;
    return deed;
  }

  private touch(goal: BoundGoal, adds: number): void {
    goal.adds = adds;
    if (goal.isTouched) return;
    goal.isTouched = true;
    this.touched[this.touchedCount++] = goal;
  }

  private make(luck: Key): void {
    this.luck = luck;
    for (let deed = 0; deed < this.deedsCount; deed++) this.count(this.deeds[deed]!, deed === 0);
    this.deedsCount = 0;
  }

  private count({ earned, items, itemCount, set }: Deed, isFirst: boolean): void {
    for (let currency = 0; currency < earned.length; currency++)
      if (earned[currency]! > 0) this.touchAll(this.byEarned[currency]!, earned[currency]!);
    for (let i = 0; i < itemCount; i++) this.touchAll(this.byItem[items[i]!]!, NaN);
    for (let i = 0; i < set.length; i++) this.touchAll(this.byAttribute[set[i]!]!, NaN);
    if (isFirst) this.touchStanding();
    if (this.touchedCount > 0) this.moveTouched();
    for (let i = 0; i < this.tracks.length; i++) {
      const track = this.tracks[i]!;
      if (earned[track.currency]! > 0 || (isFirst && track.hasFreeLevels)) this.climb(track, earned[track.currency]!);
    }
  }

  /** What holds already is reached with the deed, whatever it is. */
  private touchStanding(): void {
    for (let i = 0; i < this.looking.length; i++) {
      const goal = this.looking[i]!;
      if (!goal.isTouched && this.isOpen(goal) && this.stands(goal) >= goal.goal.target) this.touch(goal, NaN);
    }
  }

  private touchAll(goals: readonly BoundGoal[], adds: number): void {
    for (let i = 0; i < goals.length; i++) this.touch(goals[i]!, adds);
  }

  /** Those that are open now, in the order in which they are written. */
  private moveTouched(): void {
    const { touched, open } = this;
    let count = 0;
    let isOrdered = true;
    for (let i = 0; i < this.touchedCount; i++) {
      const goal = touched[i]!;
      goal.isTouched = false;
      if (!this.isOpen(goal)) continue;
      isOrdered &&= count === 0 || open[count - 1]!.index < goal.index;
      open[count++] = goal;
    }
    this.touchedCount = 0;
    const ordered = isOrdered ? open : open.slice(0, count).sort((a, b) => a.index - b.index);
    for (let i = 0; i < count; i++) {
      const goal = ordered[i]!;
      if (Number.isNaN(goal.adds)) this.look(goal);
      else if (goal.adds > 0) this.advance(goal);
    }
  }

  private counter(counter: number): number {
    return this.crowd.countAt(this.state.player, counter);
  }

  private isOpen({ slot: { after }, reached }: BoundGoal): boolean {
    if (after !== undefined && this.crowd.count[this.counter(after)] === 0) return false;
    return this.state.used(reached) === 0;
  }

  private advance(one: BoundGoal): void {
    if (this.state.count(one.counted, one.adds) >= one.goal.target) this.reach(one);
  }

  private look(one: BoundGoal): void {
    if (this.isOpen(one) && this.stands(one) >= one.goal.target) this.reach(one);
  }

  /** How far what there is has come. */
  private stands({ attribute, items, distinct }: BoundGoal): number {
    if (attribute) {
      const value = attribute();
      return typeof value === 'number' ? value : 0;
    }
    let count = 0;
    for (const slot of items) {
      const held = this.state.heldOf(slot);
      count += distinct ? Math.min(1, held) : held;
    }
    return count;
  }

  /** The first day counts. */
  private noteStep(step: number): void {
    const at = this.state.player * this.slots.steps.length + step;
    if (this.crowd.stepDay[at] === 0) this.crowd.stepDay[at] = this.state.todayIs + 1;
  }

  private reach({ index, goal, slot, counted, reached, sets, values, loot, followers }: BoundGoal): void {
    const { state, crowd, slots } = this;
    state.countWith(reached, counted);
    this.noteStep(index);
    const own = state.player * slots.attributes.length;
    for (let i = 0; i < sets.length; i++) crowd.attributes[own + sets[i]!] = values[i]!;
    let { gives } = slot;
    if (loot) {
      const sum = { ...goal.gives };
      const at = this.counter(slot.loot!);
      const luck = rewardLuck(this.luck, slot.key, state.countedFrom(reached));
      const rolled = lootRoll(this.setup.economy, loot, state.scope, streamOf(luck), crowd.count[at]!);
      crowd.count[at] = rolled.since;
      for (const asset in rolled.gives) basketAdd(sum, asset, rolled.gives[asset]!);
      gives = state.giftOf(sum);
    }
    this.pay(gives, slot.cause, sets);
    for (const follower of followers) this.look(follower);
  }

  private climb(bound: BoundTrack, units: number): void {
    const { slot, track, attribute, sets } = bound;
    const { start, levels } = track;
    const { state, crowd, slots } = this;
    const earnedAt = this.counter(slot.earned);
    const levelAt = this.counter(slot.level);
    if (crowd.count[earnedAt] === 0) this.begins(bound);
    const earned = Math.min(MAX_UNITS, crowd.count[earnedAt]! + units);
    crowd.count[earnedAt] = earned;
    // What was never reached is 0, which no level is: the lowest is above where new players begin.
    const passed = crowd.count[levelAt] === 0 ? start : crowd.count[levelAt]!;
    for (let place = 0; place < levels.length; place++) {
      const { level, from } = levels[place]!;
      if (from > earned) break;
      if (level <= passed) continue;
      this.noteStep(slot.firstStep + place);
      crowd.count[levelAt] = level;
      const at = state.player * slots.attributes.length + attribute;
      const now = crowd.attributes[at];
      crowd.attributes[at] = Math.max(level, typeof now === 'number' ? now : start);
      this.pay(slot.gives[place]!, slot.cause, sets);
    }
  }

  /** Where the attribute stands, before anything was earned. */
  private begins({ slot, track, attribute }: BoundTrack): void {
    const { crowd, slots, state } = this;
    const now = crowd.attributes[state.player * slots.attributes.length + attribute]!;
    const { level, earned } = trackAt(track, { attributes: { [track.attribute]: now }, counters: {} });
    crowd.count[this.counter(slot.earned)] = earned;
    if (level > track.start) crowd.count[this.counter(slot.level)] = level;
    this.noteLevels(slot, level);
  }

  private noteLevels({ track: { levels }, firstStep }: TrackSlot, level: number): void {
    for (let place = 0; place < levels.length && levels[place]!.level <= level; place++)
      this.noteStep(firstStep + place);
  }

  /** The player who begins has the levels of their attributes from the first day on. */
  joins(): void {
    const { crowd, slots, state } = this;
    for (const { slot, track, attribute } of this.tracks) {
      const now = crowd.attributes[state.player * slots.attributes.length + attribute]!;
      this.noteLevels(slot, trackAt(track, { attributes: { [track.attribute]: now }, counters: {} }).level);
    }
  }

  /** A reward is a deed of its own, counted when those before it are. */
  private pay(gives: Gift, cause: number, set: readonly number[]): void {
    const { state } = this;
    const deed = this.deedNew(true);
    deed.set = set;
    state.deed = deed;
    state.receive(gives, cause);
    state.deed = undefined;
  }

  /** Says as the live rules do which formula came to no count, and what it read. */
  private failed({ goal: { goal }, fields }: EventGoal, value: number): Error {
    const { state, setup, crowd } = this;
    const { counts } = goal;
    if (counts.kind !== 'events' || typeof counts.by === 'number') throw new Error(`${goal.id} has no formula`);
    const problem = countProblem(counts.by, value, {
      ...state.scope,
      name: (name) => (fields.includes(name) ? state.fields[fields.indexOf(name)]! : state.scope.name(name)),
    });
    const number = crowd.number[state.player]!;
    return ruleFailed(setup, { section: 'goals', id: goal.id }, state.persona, number, state.todayIs, problem);
  }
}

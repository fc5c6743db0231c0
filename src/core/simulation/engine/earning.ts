/** What made-up players do: activities, the events that they emit, and what the rules for these pay. */
import type { Basket, Rounding } from '../../amount/index.js';
import { basketAdd, unitsRound } from '../../amount/index.js';
import { quantitiesEvaluate } from '../../economy/index.js';
import type { Activity, EarningRule, Economy, LootTable, QuantityBasket } from '../../economy/index.js';
import type { Scope, Value } from '../../formula/index.js';
import { lootRoll } from '../../loot/index.js';
import { Luck, keyOfText } from '../../random/index.js';
import type { Key } from '../../random/index.js';
import { drawMake } from '../draw.js';
import { ruleFailed } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import { TOTAL } from '../tally.js';
import type { RunTally } from '../tally.js';
import type { Crowd } from './crowd.js';
import type { Amounts, CountedLimit, RuleSlot, Slots } from './slots.js';
import type { EventGoal, Progress } from './progress.js';
import type { State } from './state.js';

/** An amount that is written, or worked out for the player who acts. */
export interface Quantity {
  slot: number;
  units: number;
  formula: (() => Value) | undefined;
  decimals: number;
  rounding: Rounding;
}

/** The units of an amount now; undefined where its formula comes to none. */
export const quantityNow = ({ units, formula, decimals, rounding }: Quantity): number | undefined =>
  formula ? unitsRound(formula() as number, decimals, rounding) : units;

export const quantitiesBind = (
  slots: Slots,
  state: State,
  quantities: QuantityBasket,
  fields?: readonly string[],
): Quantity[] =>
  quantities.map((one) => {
    const slot = slots.assetOf.get(one.asset)!;
    if (one.kind === 'fixed') return { slot, units: one.units, formula: undefined, decimals: 0, rounding: 'nearest' };
    const { decimals, rounding } = one;
    return { slot, units: 0, formula: state.bound(one.formula, fields), decimals, rounding };
  });

interface BoundRule {
  rule: EarningRule;
  fields: readonly string[];
  key: Key;
  cause: number;
  limits: readonly CountedLimit[];
  when: (() => Value) | undefined;
  chance: number | (() => Value);
  takes: readonly Quantity[];
  gives: readonly Quantity[];
  /** Slots of what it gives, in order. */
  slots: readonly number[];
  /** Something that it gives must be unpacked first. */
  hasBundle: boolean;
  /** It changes more than what it gives: it takes, counts, or draws. */
  changes: boolean;
  loot: { table: LootTable; counter: number } | undefined;
}

interface BoundEvent {
  draws: readonly (() => Value)[];
  /** What its fields are in the turn that is played. */
  fields: Value[];
  rules: readonly BoundRule[];
  goals: readonly EventGoal[];
}

/** An activity, ready to be played. */
export interface Play {
  /** Which of all activities it is. */
  index: number;
  needs: Amounts;
  minutesMs: number;
  cause: number;
  events: readonly BoundEvent[];
}

const LOOT_KEY = keyOfText('loot');
const MINUTE_MS = 60_000;

export class Earning {
  /** Of the turn that is played: what the fields of its events are drawn from. */
  readonly turn = new Luck();
  readonly random = (): number => this.turn.next();
  private readonly economy: Economy;
  private readonly lootLuck = new Luck();
  private readonly lootRandom = (): number => this.lootLuck.next();
  private readonly luck = new Luck();
  private readonly event = new Luck();
  /** What rules have paid of each currency in this turn, less what they took. */
  private readonly pay: Float64Array;

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
    private readonly crowd: Crowd,
    private readonly run: RunTally,
    private readonly state: State,
    private readonly progress: Progress,
  ) {
    this.economy = setup.economy;
    this.pay = new Float64Array(slots.currencies);
  }

  playOf({ id, minutes, emits }: Activity): Play {
    const { slots, state, progress } = this;
    return {
      index: [...slots.activities.keys()].indexOf(id),
      needs: slots.activities.get(id)!.needs,
      minutesMs: Math.round(minutes * MINUTE_MS),
      cause: slots.activities.get(id)!.cause,
      events: emits.map(({ event, fields }) => {
        const names = fields.map(({ field }) => field);
        return {
          fields: names.map(() => 0),
          draws: fields.map(({ draw }) => drawMake(draw, this.random, (formula) => state.bound(formula))),
          rules: (slots.rules.get(event) ?? []).map((rule) => this.ruleOf(rule, names)),
          goals: progress.eventGoals(event, names),
        };
      }),
    };
  }

  private ruleOf({ rule, key, cause, limits, loot }: RuleSlot, fields: readonly string[]): BoundRule {
    const { economy, slots, state } = this;
    return {
      rule,
      fields,
      key,
      cause,
      limits,
      when: rule.when && state.bound(rule.when, fields),
      chance: typeof rule.chance === 'number' ? rule.chance : state.bound(rule.chance, fields),
      takes: quantitiesBind(slots, state, rule.takes, fields),
      gives: quantitiesBind(slots, state, rule.gives, fields),
      slots: rule.gives.map(({ asset }) => slots.assetOf.get(asset)!),
      changes: rule.takes.length > 0 || limits.length > 0 || loot !== undefined,
      hasBundle: rule.gives.some(({ asset }) => economy.items.get(asset)?.kind === 'bundle'),
      loot: loot === undefined ? undefined : { table: economy.loot.get(rule.loot!)!, counter: loot },
    };
  }

  /** Plays once; `events` is the luck of the turn's events. */
  play({ index: activity, needs, cause, events }: Play, luck: Luck, nowMs: number): void {
    const { state, run, progress } = this;
    state.nowMs = nowMs;
    state.pay(needs, cause);
    // All are drawn before any pays: what an event pays does not reach into the ones beside it.
    for (const { draws, fields } of events)
      for (let field = 0; field < draws.length; field++) fields[field] = draws[field]!();
    for (let index = 0; index < events.length; index++) {
      const { fields, rules, goals } = events[index]!;
      state.fields = fields;
      state.settle(nowMs);
      run.totals[TOTAL.events]!++;
      this.event.from(luck).add(index);
      if (progress.isAny) progress.begin(true);
      for (const rule of rules) this.earn(rule);
      if (progress.isAny) progress.eventDone(goals, this.event);
    }
    this.played(activity);
  }

  private played(activity: number): void {
    const { run, slots, state, pay } = this;
    const at = state.persona * slots.activities.size + activity;
    run.plays[at]!++;
    for (let currency = 0; currency < pay.length; currency++) {
      const units = pay[currency]!;
      if (units === 0) continue;
      pay[currency] = 0;
      run.pay[at * pay.length + currency]! += units;
      run.paySquares[at * pay.length + currency]! += units * units;
    }
  }

  private readonly due: number[] = [];
  private readonly taken: number[] = [];

  private earn(rule: BoundRule): void {
    const { state, crowd, due, taken, pay } = this;
    if (rule.when && rule.when() !== true) return;
    for (const limit of rule.limits) if (state.isReached(limit)) return;
    const chance = typeof rule.chance === 'number' ? rule.chance : (rule.chance() as number);
    if (chance < 1 && !(this.luck.from(this.event).addKey(rule.key).number() < chance)) return;
    // All amounts are worked out before any moves. A rule never takes more than there is.
    if (!this.evaluate(rule.takes, taken) || !this.evaluate(rule.gives, due)) throw this.failed(rule);
    for (let i = 0; i < rule.takes.length; i++) taken[i] = Math.min(taken[i]!, state.heldOf(rule.takes[i]!.slot));
    const since = rule.loot ? crowd.count[crowd.countAt(state.player, rule.loot.counter)]! : 0;
    const gift = rule.loot || rule.hasBundle ? state.giftOf(this.withLoot(rule)) : undefined;
    const keptOut =
      rule.changes && state.keepsOut(gift?.arrivals ?? { slots: rule.slots, units: due }, this.taking(rule));
    if (keptOut) {
      // Nothing comes of it, so nothing is taken and nothing counted; that it came and was dropped is told.
      if (rule.loot) crowd.count[crowd.countAt(state.player, rule.loot.counter)] = since;
    } else
      for (let i = 0; i < rule.takes.length; i++) {
        const { slot } = rule.takes[i]!;
        if (taken[i]! <= 0) continue;
        state.give(slot, taken[i]!, rule.cause);
        if (slot < pay.length) pay[slot]! -= taken[i]!;
      }
    if (gift) state.receive(gift, rule.cause, pay);
    else
      for (let i = 0; i < rule.gives.length; i++) {
        const { slot } = rule.gives[i]!;
        const kept = state.arrive(slot, due[i]!, rule.cause);
        if (slot < pay.length) pay[slot]! += kept;
      }
    if (keptOut) return;
    for (const limit of rule.limits) state.count(limit, 1);
  }

  /** What a rule is about to take of a slot. */
  private taking({ takes }: BoundRule): (slot: number) => number {
    return (slot) => {
      const at = takes.findIndex((one) => one.slot === slot);
      return at < 0 ? 0 : this.taken[at]!;
    };
  }

  /** Says as the live rules do which formula came to no amount, and what it read. */
  private failed({ rule, fields }: BoundRule): Error {
    const { state, setup, crowd } = this;
    const scope: Scope = {
      ...state.scope,
      name: (name) => (fields.includes(name) ? state.fields[fields.indexOf(name)]! : state.scope.name(name)),
    };
    const takes = quantitiesEvaluate(rule.takes, scope);
    const wrong = takes.ok ? quantitiesEvaluate(rule.gives, scope) : takes;
    const number = crowd.number[state.player]!;
    return ruleFailed(
      setup,
      { section: 'earning', id: rule.id },
      state.persona,
      number,
      state.todayIs,
      wrong.ok ? '' : wrong.problem.message,
    );
  }

  private evaluate(quantities: readonly Quantity[], into: number[]): boolean {
    for (let i = 0; i < quantities.length; i++) {
      const units = quantityNow(quantities[i]!);
      if (units === undefined) return false;
      into[i] = units;
    }
    return true;
  }

  /** What a rule gives, and what its table does beside it. */
  private withLoot({ gives, loot, key }: BoundRule): Basket {
    const { slots, crowd, state } = this;
    const sum: Basket = {};
    gives.forEach(({ slot }, index) => {
      sum[slots.assets[slot]!.id] = this.due[index]!;
    });
    if (!loot) return sum;
    const at = crowd.countAt(state.player, loot.counter);
    this.lootLuck.from(this.luck.from(this.event).addKey(key).addKey(LOOT_KEY));
    const rolled = lootRoll(this.economy, loot.table, state.scope, this.lootRandom, crowd.count[at]!);
    crowd.count[at] = rolled.since;
    for (const asset in rolled.gives) basketAdd(sum, asset, rolled.gives[asset]!);
    return sum;
  }
}

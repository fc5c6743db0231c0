/** Events tried on a player: what each rule, goal and track would do and why, and what it comes to in an hour. Nothing is kept. */
import { basketAdd } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { isPlayerAccount } from '../ledger/index.js';
import type { Player } from '../player/index.js';
import { playerSettle } from '../player/index.js';
import { progressOf } from '../progress/index.js';
import type { GoalStanding, Progress, TrackStanding } from '../progress/index.js';
import { keyOf } from '../random/index.js';
import { eventApply } from './earn.js';
import type { RuleOutcome, SkipReason } from './earn.js';

/** The same thing so many times. */
export interface TriedEvent {
  name: string;
  fields: Readonly<Record<string, Value>>;
  times: number;
}

/** What a rule did over all events. */
export interface RuleTried {
  rule: string;
  name: string;
  event: string;
  /** How often it paid or took. */
  paid: number;
  given: Basket;
  taken: Basket;
  /** Kept out by a cap or carry, and due but not there. */
  dropped: Basket;
  missed: Basket;
  /** What went to the player's teams instead. */
  shared: Basket;
  /** How often it did nothing, by why; `kept-out` where all was kept out. */
  skipped: Partial<Record<SkipReason | 'kept-out', number>>;
  /** The first formula that failed, and what it read. */
  problem: string | null;
}

export interface Tried {
  events: number;
  /** How long it takes, by the activities that end with these events; null where one of them is of none. */
  minutes: number | null;
  rules: RuleTried[];
  /** Goals reached, levels, and formulas that failed, in order. */
  progress: Progress[];
  /** What the player has more, or less, in smallest units. */
  net: Record<string, number>;
  /** The same for an hour of it. */
  perHour: Record<string, number> | null;
  goals: GoalStanding[];
  tracks: TrackStanding[];
}

const MINUTE_MS = 60_000;
const MINUTES_IN_HOUR = 60;

/**
 * One after the other, each as long after the one before as its activity takes, so that pauses and limits count. The
 * same seed draws the same luck. Linear in the events.
 */
export function eventsTry(
  economy: Economy,
  player: Player,
  list: readonly TriedEvent[],
  startMs: number,
  seed = economy.seed,
): Tried {
  const rules = new Map<string, RuleTried>();
  const progress: Progress[] = [];
  const net: Record<string, number> = {};
  let now = { player, ms: startMs };
  let minutes: number | null = 0;
  let events = 0;
  for (const { name, fields, times } of list) {
    const takes = minutesOf(economy, name);
    minutes = minutes === null || takes === undefined ? null : minutes + takes * times;
    for (let time = 0; time < times; time++) {
      const luck = keyOf(seed, player.id, 'try', events);
      events++;
      now.ms += (takes ?? 0) * MINUTE_MS;
      // What time alone brings is not earned by these.
      const { player: settled } = playerSettle(economy, now.player, now.ms);
      const earned = eventApply(economy, settled, { id: String(events), name, fields }, now.ms, luck);
      for (const { asset, units, from, to } of earned.movements)
        if (isPlayerAccount(to)) net[asset] = (net[asset] ?? 0) + units;
        else if (isPlayerAccount(from)) net[asset] = (net[asset] ?? 0) - units;
      for (const outcome of earned.outcomes) count(rules, economy, name, outcome);
      progress.push(...earned.progress.filter(({ kind }) => kind !== 'nearer' && kind !== 'team-nearer'));
      now = { player: earned.player, ms: now.ms };
    }
  }
  const perHour =
    minutes === null || minutes === 0
      ? null
      : Object.fromEntries(Object.entries(net).map(([asset, units]) => [asset, (units * MINUTES_IN_HOUR) / minutes]));
  return {
    events,
    minutes,
    rules: [...rules.values()],
    progress,
    net,
    perHour,
    ...progressOf(economy, now.player, now.ms),
  };
}

/** The shortest activity that ends with the event. */
function minutesOf({ activities }: Economy, event: string): number | undefined {
  const found = [...activities.values()].filter(({ emits }) => emits.some((one) => one.event === event));
  return found.length === 0 ? undefined : Math.min(...found.map(({ minutes }) => minutes));
}

function count(rules: Map<string, RuleTried>, economy: Economy, event: string, outcome: RuleOutcome): void {
  const sum = rules.get(outcome.rule) ?? {
    rule: outcome.rule,
    name: economy.earning.get(outcome.rule)!.name,
    event,
    paid: 0,
    given: {},
    taken: {},
    dropped: {},
    missed: {},
    shared: {},
    skipped: {},
    problem: null,
  };
  rules.set(outcome.rule, sum);
  if (outcome.paid) sum.paid++;
  else {
    sum.skipped[outcome.why] = (sum.skipped[outcome.why] ?? 0) + 1;
    if ('problem' in outcome) sum.problem ??= outcome.problem ?? null;
  }
  for (const part of ['given', 'taken', 'dropped', 'missed'] as const)
    if (part in outcome) addAll(sum[part], (outcome as Partial<Record<typeof part, Basket>>)[part]!);
  if (outcome.paid) for (const basket of Object.values(outcome.shared ?? {})) addAll(sum.shared, basket);
}

function addAll(into: Basket, basket: Basket): void {
  for (const asset in basket) basketAdd(into, asset, basket[asset]!);
}

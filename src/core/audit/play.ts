/** What activities pay a minute, to find ways of playing that pay too well. */
import { quantitiesEvaluate } from '../economy/index.js';
import type { Activity, EarningRule, Economy } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { lootOdds } from '../loot/index.js';
import { playerCreate, playerScope } from '../player/index.js';
import { randomStream } from '../random/index.js';
import { drawValue } from '../simulation/index.js';

export interface PlayPay {
  /** Smallest units a minute, by activity. */
  activities: { id: string; name: string; perMinute: Record<string, number> }[];
  /** The mean over what personas play, by how much they play it. */
  intended: Record<string, number>;
}

/** How many times each activity is tried; the streams are keyed, so the answer is always the same. */
const TRIES = 500;

/** For a new player, by rules that can be repeated without end: those with a limit or a cooldown cannot loop. */
export function playPay(economy: Economy): PlayPay {
  const { player } = playerCreate(economy, 'new_player', 'New player', 0);
  const scope = playerScope(economy, player, 0);
  const activities = [...economy.activities.values()].map((activity) => ({
    id: activity.id,
    name: activity.name,
    perMinute: activityPay(economy, activity, scope),
  }));
  const weights = new Map<string, number>();
  for (const { plays } of economy.personas.values()) {
    const total = plays.reduce((sum, { weight }) => sum + weight, 0);
    for (const { activity, weight } of plays)
      if (total > 0) weights.set(activity.id, (weights.get(activity.id) ?? 0) + weight / total);
  }
  const intended: Record<string, number> = {};
  const all = [...weights.values()].reduce((sum, weight) => sum + weight, 0);
  for (const { id, perMinute } of activities)
    for (const asset in perMinute)
      intended[asset] = (intended[asset] ?? 0) + (perMinute[asset]! * (weights.get(id) ?? 0)) / all;
  return { activities, intended };
}

function activityPay(economy: Economy, activity: Activity, scope: Scope): Record<string, number> {
  const emits = activity.emits.map(({ event, fields }) => ({
    rules: (economy.earningByEvent.get(event) ?? []).filter(
      ({ limits, cooldownMs }) => limits.length === 0 && cooldownMs === undefined,
    ),
    fields,
  }));
  const random = randomStream(economy.seed, 'audit', activity.id);
  const total: Record<string, number> = {};
  for (let n = 0; n < TRIES; n++)
    for (const { rules, fields } of emits) {
      const values = new Map<string, Value>(fields.map(({ field, draw }) => [field, drawValue(draw, random, scope)]));
      const event: Scope = { ...scope, name: (name) => values.get(name) ?? scope.name(name) };
      for (const rule of rules) rulePay(economy, rule, event, total);
    }
  return Object.fromEntries(Object.entries(total).map(([asset, units]) => [asset, units / TRIES / activity.minutes]));
}

function rulePay(economy: Economy, rule: EarningRule, scope: Scope, total: Record<string, number>): void {
  if (rule.when && rule.when.run(scope) !== true) return;
  const chance = Math.min(1, typeof rule.chance === 'number' ? rule.chance : (rule.chance.run(scope) as number));
  const add = (asset: string, units: number) => {
    total[asset] = (total[asset] ?? 0) + chance * units;
  };
  const gives = quantitiesEvaluate(rule.gives, scope);
  const takes = quantitiesEvaluate(rule.takes, scope);
  if (gives.ok) for (const asset in gives.basket) add(asset, gives.basket[asset]!);
  if (takes.ok) for (const asset in takes.basket) add(asset, -takes.basket[asset]!);
  if (rule.loot !== undefined)
    for (const { asset, longRunExpected } of lootOdds(economy, economy.loot.get(rule.loot)!, scope).assets)
      add(asset, longRunExpected);
}

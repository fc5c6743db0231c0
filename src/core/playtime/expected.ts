/** What a session of a persona comes to on average, where nothing that players do or have changes what play pays. */
import type { Activity, EarningRule, Economy, Persona } from '../economy/index.js';
import type { Formula } from '../formula/index.js';
import { activityPay, payScope } from '../simulation/index.js';

export interface SessionExpected {
  /** How often each activity is played, in the order of the persona's. */
  plays: number[];
  /** Smallest units of what a session is sure to pay on average. */
  pay: Record<string, number>;
  /** Whether play pays nothing else. */
  isAll: boolean;
}

const MINUTE_MS = 60_000;
const DAY_MINUTES = 24 * 60;
/** As many instants of a session are looked at. */
const MOST_STEPS = 50_000;

/**
 * Undefined where play depends on what is held (an activity has an entry fee), or a day is too short for it. `pay` holds the currencies alone that
 * are paid without limit, pause, luck of a table, goal or level, by rules that read nothing but the event.
 */
export function sessionExpected(economy: Economy, persona: Persona): SessionExpected | undefined {
  const played = persona.plays.filter(({ weight }) => weight > 0);
  if (played.some(({ activity: { needs } }) => Object.keys(needs).length > 0)) return undefined;
  // More than a day holds would be put off from day to day.
  const longest = persona.sessions.minutes + Math.max(0, ...played.map(({ activity }) => activity.minutes));
  if (Math.max(...persona.sessions.perDay) * longest > DAY_MINUTES) return undefined;
  const count = playsExpected(
    played.map(({ activity, weight }) => ({ ms: Math.round(activity.minutes * MINUTE_MS), weight })),
    Math.round(persona.sessions.minutes * MINUTE_MS),
  );
  if (count === undefined) return undefined;
  const total = played.reduce((sum, { weight }) => sum + weight, 0);
  const plays = persona.plays.map(({ weight }) => (weight > 0 ? (count * weight) / total : 0));
  const { unsure, paid } = unsureAssets(economy, played);
  const scope = payScope(economy);
  const pay: Record<string, number> = {};
  persona.plays.forEach(({ activity }, place) => {
    if (plays[place] === 0) return;
    for (const [asset, { mean }] of Object.entries(activityPay(economy, activity, scope).perMinute))
      if (!unsure.has(asset)) pay[asset] = (pay[asset] ?? 0) + plays[place]! * activity.minutes * mean;
  });
  return { plays, pay, isAll: !paid.some((asset) => unsure.has(asset)) };
}

/**
 * How many plays begin in a session, on average: one after the other is drawn by weight until the time is used up, and
 * the last is played to its end (the renewal function of Feller 1971, XI.1, step by step). Undefined where times have
 * too many different parts.
 */
function playsExpected(plays: readonly { ms: number; weight: number }[], sessionMs: number): number | undefined {
  const total = plays.reduce((sum, { weight }) => sum + weight, 0);
  if (total === 0 || plays.some(({ ms }) => ms <= 0)) return total === 0 ? 0 : undefined;
  const step = plays.reduce((one, { ms }) => greatestDivisor(one, ms), sessionMs);
  const steps = sessionMs / step;
  if (steps > MOST_STEPS) return undefined;
  const left = new Float64Array(steps + 1);
  for (let at = 1; at <= steps; at++) {
    left[at] = 1;
    for (const { ms, weight } of plays) left[at]! += (weight / total) * left[Math.max(0, at - ms / step)]!;
  }
  return left[steps];
}

const greatestDivisor = (a: number, b: number): number => (b === 0 ? a : greatestDivisor(b, a % b));

/** What may be paid otherwise than on average of the events alone, items always; and all that is paid. */
function unsureAssets(
  economy: Economy,
  played: readonly { activity: Activity }[],
): { unsure: ReadonlySet<string>; paid: string[] } {
  const unsure = new Set<string>(economy.items.keys());
  const paid: string[] = [];
  const add = (assets: readonly string[]): void => {
    for (const asset of assets) {
      paid.push(asset);
      unsure.add(asset);
      const item = economy.items.get(asset);
      if (item?.kind === 'bundle') add(Object.keys(item.contents));
    }
  };
  for (const { id, refill, ends } of economy.currencies.values()) {
    if (refill || ends) unsure.add(id);
    if (ends?.into !== undefined) add([ends.into]);
  }
  for (const { gives, loot } of economy.goals.values()) add(given(economy, Object.keys(gives), loot));
  for (const { levels } of economy.tracks.values()) for (const { gives } of levels) add(Object.keys(gives));
  for (const { activity } of played)
    for (const { event, fields } of activity.emits) {
      const names = new Set(fields.map(({ field }) => field));
      const isEndless = fields.some(({ draw }) => !COUNTED.has(draw.kind));
      for (const rule of economy.earningByEvent.get(event) ?? []) {
        const assets = rule.gives.map(({ asset }) => asset);
        if (isEndless || !isPlain(rule, names))
          add(given(economy, [...assets, ...rule.takes.map(({ asset }) => asset)], rule.loot));
        else {
          add(assets.filter((asset) => economy.items.has(asset)));
          paid.push(...assets);
        }
      }
    }
  return { unsure, paid };
}

/** Draws that have an end of cases, and read no attribute. */
const COUNTED: ReadonlySet<string> = new Set(['constant', 'range', 'weights', 'chosen']);

const isPlain = (rule: EarningRule, fields: ReadonlySet<string>): boolean => {
  const reads = (formula: Formula | undefined): boolean =>
    formula !== undefined && (formula.references.length > 0 || formula.names.some((name) => !fields.has(name)));
  return (
    rule.limits.length === 0 &&
    rule.cooldownMs === undefined &&
    rule.loot === undefined &&
    rule.takes.length === 0 &&
    !reads(rule.when) &&
    !reads(typeof rule.chance === 'number' ? undefined : rule.chance) &&
    !rule.gives.some((quantity) => quantity.kind === 'formula' && reads(quantity.formula))
  );
};

/** All that can be given, those of a table and of the tables in it included. */
function given(economy: Economy, assets: readonly string[], loot: string | undefined): string[] {
  const all = [...assets];
  const seen = new Set<string>();
  const draw = (id: string | undefined): void => {
    if (id === undefined || seen.has(id)) return;
    seen.add(id);
    for (const { gives, table } of economy.loot.get(id)!.entries) {
      all.push(...gives.map(({ asset }) => asset));
      draw(table);
    }
  };
  draw(loot);
  return all;
}

/** What ways of playing pay a minute against what personas are meant to earn, to find those that pay too well. */
import type { Activity, Economy } from '../economy/index.js';
import { activityPay, activityWays, payScope } from '../simulation/index.js';
import type { PlayWay } from '../simulation/index.js';

export interface PlayPay {
  ways: PlayWay[];
  /** By activity, what it pays as personas choose: smallest units a minute. */
  usual: Record<string, Record<string, number>>;
  /** The mean over what personas play, by how much they play it. */
  intended: Record<string, number>;
  /** Which of the activities that personas play pays the most of an asset. */
  best: Record<string, string>;
}

/** For a new player, by rules that can be repeated without end: those with a limit or a cooldown cannot loop. */
export function playPay(economy: Economy): PlayPay {
  const scope = payScope(economy);
  const activities = [...economy.activities.values()];
  const ways = activities.flatMap((activity) => activityWays(economy, activity, scope));
  /** Where nothing is the player's choice, the one way is the usual one. */
  const usualOf = (activity: Activity): Pick<PlayWay, 'perMinute'> =>
    ways.find(({ activity: id, choices }) => id === activity.id && Object.keys(choices).length === 0) ??
    activityPay(economy, activity, scope);
  const usual = Object.fromEntries(
    activities.map((activity) => [
      activity.id,
      Object.fromEntries(Object.entries(usualOf(activity).perMinute).map(([asset, { mean }]) => [asset, mean])),
    ]),
  );
  const weights = new Map<string, number>();
  for (const { plays } of economy.personas.values()) {
    const total = plays.reduce((sum, { weight }) => sum + weight, 0);
    for (const { activity, weight } of plays)
      if (total > 0) weights.set(activity.id, (weights.get(activity.id) ?? 0) + weight / total);
  }
  const all = [...weights.values()].reduce((sum, weight) => sum + weight, 0);
  const intended: Record<string, number> = {};
  const best: Record<string, string> = {};
  for (const [id, weight] of weights) {
    if (weight === 0) continue;
    for (const asset in usual[id]) {
      intended[asset] = (intended[asset] ?? 0) + (usual[id][asset]! * weight) / all;
      if (best[asset] === undefined || usual[id][asset]! > usual[best[asset]]![asset]!) best[asset] = id;
    }
  }
  return { ways, usual, intended, best };
}

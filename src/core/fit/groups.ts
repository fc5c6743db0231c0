/** Which players are of one kind: by an attribute, or by how they play. docs/method.md. */
import { kmeans } from 'ml-kmeans';
import { randomOnce } from '../random/index.js';
import type { History } from './histories.js';

export interface Grouping {
  /** By player. */
  groupOf: number[];
  /** By group: the value of the attribute, where it is by one. */
  values: (string | undefined)[];
  /** How well groups that were found are apart, from -1 to 1 (Rousseeuw 1987); undefined where none were looked for. */
  apart: number | undefined;
}

/** By the value of an attribute, those with most players first. */
export function groupsByAttribute(players: readonly History[], attribute: string): Grouping {
  const told = players.map(({ attributes }) => String(attributes[attribute] ?? 'not told'));
  const counts = new Map<string, number>();
  for (const value of told) counts.set(value, (counts.get(value) ?? 0) + 1);
  const values = [...counts].sort(([a, m], [b, n]) => n - m || (a < b ? -1 : 1)).map(([value]) => value);
  return { groupOf: told.map((value) => values.indexOf(value)), values, apart: undefined };
}

const MOST_GROUPS = 6;
/** Below this nothing is apart (Kaufman & Rousseeuw 1990, table 4). */
const LEAST_APART = 0.25;
/** Of numbers of groups that are about as well apart the largest tells most. */
const AS_WELL = 0.05;
/** So many players are asked how far they are from the others. */
const ASKED = 400;
/** Beginnings, of which the one with the least error is taken. */
const BEGINNINGS = 5;

/**
 * By k-means over how often they play, how long, what, and how much they buy, each on the scale of its own spread; as many
 * groups as asked for, or as many as are apart from each other best. The most active come first.
 */
export function groupsFound(
  players: readonly History[],
  days: number,
  events: readonly string[],
  wanted: number | undefined,
  seed: number,
): Grouping {
  const one: Grouping = { groupOf: players.map(() => 0), values: [undefined], apart: undefined };
  const points = scaled(players.map((player) => traits(player, days, events)));
  const distinct = new Set(points.map((point) => point.join())).size;
  const counts = wanted === undefined ? range(2, Math.min(MOST_GROUPS, distinct)) : [Math.min(wanted, distinct)];
  if (wanted === 1 || distinct < 2) return one;
  const found = counts.map((count) => {
    const clusters = clustered(points, count, seed);
    return { clusters, apart: silhouette(points, clusters, seed) };
  });
  const most = Math.max(...found.map(({ apart }) => apart));
  const best = found.filter(({ apart }) => apart >= most - AS_WELL).at(-1);
  if (!best || (wanted === undefined && best.apart < LEAST_APART)) return { ...one, apart: best?.apart };
  const activity = new Map<number, { sessions: number; players: number }>();
  best.clusters.forEach((cluster, place) => {
    const sum = activity.get(cluster) ?? { sessions: 0, players: 0 };
    activity.set(cluster, {
      sessions: sum.sessions + players[place]!.sessions.length,
      players: sum.players + 1,
    });
  });
  const order = [...activity]
    .sort(([, a], [, b]) => b.sessions / b.players - a.sessions / a.players)
    .map(([cluster]) => cluster);
  return {
    groupOf: best.clusters.map((cluster) => order.indexOf(cluster)),
    values: order.map(() => undefined),
    apart: best.apart,
  };
}

const range = (from: number, to: number): number[] =>
  Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => from + i);

function traits({ sessions }: History, days: number, events: readonly string[]): number[] {
  const here = days - sessions[0]!.day;
  const told = sessions.flatMap(({ minutes }) => (minutes === undefined ? [] : [minutes]));
  const minutes = told.reduce((sum, one) => sum + one, 0) / Math.max(1, told.length);
  const played = sessions.flatMap((session) => session.events);
  const bought = sessions.reduce((sum, { purchases }) => sum + purchases.length, 0);
  return [
    Math.log(sessions.length / here),
    Math.log1p(minutes),
    Math.log1p(bought / sessions.length),
    ...events.map((event) => played.filter((one) => one.event === event).length / Math.max(1, played.length)),
  ];
}

function scaled(points: readonly number[][]): number[][] {
  const width = points[0]!.length;
  const scales = Array.from({ length: width }, (_, place) => {
    const column = points.map((point) => point[place]!);
    const mean = column.reduce((sum, one) => sum + one, 0) / column.length;
    const deviation = Math.sqrt(column.reduce((sum, one) => sum + (one - mean) ** 2, 0) / column.length);
    return { mean, deviation: deviation || 1 };
  });
  return points.map((point) => point.map((value, place) => (value - scales[place]!.mean) / scales[place]!.deviation));
}

function clustered(points: number[][], count: number, seed: number): number[] {
  const tries = Array.from({ length: BEGINNINGS }, (_, number) => {
    const result = kmeans(points, count, { seed: seed + number });
    const error = points.reduce((sum, point, place) => {
      const centre = result.centroids[result.clusters[place]!]!;
      return sum + point.reduce((all, value, at) => all + (value - centre[at]!) ** 2, 0);
    }, 0);
    return { clusters: result.clusters, error };
  });
  return tries.sort((a, b) => a.error - b.error)[0]!.clusters;
}

/** The mean over players of how much nearer their own group is than the next (Rousseeuw 1987). */
function silhouette(points: readonly number[][], clusters: readonly number[], seed: number): number {
  const places = points
    .map((_, place) => place)
    .sort((a, b) => randomOnce(seed, 'silhouette', a) - randomOnce(seed, 'silhouette', b))
    .slice(0, ASKED);
  const groups = [...new Set(clusters)];
  let sum = 0;
  for (const place of places) {
    const mean = groups.map((group) => {
      const others = places.filter((other) => other !== place && clusters[other] === group);
      if (others.length === 0) return { group, far: undefined };
      const far = others.reduce((all, other) => all + distance(points[place]!, points[other]!), 0) / others.length;
      return { group, far };
    });
    const own = mean.find(({ group }) => group === clusters[place])!.far;
    const next = Math.min(
      ...mean.flatMap(({ group, far }) => (group === clusters[place] || far === undefined ? [] : [far])),
    );
    if (own !== undefined && Number.isFinite(next)) sum += (next - own) / Math.max(own, next, 1e-12);
  }
  return sum / places.length;
}

const distance = (one: readonly number[], other: readonly number[]): number =>
  Math.sqrt(one.reduce((sum, value, place) => sum + (value - other[place]!) ** 2, 0));

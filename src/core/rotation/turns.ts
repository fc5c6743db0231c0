/**
 * A pool that is hardly larger than what is shown while others rest: its offers take turns. They lie in `avoid + 1`
 * lanes of as many as are shown, and some may be spare. In each period the next lane has its turn: of it and of the spare
 * ones so many are drawn, which then are the lane. So an offer rests `avoid` periods at least, whatever is drawn.
 *
 * So that any period can be reached without replaying all before it, time is cut into segments. Each begins with lanes
 * that are drawn for it alone; in the last part of the one before, offers change places until its lanes are those.
 */
import type { Rotation } from '../economy/index.js';
import { keyHash } from '../random/index.js';

export interface Lanes {
  lanes: string[][];
  spare: string[];
}

/** How many periods it takes at most until any lanes have become any others, a multiple of the lanes. */
export const changeLength = ({ show, pool }: Rotation, avoid: number): number =>
  // Each offer is moved out of a lane and into another, each in a round of its own.
  pool.length === show * (avoid + 1) ? 0 : (avoid + 1) * (2 * (avoid + 1) * show + 2);

/** A segment, of which the last `changeLength` periods lead over to the next. */
export const turnsLength = (rule: Rotation, avoid: number): number =>
  4 * Math.max(changeLength(rule, avoid), 8 * (avoid + 1));

/**
 * The lanes with which a segment begins: the heavier an offer, the less often it is spare. Where none can be spare the
 * lanes are the same for ever, since nothing can change places. `kept` are offers by lane that lie there already.
 */
export function lanesDrawn(
  rule: Rotation,
  avoid: number,
  segment: number,
  player: string,
  kept: readonly (readonly string[])[] = [],
): Lanes {
  const count = avoid + 1;
  const places = count * rule.show;
  const when = rule.pool.length === places ? 'always' : segment;
  const total = rule.pool.reduce((sum, { weight }) => sum + weight, 0);
  const drawn = (id: string, what: string): number =>
    (keyHash(rule.seed, [rule.key, what, when, id, player]) + 0.5) / 2 ** 32;
  const lanes = Array.from({ length: count }, (_, lane) => (kept[lane] ?? []).slice(0, rule.show));
  const taken = new Set(lanes.flat());
  // What was on show and has no place in its lane must rest as well: it is spare, if anything can be.
  const rests = new Set(kept.flat());
  const inLanes = rule.pool
    .filter(({ id }) => !taken.has(id))
    .map(({ id, weight }) => {
      const chance = Math.min(1, (places * weight) / total);
      const luck = drawn(id, 'lanes');
      return { id, rank: chance >= 1 ? luck - 1 : ((luck / (1 - luck)) * (1 - chance)) / chance };
    })
    .sort((a, b) => Number(rests.has(a.id)) - Number(rests.has(b.id)) || a.rank - b.rank || (a.id < b.id ? -1 : 1))
    .map(({ id }) => id);
  const room = lanes.reduce((sum, lane) => sum + rule.show - lane.length, 0);
  const dealt = inLanes.slice(0, room).sort((a, b) => drawn(a, 'lane') - drawn(b, 'lane') || (a < b ? -1 : 1));
  for (const lane of lanes) while (lane.length < rule.show && dealt.length > 0) lane.push(dealt.pop()!);
  const placed = new Set(lanes.flat());
  return { lanes, spare: rule.pool.map(({ id }) => id).filter((id) => !placed.has(id)) };
}

/** The lane that has its turn changes places with the spare ones that have rested, one step nearer to other lanes. */
export function laneNearer(
  { lanes, spare }: Lanes,
  turn: number,
  target: Lanes,
  near: ReadonlyMap<string, number>,
): void {
  const lane = lanes[turn]!;
  const wanted = new Set(target.lanes[turn]!);
  for (const [place, id] of lane.entries()) {
    if (wanted.has(id)) continue;
    // What belongs here comes in; else what belongs nowhere makes room for what lies wrong here.
    const comes = spare.findIndex((one) => wanted.has(one) && !near.has(one));
    const from = comes >= 0 ? comes : spare.findIndex((one) => target.spare.includes(one) && !near.has(one));
    if (from < 0) continue;
    lane[place] = spare[from]!;
    spare[from] = id;
  }
}

/** What is on show of a rotating shelf, at an instant or in a period. */
import type { Economy, Rotation, RotationRecord, Shelf } from '../economy/index.js';
import { beatPeriod, beatStart } from '../schedule/index.js';
import type { BeatPeriod } from '../schedule/index.js';
import { RotationDraw } from './draw.js';

export interface Shown {
  period: BeatPeriod;
  /** Ids of the offers on show, in no particular order. */
  offers: readonly string[];
}

/** Draws that were made, by rotation, what is recorded of it, and player. A cache only: it never changes an answer. */
const draws = new WeakMap<Rotation, { record: RotationRecord | undefined; byPlayer: Map<string, RotationDraw> }>();
const MOST_PLAYERS = 2000;

function drawOf(rotation: Rotation, record: RotationRecord | undefined, player: string): RotationDraw {
  let kept = draws.get(rotation);
  if (!kept || kept.record !== record) {
    kept = { record, byPlayer: new Map() };
    draws.set(rotation, kept);
  }
  const who = rotation.perPlayer ? player : '';
  let draw = kept.byPlayer.get(who);
  if (!draw) {
    if (kept.byPlayer.size >= MOST_PLAYERS) kept.byPlayer.clear();
    draw = new RotationDraw(rotation, record, who);
    kept.byPlayer.set(who, draw);
  }
  return draw;
}

/** The rule in force at an instant: an earlier release's until the period in which it was replaced ends. */
export function rotationInForce(rotation: Rotation, record: RotationRecord | undefined, nowMs: number): Rotation {
  return record?.earlier.find(({ untilMs }) => nowMs < untilMs)?.rotation ?? rotation;
}

/** What is on show at an instant for a player; undefined where the shelf does not rotate. */
export function shelfShown(economy: Economy, shelf: Shelf, player: string, nowMs: number): Shown | undefined {
  if (!shelf.rotation) return undefined;
  const record = economy.rotationRecords.get(shelf.rotation.key);
  return rotationShown(shelf.rotation, record, player, nowMs);
}

/** The same for a rotation on its own. */
export function rotationShown(
  rotation: Rotation,
  record: RotationRecord | undefined,
  player: string,
  nowMs: number,
): Shown {
  const rule = rotationInForce(rotation, record, nowMs);
  const period = beatPeriod(rule.beat, nowMs);
  // Where the beat itself changed with a release, the periods of the two have nothing to do with each other.
  const own = rule === rotation || sameBeat(rule, rotation);
  return { period, offers: drawOf(own ? rotation : rule, own ? record : undefined, player).shown(period.index) };
}

const sameBeat = (a: Rotation, b: Rotation): boolean => JSON.stringify(a.beat) === JSON.stringify(b.beat);

/** How many periods ahead is looked for an offer that is not on show. */
const AHEAD = 64;

/** When an offer of a rotating shelf is on show next, epoch ms; null when not within the next periods. */
export function offerShownNextMs(
  economy: Economy,
  shelf: Shelf,
  offer: string,
  player: string,
  nowMs: number,
): number | null {
  const { rotation } = shelf;
  if (!rotation) return null;
  const draw = drawOf(rotation, economy.rotationRecords.get(rotation.key), player);
  const { index } = beatPeriod(rotation.beat, nowMs);
  for (let period = index + 1; period <= index + AHEAD; period++)
    if (draw.shown(period).includes(offer)) return beatStart(rotation.beat, period);
  return null;
}

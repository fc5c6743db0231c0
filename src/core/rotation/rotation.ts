/** What is on show of a shelf, at an instant: what is drawn of its pool, or all of it. */
import type { Economy, Rotation, RotationRecord, Shelf, ShelfRule } from '../economy/index.js';
import { beatPeriod, beatStart } from '../schedule/index.js';
import type { BeatPeriod } from '../schedule/index.js';
import { NO_PAST, RotationDraw } from './draw.js';
import type { Past } from './draw.js';

/** What a shelf has on show, and how long. */
export type OnShow =
  /** All that it holds; until a rotation takes hold, where one is to come. */
  | { kind: 'all'; untilMs: number | null }
  | {
      kind: 'drawn';
      rotation: Rotation;
      /** It begins later than by the beat alone where this rule took hold in its middle. */
      period: BeatPeriod;
      /** Ids of the offers on show, in no particular order. */
      offers: readonly string[];
    };

const ALL: OnShow = { kind: 'all', untilMs: null };
const NO_RECORD: RotationRecord = { periods: [], earlier: [] };

interface Draws {
  past: Past;
  /** Whether anything in it is drawn for each player. */
  perPlayer: boolean;
  byPlayer: Map<string, RotationDraw>;
}

/** Draws that were made, by rotation, what is recorded of it, and which of the rules there it is. A cache only: it never changes an answer. */
const draws = new WeakMap<Rotation, WeakMap<RotationRecord, Map<number, Draws>>>();
const MOST_PLAYERS = 2000;

/** The draw of a rule: the one at `index` of the earlier ones, or the one after them. */
function drawOf(rotation: Rotation, record: RotationRecord, index: number, player: string): RotationDraw {
  const byRecord = known(draws, rotation, () => new WeakMap<RotationRecord, Map<number, Draws>>());
  const byIndex = known(byRecord, record, () => new Map<number, Draws>());
  const { past, perPlayer, byPlayer } = known(byIndex, index, () => {
    const led = pastOf(rotation, record, index);
    const own = rotation.perPlayer || led.earlier.some((one) => one.rotation.perPlayer);
    return { past: led, perPlayer: own, byPlayer: new Map<string, RotationDraw>() };
  });
  const who = perPlayer ? player : '';
  if (byPlayer.size >= MOST_PLAYERS && !byPlayer.has(who)) byPlayer.clear();
  return known(byPlayer, who, () => new RotationDraw(rotation, past, who));
}

interface Keeps<K, V> {
  get(key: K): V | undefined;
  set(key: K, value: V): unknown;
}

function known<K, V>(kept: Keeps<K, V>, key: K, make: () => V): V {
  const found = kept.get(key);
  if (found !== undefined) return found;
  const made = make();
  kept.set(key, made);
  return made;
}

/** Rules of another beat have periods that have nothing to do with these, so only what came after them counts. */
function pastOf(rotation: Rotation, { earlier, periods }: RotationRecord, index: number): Past {
  const before: { untilMs: number; rotation: Rotation }[] = [];
  for (let at = index - 1; at >= 0; at--) {
    const { untilMs, rule } = earlier[at]!;
    if (rule.kind === 'all' || !sameBeat(rule.rotation, rotation)) break;
    before.unshift({ untilMs, rotation: rule.rotation });
  }
  return before.length === 0 && periods.length === 0 ? NO_PAST : { earlier: before, periods };
}

const sameBeat = (a: Rotation, b: Rotation): boolean => JSON.stringify(a.beat) === JSON.stringify(b.beat);

/**
 * What a shelf with this rule has on show to a player: an earlier release's selection until the period in which it was
 * replaced ends.
 */
export function ruleShown(rule: ShelfRule, record: RotationRecord | undefined, player: string, nowMs: number): OnShow {
  const { earlier } = record ?? NO_RECORD;
  const found = earlier.length === 0 ? -1 : earlier.findIndex(({ untilMs }) => nowMs < untilMs);
  const index = found < 0 ? earlier.length : found;
  const inForce = found < 0 ? rule : earlier[index]!.rule;
  if (inForce.kind === 'all') return found < 0 ? ALL : { kind: 'all', untilMs: earlier[index]!.untilMs };
  const { rotation } = inForce;
  const period = beatPeriod(rotation.beat, nowMs);
  const offers = drawOf(rotation, record ?? NO_RECORD, index, player).shown(period.index);
  const sinceMs = index > 0 ? earlier[index - 1]!.untilMs : period.startMs;
  return {
    kind: 'drawn',
    rotation,
    period: sinceMs > period.startMs ? { ...period, startMs: sinceMs } : period,
    offers,
  };
}

/** What a shelf has on show to a player at an instant. */
export function shelfShown(economy: Economy, shelf: Shelf, player: string, nowMs: number): OnShow {
  const record = economy.rotationRecords.get(shelf.key);
  if (shelf.rotation) return ruleShown({ kind: 'drawn', rotation: shelf.rotation }, record, player, nowMs);
  return record ? ruleShown({ kind: 'all' }, record, player, nowMs) : ALL;
}

/** Whether an offer would be on show by the draw alone, whatever was decided for the period. */
export function isDrawn(economy: Economy, shelf: Shelf, offer: string, player: string, nowMs: number): boolean {
  const record = economy.rotationRecords.get(shelf.key);
  if (!shelf.rotation || !record || record.periods.length === 0) return true;
  return isOnShow(
    ruleShown({ kind: 'drawn', rotation: shelf.rotation }, { ...record, periods: [] }, player, nowMs),
    offer,
  );
}

export const isOnShow = (shown: OnShow, offer: string): boolean => shown.kind === 'all' || shown.offers.includes(offer);

/** Until when (exclusive) a shelf shows this; null where nothing is due. */
export const shownUntilMs = (shown: OnShow): number | null =>
  shown.kind === 'all' ? shown.untilMs : shown.period.endMs;

/** How many periods ahead is looked for an offer that is not on show. */
const AHEAD = 64;

/** When an offer that is not on show is so next, epoch ms; null when not within the next periods. */
export function offerShownNextMs(
  economy: Economy,
  shelf: Shelf,
  offer: string,
  player: string,
  nowMs: number,
): number | null {
  const { rotation } = shelf;
  const record = economy.rotationRecords.get(shelf.key) ?? NO_RECORD;
  let atMs = nowMs;
  // The rule of an earlier release ends with the period that it shows.
  for (const { untilMs } of record.earlier) {
    if (untilMs <= nowMs) continue;
    atMs = untilMs;
    if (isOnShow(shelfShown(economy, shelf, player, atMs), offer)) return atMs;
  }
  if (!rotation) return null;
  const draw = drawOf(rotation, record, record.earlier.length, player);
  const { index } = beatPeriod(rotation.beat, atMs);
  for (let period = index + 1; period <= index + AHEAD; period++)
    if (draw.shown(period).includes(offer)) return beatStart(rotation.beat, period);
  return null;
}

/**
 * Which offers of a shelf are on show: a pure function of seed, shelf, period, pool, weights and, where each player has
 * a selection of their own, the player. In each period every offer draws a number of its own, keyed by all of these,
 * and the best are shown: what is not in the pool cannot matter, and an offer that is added takes only the places that
 * it wins.
 *
 * The numbers are ranked as in Pareto sampling (Rosen, "On sampling with probability proportional to size", J. Stat.
 * Plan. Inference 62, 1997), which gives each offer the share of periods that its weight asks for, very nearly.
 *
 * `avoid` needs to know the periods before. So that none has to be replayed from the anchor, time is cut into segments:
 * the first periods of each look at nothing before them, and the last ones of the segment before keep off what these
 * show. Any period costs at most one segment.
 */
import type { PeriodRecord, PoolOffer, Rotation } from '../economy/index.js';
import { keyHash } from '../random/index.js';
import { beatPeriod, beatStart, openingIsOpen } from '../schedule/index.js';
import type { Period } from '../schedule/index.js';
import { changeLength, laneNearer, lanesDrawn, turnsLength } from './turns.js';
import type { Lanes } from './turns.js';

/** What led to a rule and what is decided for single periods. */
export interface Past {
  /** Rules of the same beat that were in force before, each until an instant (exclusive), oldest first, without a break up to this one. */
  earlier: readonly { untilMs: number; rotation: Rotation }[];
  periods: readonly PeriodRecord[];
}

export const NO_PAST: Past = { earlier: [], periods: [] };

/** How many periods a segment has: enough that its ends, where one looks back less, weigh little in the shares. */
const segmentLength = (avoid: number): number => 32 * (avoid + 1);

/** Turns that were taken, after the `before` periods that led to them, and how the offers lie now. */
type Run = Lanes & { before: number; shown: string[][] };

const NOTHING_NEAR: ReadonlyMap<string, number> = new Map();

/** The draw of one player (or of all) for one rotation and what is recorded of it. Keeps what it worked out. */
export class RotationDraw {
  /** Shown offers by period, per segment; a segment is named by where it begins and how long it is. */
  private readonly segments = new Map<string, string[][]>();
  private readonly periods = new Map<number, string[]>();
  private readonly plain = new Map<Rotation, RotationDraw>();
  /** Runs of turns of tight pools, by the period in which they begin. */
  private readonly runs = new Map<number, Run>();

  constructor(
    private readonly rotation: Rotation,
    private readonly past: Past,
    private readonly player: string,
  ) {}

  /** The ids on show in a period. Cost: at most a segment times the pool, the first time. */
  shown(period: number): string[] {
    const rule = this.ruleIn(period);
    const avoid = avoidPossible(rule);
    if (avoid === 0) return this.alone(period, rule);
    if (isTight(rule, avoid)) return this.inTurns(period, rule, avoid);
    const length = segmentLength(avoid);
    const segment = Math.floor(period / length);
    return this.segmentUpTo(segment, length, avoid, period - segment * length)[period - segment * length]!;
  }

  /** A period that depends on no other. */
  private alone(period: number, rule: Rotation): string[] {
    const known = this.periods.get(period) ?? this.pick(period, rule, new Map(), 0);
    if (this.periods.size > 64) this.periods.clear();
    this.periods.set(period, known);
    return known;
  }

  /** A period of a tight pool, whose offers take turns. */
  private inTurns(period: number, rule: Rotation, avoid: number): string[] {
    const begins = this.beginOf(rule);
    const change = changeLength(rule, avoid);
    // Without a spare offer each lane stays as it is, so that nothing has to be replayed.
    if (change === 0) {
      const { lanes } = this.run(rule, avoid, begins);
      return this.pick(period, rule, NOTHING_NEAR, 0, lanes[modulo(period, avoid + 1)]!);
    }
    const length = turnsLength(rule, avoid);
    // A rule that took hold goes on from what was on show before, up to a segment that can be led over to.
    const ends = Math.ceil((begins + change) / length) * length;
    if (period < ends) return this.turnsUpTo(rule, avoid, begins, ends, period);
    const segment = Math.floor(period / length);
    return this.turnsUpTo(rule, avoid, segment * length, (segment + 1) * length, period);
  }

  /** The run of turns that begins in a period: at the beginning of a segment, or where the rule took hold. */
  private run(rule: Rotation, avoid: number, from: number): Run {
    const known = this.runs.get(from);
    if (known) return known;
    const count = avoid + 1;
    const kept: string[][] = Array.from({ length: count }, () => []);
    const before: string[][] = [];
    if (from === this.beginOf(rule) && Number.isFinite(from))
      for (let back = 1; back <= avoid; back++) {
        const shown = this.shown(from - back);
        before.unshift(shown);
        kept[modulo(from - back, count)] = shown.filter((id) => rule.pool.some((one) => one.id === id));
      }
    const segment = Math.floor(from / turnsLength(rule, avoid));
    const run = { before: before.length, shown: before, ...lanesDrawn(rule, avoid, segment, this.whose(rule), kept) };
    if (this.runs.size > 8) this.runs.clear();
    this.runs.set(from, run);
    return run;
  }

  private turnsUpTo(rule: Rotation, avoid: number, from: number, to: number, period: number): string[] {
    const run = this.run(rule, avoid, from);
    const target = lanesDrawn(rule, avoid, to / turnsLength(rule, avoid), this.whose(rule));
    const total = rule.pool.reduce((sum, { weight }) => sum + weight, 0);
    const { shown } = run;
    while (shown.length <= period - from + run.before) {
      const now = from + shown.length - run.before;
      const turn = modulo(now, avoid + 1);
      const near = new Map<string, number>();
      for (let back = Math.min(avoid, shown.length); back >= 1; back--)
        for (const id of shown[shown.length - back]!) near.set(id, back);
      if (now >= to - changeLength(rule, avoid)) laneNearer(run, turn, target, near);
      else {
        const free = rule.pool.filter(({ id }) => run.lanes[turn]!.includes(id) || run.spare.includes(id));
        const ranked = this.ranked(rule, free, total, now, near, avoid);
        run.lanes[turn] = ranked.slice(0, rule.show);
        run.spare = ranked.slice(rule.show);
      }
      shown.push(this.pick(now, rule, near, avoid, run.lanes[turn]!));
    }
    return shown[period - from + run.before]!;
  }

  private whose = ({ perPlayer }: Rotation): string => (perPlayer ? this.player : '');

  /** The first period in which a rule is in force; -Infinity where none was before it. */
  private beginOf(rule: Rotation): number {
    const { earlier } = this.past;
    const at = rule === this.rotation ? earlier.length : earlier.findIndex((one) => one.rotation === rule);
    const before = earlier[at - 1];
    if (!before) return -Infinity;
    const { index, startMs } = beatPeriod(rule.beat, before.untilMs);
    return startMs < before.untilMs ? index + 1 : index;
  }

  /** The rule in force in a period: an earlier release's where it held when the period began. */
  private ruleIn(period: number): Rotation {
    const { rotation, past } = this;
    if (past.earlier.length === 0) return rotation;
    const startMs = beatStart(rotation.beat, period);
    return past.earlier.find(({ untilMs }) => startMs < untilMs)?.rotation ?? rotation;
  }

  /** The draw of a rule with nothing recorded: a pin or a release of the future must not change what is on show now. */
  private plainly(rule: Rotation): RotationDraw {
    if (rule === this.rotation && this.past === NO_PAST) return this;
    const known = this.plain.get(rule) ?? new RotationDraw(rule, NO_PAST, this.player);
    this.plain.set(rule, known);
    return known;
  }

  private segmentUpTo(segment: number, length: number, avoid: number, last: number): string[][] {
    const key = `${segment} ${length}`;
    const shown = this.segments.get(key) ?? [];
    if (!this.segments.has(key)) {
      if (this.segments.size > 8) this.segments.clear();
      this.segments.set(key, shown);
    }
    while (shown.length <= last) {
      const at = shown.length;
      const period = segment * length + at;
      const rule = this.ruleIn(period);
      const own = avoidPossible(rule);
      // What another rule showed, by segments of its own or by none, is what was on show.
      if (own !== avoid || isTight(rule, own)) {
        shown.push(this.shown(period));
        continue;
      }
      // How many periods ago each was on show, or is to be in the segment that follows.
      const near = new Map<string, number>();
      let looked = 0;
      // Before a rule took hold nobody kept off what the next segment shows, so that this one looks back.
      const begins = this.beginOf(rule);
      const looksBack = begins > segment * length - avoid;
      for (let back = looksBack ? avoid : Math.min(avoid, at); back >= 1; back--, looked++)
        for (const id of back <= at ? shown[at - back]! : this.shown(period - back)) near.set(id, back);
      for (let ahead = length - at; ahead <= avoid; ahead++, looked++)
        for (const id of this.plainly(rule).segmentUpTo(segment + 1, length, avoid, at + ahead - length)[
          at + ahead - length
        ]!)
          near.set(id, Math.min(ahead, near.get(id) ?? ahead));
      shown.push(this.pick(period, rule, near, looked));
    }
    return shown;
  }

  /** The best of a period: pinned ones first, then those not shown nearby, then, if there are too few, the least near. */
  private pick(
    period: number,
    rule: Rotation,
    near: ReadonlyMap<string, number>,
    looked: number,
    lane?: readonly string[],
  ): string[] {
    const startMs = beatStart(rule.beat, period);
    const decided = periodRecords(this.past.periods, startMs, () => beatStart(rule.beat, period + 1));
    const [pinned, without] = [decided.flatMap((one) => one.pinned), decided.flatMap((one) => one.without)];
    const open = rule.pool.filter(({ opening }) => openingIsOpen(opening, startMs));
    const first = open.filter(({ id }) => pinned.includes(id)).map(({ id }) => id);
    const pool = open.filter(({ id }) => !first.includes(id) && !without.includes(id));
    const total = open.reduce((sum, { weight }) => sum + weight, 0);
    const ranked = this.ranked(rule, pool, total, period, near, looked);
    // Those whose turn it is come first, as far as they can be shown.
    const turn = lane ? ranked.filter((id) => lane.includes(id)) : [];
    const order = lane ? [...turn, ...ranked.filter((id) => !lane.includes(id))] : ranked;
    return [...first, ...order.slice(0, Math.max(0, rule.show - first.length))];
  }

  private ranked(
    rule: Rotation,
    candidates: readonly PoolOffer[],
    total: number,
    period: number,
    near: ReadonlyMap<string, number>,
    looked: number,
  ): string[] {
    return candidates
      .map(({ id, weight }) => {
        const share = Math.min(1, (rule.show * weight) / total);
        // Of the periods in which it may be shown at all it must take the more, the more it has to keep off.
        const free = 1 - looked * share;
        const chance = free <= share ? 1 : share / free;
        const drawn = (keyHash(rule.seed, [rule.key, period, id, this.whose(rule)]) + 0.5) / 2 ** 32;
        const rank = chance >= 1 ? drawn - 1 : ((drawn / (1 - drawn)) * (1 - chance)) / chance;
        return { id, rank, near: near.get(id) ?? Number.MAX_VALUE };
      })
      .sort((a, b) => b.near - a.near || a.rank - b.rank || (a.id < b.id ? -1 : 1))
      .map(({ id }) => id);
  }
}

/** How many periods the pool lets an offer rest, at most what is asked for. */
export const avoidPossible = ({ avoid, show, pool }: Rotation): number =>
  Math.max(0, Math.min(avoid, Math.floor(pool.length / show) - 1));

const modulo = (value: number, by: number): number => ((value % by) + by) % by;

/** Whether the pool is too small for free draws at the ends of segments: then its offers take turns in lanes. */
const isTight = ({ show, pool }: Rotation, avoid: number): boolean => pool.length < (2 * avoid + 1) * show;

/** What is decided for the period that begins at `startMs`: what has its middle in it. Its end is asked for only where it matters. */
export function periodRecords<R extends Period>(periods: readonly R[], startMs: number, endMs: () => number): R[] {
  if (periods.length === 0) return [];
  const end = endMs();
  return periods.filter((one) => {
    const middle = (one.startMs + one.endMs) / 2;
    return startMs <= middle && middle < end;
  });
}

/**
 * Places in rankings. What a ranking compares is read when it is first asked for, one ranking at a time and in slices, and
 * kept in order in memory: it follows every change that it is told of from then on. Until then each question looks
 * through what is stored. What is stored stays the truth: after an undone write it is read anew. A balance that time
 * changes (a refill, an end) is told as it is at the instant of asking: whose turn it was since is worked out then.
 */
import { setTimeout } from 'node:timers/promises';
import { LRUCache } from 'lru-cache';
import TinyQueue from 'tinyqueue';
import type { Units } from '../../core/amount/index.js';
import type { Currency, Economy } from '../../core/economy/index.js';
import {
  balanceAt,
  balanceSources,
  goalScore,
  orderAdd,
  orderOf,
  orderPlaces,
  orderRemove,
} from '../../core/ranking/index.js';
import type { Contest, Levels, Order, Places, Scored } from '../../core/ranking/index.js';
import type { Level } from '../../core/schedule/index.js';
import { countText } from '../../core/issue/index.js';
import { MOST_HEAP_MB } from '../aside/heap.js';
import { CallerGone, Problem } from '../problem.js';
import { inSlices } from '../slices.js';
import type { RankingStore } from '../store/rankingStore.js';
import type { Change } from './changes.js';

/** Rankings and periods that are kept at once; the one that was asked for longest ago goes. */
const MOST_KEPT = 20;
/** Bytes of memory for each place while all are put in order: 350 were measured, and one that time changes takes more. */
const PLACE_BYTES = 500;
/** Places that are kept in all of them. */
const MOST_PLACES = Math.min(2_000_000, Math.floor((MOST_HEAP_MB * 2 ** 20) / PLACE_BYTES));
const PAGE = 500;
/** For how long a ranking is of interest that somebody has asked for: it is put in order meanwhile for the next who asks. */
const INTEREST_MS = 10_000;

interface Kept {
  contest: Contest;
  scores: Map<string, Units>;
  order: Order;
  isWhole: boolean;
  /** Who changed before all was in order: of them, and of nobody else, `scores` tells then what they have. */
  changed: Set<string>;
  whole: Promise<void>;
  /** False once something was undone: it is read anew. */
  isTrue: boolean;
  /** Of each who has asked before it was whole: whether they still wait, or still take an interest. */
  askers: Set<() => boolean>;
  /** Where time changes what is compared. */
  moving: Moving | undefined;
}

interface Due {
  who: string;
  nextMs: number;
}

/** Balances that time changes. */
interface Moving {
  economy: Economy;
  currency: string;
  sources: readonly Currency[];
  levels: Map<string, Levels>;
  /** Whose balance time changes next, and when; what was overtaken by a write is passed over. */
  due: TinyQueue<Due>;
  nextMs: Map<string, number>;
}

export class Rankings {
  private readonly kept = new LRUCache<string, Kept>({ max: MOST_KEPT });
  /** What is being read, and waits to be: nothing of it is dropped while somebody waits. */
  private readonly unread = new Map<string, Kept>();
  private lastRead: Promise<unknown> = Promise.resolve();
  /** When what is stored may be looked through again, by the clock of `performance`. */
  private nextLookMs = 0;

  constructor(
    private readonly store: RankingStore,
    private readonly mostPlaces = MOST_PLACES,
    private readonly interestMs = INTEREST_MS,
  ) {}

  /**
   * What a question about all who have a score at an instant comes to. `economy` says what time does to balances. Nothing
   * is read to the end when nobody who asked is there any more: `isWanted` says whether the caller is.
   */
  async ask<T>(
    contest: Contest,
    economy: Economy,
    nowMs: number,
    question: (places: Places) => T,
    isWanted: () => boolean = () => true,
  ): Promise<T> {
    const moving = movingOf(contest, economy, nowMs);
    const key = moving ? `${JSON.stringify(contest)} ${rulesText(moving.sources)}` : JSON.stringify(contest);
    for (;;) {
      const kept = this.kept.get(key) ?? this.unread.get(key) ?? (moving && this.begin(key, contest, moving, nowMs));
      if (!kept?.isWhole && !moving && this.nextLookMs <= performance.now())
        return this.look(key, contest, nowMs, question);
      if (!kept?.isWhole) {
        await this.until(kept, moving, isWanted);
        continue;
      }
      if (kept.moving) await inSlices(timePasses(kept, kept.moving, nowMs));
      if (kept.isTrue) return question(orderPlaces(kept.order, (who) => kept.scores.get(who) ?? 0));
    }
  }

  /** Until it is whole, or what is stored may be looked through. */
  private async until(kept: Kept | undefined, moving: Moving | undefined, isWanted: () => boolean): Promise<void> {
    const look = moving ? [] : [setTimeout(this.nextLookMs - performance.now())];
    kept?.askers.add(isWanted);
    try {
      await Promise.race([...(kept ? [kept.whole] : []), ...look]);
    } catch (error) {
      // It was given up just before this caller asked.
      if (!(error instanceof CallerGone)) throw error;
    } finally {
      kept?.askers.delete(isWanted);
    }
    if (!isWanted()) throw new CallerGone();
  }

  /**
   * Answers from what is stored, and begins to put it in order for who asks next. That goes on for as long as this took
   * before the next may look: however many ask, it takes no more than twice as long.
   */
  private look<T>(key: string, contest: Contest, nowMs: number, question: (places: Places) => T): T {
    const startMs = performance.now();
    const places = this.store.places(contest);
    const answer = question(places);
    const isRoom = places.of <= this.mostPlaces;
    const endMs = performance.now();
    this.nextLookMs = endMs + (endMs - startMs);
    if (!isRoom) return answer;
    const kept = this.unread.get(key) ?? this.begin(key, contest, undefined, nowMs);
    kept.askers.add(() => performance.now() < endMs + this.interestMs);
    return answer;
  }

  private begin(key: string, contest: Contest, moving: Moving | undefined, nowMs: number): Kept {
    const kept: Kept = {
      contest,
      moving,
      scores: new Map(),
      order: undefined,
      isWhole: false,
      isTrue: true,
      changed: new Set(),
      whole: Promise.resolve(),
      askers: new Set(),
    };
    this.unread.set(key, kept);
    kept.whole = this.read(key, kept, nowMs, this.lastRead);
    this.lastRead = kept.whole.catch(() => undefined);
    return kept;
  }

  /** One after the other: many at once would take memory for all of them and be ready last. */
  private async read(key: string, kept: Kept, nowMs: number, before: Promise<unknown>): Promise<void> {
    await before;
    try {
      await inSlices(this.reading(kept, nowMs));
    } finally {
      // What fails is read anew for the next who asks.
      if (this.unread.get(key) === kept) this.unread.delete(key);
    }
    if (!kept.isTrue) return;
    this.kept.set(key, kept);
    const places = (): number => [...this.kept.values()].reduce((sum, { scores }) => sum + scores.size, 0);
    while (this.kept.size > 1 && places() > this.mostPlaces) this.kept.pop();
  }

  private *reading(kept: Kept, nowMs: number): Generator<undefined, void, undefined> {
    const scores = new Map<string, Units>();
    const pages: Scored[][] = [];
    for (const page of this.pages(kept, nowMs)) {
      if (!kept.isTrue) return;
      if (!isAwaited(kept.askers)) throw new CallerGone();
      // A row that is written anew meanwhile may come twice.
      const fresh = page.filter(({ who }) => !scores.has(who));
      for (const { who, score } of fresh) scores.set(who, score);
      pages.push(fresh);
      if (scores.size > this.mostPlaces) throw tooMany(this.mostPlaces);
      yield;
    }
    let order = yield* orderOf(pages);
    // Who changed meanwhile, and while this goes on, is taken out as they were read, and put in as they are.
    for (const who of kept.changed) {
      kept.changed.delete(who);
      const [before, after] = [scores.get(who), kept.scores.get(who)];
      if (before !== undefined) order = orderRemove(order, { who, score: before });
      scores.delete(who);
      if (after !== undefined) {
        scores.set(who, after);
        order = orderAdd(order, { who, score: after });
      }
      yield;
    }
    Object.assign(kept, { scores, order, isWhole: true });
    kept.askers.clear();
  }

  /** Those who have a score, as they are stored. */
  private *pages({ contest, moving, changed }: Kept, nowMs: number): Generator<Scored[], void, undefined> {
    if (!moving) {
      yield* this.store.pages(contest);
      return;
    }
    // What is known of those who changed since is newer.
    const levels = new Map<string, Record<string, Level>>();
    for (const rows of this.store.levels(moving.sources.map(({ id }) => id))) {
      for (const { who, currency, level } of rows) {
        const own = levels.get(who);
        if (own) own[currency] = level;
        else if (!changed.has(who)) levels.set(who, { [currency]: level });
      }
      if (levels.size > this.mostPlaces) throw tooMany(this.mostPlaces);
      yield [];
    }
    let page: Scored[] = [];
    for (const [who, own] of levels) {
      if (changed.has(who)) continue;
      const score = levelsFollow(moving, who, own, nowMs);
      if (score > 0) page.push({ who, score });
      if (page.length < PAGE) continue;
      yield page;
      page = [];
    }
    yield page;
  }

  /** What was written, in the order in which it was. */
  take(change: Change): void {
    switch (change.kind) {
      case 'undone':
        this.forget();
        return;
      case 'earned': {
        const key = JSON.stringify(change.contest);
        const kept = this.kept.peek(key) ?? this.unread.get(key);
        if (kept) follow(kept, change.who, change.units);
        return;
      }
      case 'gone':
        for (const kept of this.followed(change.holder)) {
          kept.moving?.nextMs.delete(change.id);
          kept.moving?.levels.delete(change.id);
          follow(kept, change.id, 0);
        }
        return;
      case 'has':
        for (const kept of this.followed(change.holder)) hasNow(kept, change);
    }
  }

  private *followed(holder: Contest['holder']): Generator<Kept, void, undefined> {
    for (const kept of [...this.kept.values(), ...this.unread.values()]) if (kept.contest.holder === holder) yield kept;
  }

  private forget(): void {
    for (const kept of [...this.kept.values(), ...this.unread.values()]) kept.isTrue = false;
    this.kept.clear();
    this.unread.clear();
  }
}

function hasNow(kept: Kept, { id, balances, goals, atMs }: Extract<Change, { kind: 'has' }>): void {
  const { contest, moving } = kept;
  if (moving) {
    if (!balances) return;
    if (!kept.isWhole) kept.changed.add(id);
    levelsPut(kept, moving, id, balances, atMs);
  } else if (contest.by === 'balance') {
    const level = balances?.[contest.currency];
    if (level) follow(kept, id, level.units);
  } else if (contest.by === 'goal' && goals) follow(kept, id, goalScore(contest, goals));
}

/** Forgets who has gone. */
function isAwaited(askers: Set<() => boolean>): boolean {
  for (const isWaiting of askers) {
    if (isWaiting()) return true;
    askers.delete(isWaiting);
  }
  return false;
}

const tooMany = (most: number): Problem =>
  new Problem(
    'too-much-work',
    `This ranking has more than ${countText(most, 'place')}, and there is no memory for more. Give the service more memory, or rank by something else.`,
  );

/** Undefined where what is compared changes by what players do alone, until whatever ends has ended. */
function movingOf({ holder, ...contest }: Contest, economy: Economy, nowMs: number): Moving | undefined {
  if (contest.by !== 'balance' || holder !== 'player') return undefined;
  const sources = balanceSources(economy, contest.currency, nowMs);
  return sources.length === 0
    ? undefined
    : {
        economy,
        currency: contest.currency,
        sources,
        levels: new Map(),
        due: new TinyQueue<Due>([], (a, b) => a.nextMs - b.nextMs),
        nextMs: new Map(),
      };
}

/** What time does to them, so that another release begins anew where it does something else. */
const rulesText = (sources: readonly Currency[]): string =>
  JSON.stringify(sources, (_, value: unknown) => (typeof value === 'bigint' ? String(value) : value));

function levelsPut(kept: Kept, moving: Moving, who: string, levels: Levels, nowMs: number): void {
  put(kept, who, levelsFollow(moving, who, levels, nowMs));
}

/** What they come to now, and that they are looked at again when time changes that. */
function levelsFollow(moving: Moving, who: string, levels: Levels, nowMs: number): Units {
  const { economy, currency, sources, due } = moving;
  const { units, nextMs } = balanceAt(economy, currency, sources, levels, nowMs);
  if (Number.isFinite(nextMs)) {
    if (moving.nextMs.get(who) !== nextMs) due.push({ who, nextMs });
    moving.nextMs.set(who, nextMs);
    moving.levels.set(who, levels);
  } else {
    moving.nextMs.delete(who);
    moving.levels.delete(who);
  }
  return units;
}

function* timePasses(kept: Kept, moving: Moving, nowMs: number): Generator<undefined, void, undefined> {
  for (let next = moving.due.peek(); next && next.nextMs <= nowMs; next = moving.due.peek()) {
    const { who, nextMs } = moving.due.pop()!;
    if (moving.nextMs.get(who) !== nextMs) continue;
    levelsPut(kept, moving, who, moving.levels.get(who)!, nowMs);
    yield;
  }
}

function follow(kept: Kept, who: string, score: Units): void {
  if (!kept.isWhole) kept.changed.add(who);
  put(kept, who, score);
}

function put(kept: Kept, who: string, score: Units): void {
  const before = kept.scores.get(who);
  if (before === score) return;
  if (before !== undefined) kept.order = orderRemove(kept.order, { who, score: before });
  kept.scores.delete(who);
  if (score <= 0) return;
  kept.scores.set(who, score);
  kept.order = orderAdd(kept.order, { who, score });
}

/** How much work each caller may ask for: a game that runs wild, or somebody who guesses tokens, leaves room for the others. */
import { LRUCache } from 'lru-cache';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { BODY_KB } from '../contract/index.js';
import type { Operation } from '../contract/index.js';
import { Problem } from './problem.js';

/** What one holder of a token may use of the players' thread in each second, in ms, where the operator does not say. */
export const WORK_MS_PER_SECOND = 800;

const GUESSES_PER_MINUTE = 60;
/** Holders whose debts are remembered. */
const MOST_HOLDERS = 10_000;

/** What a request costs beside its handler, in ms: to be read, to be found its way, to be answered. */
const REQUEST_MS = 0.2;
/** What is expected of an operation that was not asked for yet, in ms for each kB and one more. */
const FIRST_MS = 0.3;
/** How much the last request changes what is expected of the next. */
const WEIGHT = 0.1;
/** More is never expected: whoever has asked for nothing else in this second is not refused. */
const MOST_EXPECTED_MS = 100;

/** In whole microseconds: what the limiter counts. */
const points = (ms: number): number => Math.max(1, Math.round(ms * 1000));

export class Allowance {
  private readonly each: RateLimiterMemory;
  private readonly guesses = new RateLimiterMemory({ points: GUESSES_PER_MINUTE, duration: 60 });
  /** What requests cost beyond what was taken before they began, in ms, by holder; below zero where it was less. */
  private readonly owed = new LRUCache<string, { ms: number; since: number }>({ max: MOST_HOLDERS });
  /** What is expected of each operation, by its key, for each kB and one more. */
  private readonly typical = new Map<string, number>();

  constructor(private readonly workMs = WORK_MS_PER_SECOND) {
    this.each = new RateLimiterMemory({ points: points(workMs), duration: 1 });
  }

  /**
   * Takes what a request is expected to cost, by its operation and how large it is, and what earlier ones have cost more.
   * Throws a problem where that is more than is left of this second. Gives the way to settle what it has cost, in ms.
   */
  async take(holder: string, key: string, kb: number): Promise<(ms: number) => void> {
    const expected = Math.min(
      REQUEST_MS + (this.typical.get(key) ?? FIRST_MS) * (1 + kb),
      MOST_EXPECTED_MS,
      this.workMs,
    );
    const over = await taken(this.each, holder, points(Math.max(0, expected + this.owedBy(holder))));
    this.owed.delete(holder);
    if (over)
      throw tooMany(
        over,
        `"${holder}" asks for more than ${this.workMs} ms of work in a second. Ask for less at once; whoever runs the service can raise it with --work-per-second.`,
      );
    return (ms) => {
      this.owed.set(holder, { ms: this.owedBy(holder) + REQUEST_MS + ms - expected, since: performance.now() });
      const before = this.typical.get(key) ?? FIRST_MS;
      this.typical.set(key, before + WEIGHT * (ms / (1 + kb) - before));
    };
  }

  /** Each second that passes pays for as much as may be asked for in it. */
  private owedBy(holder: string): number {
    const owed = this.owed.get(holder);
    if (!owed) return 0;
    const paid = ((performance.now() - owed.since) / 1000) * this.workMs;
    return Math.sign(owed.ms) * Math.max(0, Math.abs(owed.ms) - paid);
  }

  /** Counts a token that is not known. Throws a problem where too many came from the address. */
  async guessed(address: string): Promise<void> {
    const over = await taken(this.guesses, address, 1);
    if (over) throw tooMany(over, 'Too many tokens that are not known came from this address. Wait a minute.');
  }
}

async function taken(limiter: RateLimiterMemory, key: string, count: number): Promise<RateLimiterRes | undefined> {
  try {
    await limiter.consume(key, count);
    return undefined;
  } catch (error) {
    if (error instanceof RateLimiterRes) return error;
    throw error;
  }
}

const tooMany = ({ msBeforeNext }: RateLimiterRes, words: string): Problem =>
  new Problem('too-many', words, {}, Math.max(1, Math.ceil(msBeforeNext / 1000)));

/** How large a body is at most, in kB. Of what is packed, or comes in pieces, it is not known before. */
export function bodyKbOf({ bodyKb = BODY_KB }: Operation, headers: Headers): number {
  const length = headers['content-encoding'] === undefined ? Number(headers['content-length']) : NaN;
  return Number.isNaN(length) ? bodyKb : Math.min(bodyKb, length / 1024);
}

type Headers = Readonly<Record<string, string | string[] | undefined>>;

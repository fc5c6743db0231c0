/** How much each caller may ask for: a game that runs wild, or somebody who guesses tokens, leaves room for the others. */
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { BODY_KB, isAside } from '../contract/index.js';
import type { Operation } from '../contract/index.js';
import { Problem } from './problem.js';

/** What one holder of a token may ask for each second, in points, where the operator does not say. */
export const POINTS_PER_SECOND = 2000;

const SIGN_INS_PER_MINUTE = 60;

export class Allowance {
  private readonly each: RateLimiterMemory;
  private readonly signIns = new RateLimiterMemory({ points: SIGN_INS_PER_MINUTE, duration: 60 });

  constructor(private readonly perSecond = POINTS_PER_SECOND) {
    this.each = new RateLimiterMemory({ points: perSecond, duration: 1 });
  }

  /** Throws a problem where the holder has asked for too much within a second. */
  take(holder: string, points: number): Promise<void> {
    return taken(
      this.each,
      holder,
      points,
      `"${holder}" asks for more than ${this.perSecond} requests, or kB, in a second. Ask for less at once; whoever runs the service can raise it with --per-second.`,
    );
  }

  /** Throws a problem where somebody at the address has tried too often. */
  trySignIn(address: string): Promise<void> {
    return taken(this.signIns, address, 1, 'Too many attempts to sign in. Wait a minute.');
  }
}

async function taken(limiter: RateLimiterMemory, key: string, points: number, refusal: string): Promise<void> {
  try {
    await limiter.consume(key, points);
  } catch (error) {
    if (!(error instanceof RateLimiterRes)) throw error;
    throw new Problem('too-many', refusal, {}, Math.max(1, Math.ceil(error.msBeforeNext / 1000)));
  }
}

/** What a request counts: the work that it asks for grows with its body, and one that is worked out aside waits in a queue that has a bound of its own. */
export function pointsOf(operation: Operation, headers: Headers): number {
  const { body, bodyKb = BODY_KB } = operation;
  if (isAside(operation) || body === undefined) return 1;
  // Of what is packed, or comes in pieces, it is not known before how much it is.
  const length = headers['content-encoding'] === undefined ? Number(headers['content-length']) : NaN;
  return Number.isNaN(length) ? bodyKb : Math.max(1, Math.ceil(length / 1024));
}

type Headers = Readonly<Record<string, string | string[] | undefined>>;

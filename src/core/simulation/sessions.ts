/** How many sessions a made-up player has on a day, and when they begin. */
import type { SessionBegins, Sessions } from '../economy/index.js';
import type { Random } from '../random/index.js';
import { poissonMake } from './draw.js';

/** By weekday: draws them by the Poisson distribution with that day's mean, unless they are the same each time. */
export const sessionsDraw = (random: Random, { perDay, fixed }: Sessions): (() => number)[] =>
  perDay.map((mean) => (fixed ? () => mean : poissonMake(random, mean)));

/** The hours from midnight to a session's begin, for a luck from 0 (inclusive) to 1 (exclusive); above 24 on the next day. */
export function sessionBegins(begins: SessionBegins, luck: number): number {
  if (begins.kind === 'evenly') return begins.fromHour + luck * begins.hours;
  const { hours } = begins;
  let place = 0;
  while (place < hours.length - 1 && luck >= hours[place]!.upTo) place++;
  const from = place === 0 ? 0 : hours[place - 1]!.upTo;
  return hours[place]!.hour + (luck - from) / (hours[place]!.upTo - from);
}

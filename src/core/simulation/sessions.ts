/** How many sessions a made-up player has on a day. */
import type { Persona } from '../economy/index.js';
import type { Random } from '../random/index.js';
import { poissonMake } from './draw.js';

/** Draws them by the Poisson distribution with the mean of the persona, unless they are the same each day. */
export const sessionsDraw = (random: Random, { perDay, fixed }: Persona['sessions']): (() => number) =>
  fixed ? () => perDay : poissonMake(random, perDay);

/** How many sessions a made-up player has on a day. */
import type { Random } from '../random/index.js';
import { poissonMake } from './draw.js';

/** Draws them by the Poisson distribution with the mean of the persona. */
export const sessionsDraw = (random: Random, perDay: number): (() => number) => poissonMake(random, perDay);

/** How many sessions a made-up player has on a day. */
import { randomPoisson } from 'd3-random';
import type { Random } from '../random/index.js';

/** Drawn by the Poisson distribution with the mean of the persona. */
export const sessionCount = (random: Random, perDay: number): number => randomPoisson.source(random)(perDay)();

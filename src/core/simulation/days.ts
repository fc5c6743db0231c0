/** The days of a run by the calendar of the economy. */
import { periodAround, wallAt, weekdayOf } from '../schedule/index.js';
import type { Period } from '../schedule/index.js';
import type { RunSetup } from './scenario.js';

const HOUR_MS = 3_600_000;

/** A day of a run, from 0: noon of the first plus whole days of 24 hours stays within the right one when clocks change. */
export function runDay({ economy, startMs }: RunSetup, day: number): Period {
  const firstNoonMs = periodAround(economy.zone, 'day', startMs).startMs + 12 * HOUR_MS;
  return periodAround(economy.zone, 'day', firstNoonMs + day * 24 * HOUR_MS);
}

/** Of a day's first instant, from 0 for Monday. */
export const runWeekday = ({ economy }: RunSetup, startMs: number): number => weekdayOf(wallAt(economy.zone, startMs));

export const runEndMs = (setup: RunSetup): number => runDay(setup, setup.days - 1).endMs;

/** Playing times as people read them. */
import type { AssetLabels } from '../texts/index.js';
import type { PlayingTime } from './playingTime.js';

type Earned = Extract<PlayingTime, { kind: 'earned' }>;

const HOUR = 60;

/** `40 min`, `4 h 40 min`, `10.8 h`, `125 h`: three digits at most tell apart what such a time can be told to. */
export function durationText(minutes: number): string {
  const rounded = Math.max(1, Math.round(minutes));
  if (rounded < HOUR) return `${rounded} min`;
  if (rounded >= 100 * HOUR) return `${Math.round(rounded / HOUR).toLocaleString('en')} h`;
  if (rounded >= 10 * HOUR) return `${Number((rounded / HOUR).toFixed(1))} h`;
  const rest = rounded % HOUR;
  return `${Math.floor(rounded / HOUR)} h${rest === 0 ? '' : ` ${rest} min`}`;
}

/** `day 9`; where it lies after the days looked at, `about day 112`. */
export function dayText({ day: { half }, beyond }: Earned): string {
  if (half === null) return 'later';
  return beyond ? `about day ${half.toLocaleString('en')}` : `day ${half}`;
}

/** `40 min, day 2`: as much as fits beside a price. */
export function playingTimeShort(time: PlayingTime): string {
  switch (time.kind) {
    case 'earned':
      return `${durationText(time.minutes.mean)}, ${dayText(time)}`;
    case 'waits':
      return `waits ${durationText(time.ms / 60_000)}`;
    case 'never':
      return 'not by play';
    case 'nothing':
      return '';
  }
}

/** `12 plays (8 Harbour race, 4 Beach walk); 54 min (53 to 56); day 2 for a Weekender`, or why there is none. */
export function playingTimeText(time: PlayingTime, persona: string, labels: AssetLabels): string {
  switch (time.kind) {
    case 'earned':
      return `${playsText(time)}; ${minutesText(time)}; ${daysText(time)} for a ${persona}${time.exact ? ', expected' : ''}`;
    case 'waits':
      return `${labels(time.asset)?.name ?? time.asset} come by themselves: ${durationText(time.ms / 60_000)}`;
    case 'never':
      return `a ${persona} does not earn ${time.assets.map((asset) => labels(asset)?.name ?? asset).join(' and ')} by play`;
    case 'nothing':
      return 'free';
  }
}

const whole = (times: number): number => Math.max(1, Math.round(times));

/** `8 × Harbour race`, or `12 plays (8 Harbour race, 4 Beach walk)`. */
function playsText({ plays }: Earned): string {
  const rounded = plays.map(({ name, times }) => ({ name, times: Math.round(times) })).filter(({ times }) => times > 0);
  const all = whole(plays.reduce((sum, { times }) => sum + times, 0));
  if (plays.length === 1) return `${all.toLocaleString('en')} × ${plays[0]!.name}`;
  const parts = rounded.map(({ name, times }) => `${times.toLocaleString('en')} ${name}`);
  return `${all.toLocaleString('en')} ${all === 1 ? 'play' : 'plays'}${parts.length > 1 ? ` (${parts.join(', ')})` : ''}`;
}

function minutesText({ minutes: { mean, low, high }, exact }: Earned): string {
  const [from, to] = [durationText(low), high === null ? 'more' : durationText(high)];
  const about = durationText(mean);
  return exact || (from === about && to === about) ? about : `${about} (${from} to ${to})`;
}

function daysText(time: Earned): string {
  const { half, low, high } = time.day;
  if (time.exact || time.beyond || half === null || (low === half && high === half)) return dayText(time);
  return `${dayText(time)} (${low ?? 'later'} to ${high ?? 'later'})`;
}

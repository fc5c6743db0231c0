/** What each player of a log did, session by session, by the calendar of the economy. */
import type { EconomyDocument } from '../document/index.js';
import type { Value } from '../formula/index.js';
import type { Happened, LogRead, Recorded } from '../log/index.js';
import { DAY_MS, wallAt } from '../schedule/index.js';
import { percentile } from '../simulation/index.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;

/** An activity as the log shows it. */
export interface PlayKind {
  activity: string;
  minutes: number;
  /** The event that tells that it was played, and in how many activities that event may come of. */
  signature: string;
  sharedBy: number;
  /** Made for an event that no activity of the economy reports. */
  isNew: boolean;
}

export interface Session {
  /** From 0, the log's first day. */
  day: number;
  hour: number;
  /** From the begin of what was played first to the last line; undefined where nothing was played. */
  minutes: number | undefined;
  events: readonly Happened[];
  purchases: readonly Recorded[];
}

export interface History {
  player: string;
  /** As they were told first. */
  attributes: Readonly<Record<string, Value>>;
  /** In the order of time; there is one at least. */
  sessions: readonly Session[];
}

export interface Histories {
  /** In the order of their first line. */
  players: readonly History[];
  /** The first instant of the first day, as clocks show it, and how many days there are. */
  firstWallMs: number;
  days: number;
  /** Whether the log says which session a line belongs to; otherwise it is told by the gaps. */
  isToldBy: 'session' | 'gaps';
  kinds: readonly PlayKind[];
}

type Line = Happened | Recorded;
const isEvent = (line: Line): line is Happened => 'event' in line;

/** Lines further apart than the gap begin another session, unless the log says itself what belongs together. O(n log n). */
export function historiesOf(
  { events, purchases }: LogRead,
  document: EconomyDocument,
  gapMinutes: number,
): Histories | undefined {
  const lines: Line[] = [...events, ...purchases].sort((a, b) => a.atMs - b.atMs || a.line - b.line);
  if (lines.length === 0) return undefined;
  const isTold = lines.every(({ session }) => session !== undefined);
  const parts = new Map(
    [...grouped(lines, ({ player }) => player)].map(([player, own]) => [
      player,
      isTold ? [...grouped(own, ({ session }) => session!).values()] : byGaps(own, gapMinutes * MINUTE_MS),
    ]),
  );
  const kinds = playKinds(document, [...parts.values()].flat());
  const minutesOf = new Map(kinds.map(({ signature, minutes }) => [signature, minutes]));
  const wall = (ms: number): number => wallAt(document.timeZone, ms);
  const startOf = (first: Line): number =>
    first.atMs - (isEvent(first) ? (minutesOf.get(first.event) ?? 0) * MINUTE_MS : 0);
  const dayOf = (wallMs: number): number => Math.floor(wallMs / DAY_MS);
  const sessionOf = (own: readonly Line[], firstDay: number): Session => {
    const startMs = startOf(own[0]!);
    // What began before midnight of the first day belongs to it: the log says nothing of the day before.
    const wallMs = Math.max(wall(startMs), firstDay * DAY_MS);
    const played = own.filter(isEvent);
    return {
      day: dayOf(wallMs) - firstDay,
      hour: Math.floor((wallMs % DAY_MS) / HOUR_MS),
      minutes: played.length === 0 ? undefined : (own.at(-1)!.atMs - startMs) / MINUTE_MS,
      events: played,
      purchases: own.filter((line): line is Recorded => !isEvent(line)),
    };
  };
  const firstDay = dayOf(wall(lines[0]!.atMs));
  return {
    players: [...parts].map(([player, sessions]) => ({
      player,
      attributes: toldFirst(sessions),
      sessions: sessions.map((own) => sessionOf(own, firstDay)),
    })),
    firstWallMs: firstDay * DAY_MS,
    days: dayOf(wall(lines.at(-1)!.atMs)) - firstDay + 1,
    isToldBy: isTold ? 'session' : 'gaps',
    kinds,
  };
}

/** Of each attribute what the first line says that tells it. */
function toldFirst(sessions: readonly (readonly Line[])[]): Record<string, Value> {
  const told: Record<string, Value> = {};
  for (const { attributes } of sessions.flat())
    for (const [attribute, value] of Object.entries(attributes)) told[attribute] ??= value;
  return told;
}

function grouped(lines: readonly Line[], key: (line: Line) => string): Map<string, Line[]> {
  const groups = new Map<string, Line[]>();
  for (const line of lines) {
    const own = groups.get(key(line));
    if (own) own.push(line);
    else groups.set(key(line), [line]);
  }
  return groups;
}

function byGaps(lines: readonly Line[], gapMs: number): Line[][] {
  const sessions: Line[][] = [];
  for (const line of lines) {
    const last = sessions.at(-1)?.at(-1);
    if (!last || line.atMs - last.atMs > gapMs) sessions.push([line]);
    else sessions.at(-1)!.push(line);
  }
  return sessions;
}

/** Where nothing tells how long something takes. */
const MINUTES = 5;

/** Which activity each event tells of; of an event that none reports one is made, as long as it comes after what was before. */
function playKinds(document: EconomyDocument, sessions: readonly (readonly Line[])[]): PlayKind[] {
  const activities = Object.entries(document.activities ?? {});
  const reporting = (event: string): number => activities.filter(([, { emits }]) => Object.hasOwn(emits, event)).length;
  const known = activities.flatMap(([activity, { minutes, emits }]): PlayKind[] => {
    const signature = Object.keys(emits).sort((a, b) => reporting(a) - reporting(b))[0];
    return signature === undefined
      ? []
      : [{ activity, minutes, signature, sharedBy: reporting(signature), isNew: false }];
  });
  const gaps = new Map<string, number[]>();
  for (const own of sessions)
    own.forEach((line, place) => {
      if (!isEvent(line) || reporting(line.event) > 0) return;
      const all = gaps.get(line.event) ?? [];
      gaps.set(line.event, all);
      if (place > 0) all.push((line.atMs - own[place - 1]!.atMs) / MINUTE_MS);
    });
  const made = [...gaps].map(([event, all]): PlayKind => {
    const usual = percentile(
      all.sort((a, b) => a - b),
      50,
    );
    const minutes = Math.min(1440, Math.max(0.1, Math.round((usual ?? MINUTES) * 10) / 10));
    return { activity: event, minutes, signature: event, sharedBy: 1, isNew: true };
  });
  return [...known, ...made];
}

/** What players did a session. */
import type { History, PlayKind } from './histories.js';

/** A session's worth of what players did. */
export interface Shown {
  sessions: number;
  minutes: number;
  plays: Record<string, number>;
  bought: Record<string, number>;
}

/** What players did a session. Of an event that several activities report, each has an equal part. */
export function shownBy(members: readonly History[], kinds: readonly PlayKind[]): Shown {
  const counts = new Map<string, number>();
  const bought: Record<string, number> = {};
  let sessions = 0;
  let [minutes, timed] = [0, 0];
  for (const member of members)
    for (const session of member.sessions) {
      sessions++;
      if (session.minutes !== undefined) {
        minutes += session.minutes;
        timed++;
      }
      for (const { event } of session.events) counts.set(event, (counts.get(event) ?? 0) + 1);
      for (const { offer } of session.purchases) bought[offer] = (bought[offer] ?? 0) + 1;
    }
  const plays: Record<string, number> = {};
  for (const { activity, signature, sharedBy } of kinds) {
    const times = (counts.get(signature) ?? 0) / sharedBy / sessions;
    if (times > 0) plays[activity] = times;
  }
  for (const offer in bought) bought[offer]! /= sessions;
  return { sessions, minutes: timed > 0 ? minutes / timed : 0, plays, bought };
}

/** The sum of amounts by id. */
export const totalOf = (counts: Readonly<Record<string, number>>): number =>
  Object.values(counts).reduce((sum, one) => sum + one, 0);

/** A player whom somebody describes for an economy of files, and when. */
import type { Economy } from '../core/economy/index.js';
import type { Value } from '../core/formula/index.js';
import { attributeProblems, playerMadeUp } from '../core/player/index.js';
import type { Player, Profile } from '../core/player/index.js';
import { instantRead } from '../core/schedule/index.js';
import { UsageProblem } from './context.js';

/** An instant as somebody wrote it, without an offset in the zone of the economy; `otherwise` where nothing is written. */
export function instantAsked(zone: string, written: string | undefined, otherwise = Date.now()): number {
  if (written === undefined) return otherwise;
  const read = instantRead(zone, written);
  if (!read) throw new UsageProblem(`"${written}" is not an instant. Write it as 2027-03-01T09:00.`);
  return read.ms;
}

/** Attributes that the economy does not have, or of another kind there, are wrong use. */
export function attributesChecked(economy: Economy, attributes: Readonly<Record<string, Value>>): void {
  const [problem] = attributeProblems(economy, attributes);
  if (problem)
    throw new UsageProblem(`${problem.message[0]!.toUpperCase()}${problem.message.slice(1)}. ${problem.fix}`);
}

/** Nothing of it is kept. */
export function playerDescribed(economy: Economy, profile: Profile, nowMs: number): Player {
  attributesChecked(economy, profile.attributes ?? {});
  return playerMadeUp(economy, profile, nowMs);
}

/** A player whom somebody describes for an economy of files. */
import type { Economy } from '../core/economy/index.js';
import type { Value } from '../core/formula/index.js';
import { attributeProblems, playerMadeUp } from '../core/player/index.js';
import type { Player, Profile } from '../core/player/index.js';
import { UsageProblem } from './context.js';

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

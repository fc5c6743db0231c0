/** The player of a question: a real one, or one made up for it. */
import type { Economy } from '../core/economy/index.js';
import type { Value } from '../core/formula/index.js';
import { attributeProblems, playerMadeUp } from '../core/player/index.js';
import type { Player, Profile } from '../core/player/index.js';
import { Problem } from './problem.js';
import type { PlayerStore } from './store/playerStore.js';

/** Throws a problem that names every attribute that the economy does not have, or has as another kind. */
export function attributesKnown(economy: Economy, attributes: Readonly<Record<string, Value>>): void {
  const problems = attributeProblems(economy, attributes);
  if (problems.length === 0) return;
  throw new Problem('invalid', problems.map(({ message, fix }) => `${message}. ${fix}`).join(' '), {
    errors: problems.map(({ attribute, message, fix }) => ({
      pointer: `/attributes/${attribute}`,
      code: 'unknown-field',
      detail: message,
      fix,
    })),
  });
}

/** A player made up for a question; nothing of it is kept. */
export function profilePlayer(economy: Economy, profile: Profile, nowMs: number): Player {
  const holds = profile.holds ?? {};
  const unknown = Object.keys(holds).find((asset) => !economy.currencies.has(asset) && !economy.items.has(asset));
  if (unknown !== undefined)
    throw new Problem('invalid', `There is no currency or item "${unknown}".`, {
      errors: [
        {
          pointer: `/holds/${unknown}`,
          code: 'dangling-reference',
          detail: `there is no asset "${unknown}"`,
          fix: 'Name one that exists.',
        },
      ],
    });
  attributesKnown(economy, profile.attributes ?? {});
  return playerMadeUp(economy, profile, nowMs);
}

/** The player of a question: `player` names a real one, `profile` describes a made-up one; neither is a new player. */
export function playerAsked(
  { players }: { players: PlayerStore },
  economy: Economy,
  asked: { player?: string | undefined; profile?: Profile | undefined },
  nowMs: number,
): Player {
  if (asked.player === undefined) return profilePlayer(economy, asked.profile ?? {}, nowMs);
  const held = players.find(asked.player);
  return held.player;
}

/** What the luck of a made-up player is keyed by: nothing that one thing draws shifts what another draws. */
import { keyOf, keyOfText } from '../random/index.js';
import type { Key } from '../random/index.js';

/** The first part after the player's own key: what it is for. Days, sessions, turns, events and ids follow. */
export const LUCK = { attributes: 1, sessions: 2, play: 3, event: 4, visit: 5, leaves: 6 } as const;

/** The same for the `number`th player of a persona, whoever else plays. */
export const playerLuck = (seed: number, persona: string, number: number): Key => keyOf(seed, persona, number);

/** An offer as a part of a visit's key: half of its text, which is enough to tell those of one visit apart. */
export const offerLuck = (offer: string): number => keyOfText(offer).low;

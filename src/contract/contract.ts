/** Every operation under /api/v1, once, in the order of openapi.json. */
import { draftOperations } from './operations/draft.js';
import { playerOperations } from './operations/player.js';
import { runOperations } from './operations/run.js';
import { sessionOperations } from './operations/session.js';
import { teamOperations } from './operations/team.js';
import { timeOperations } from './operations/time.js';
import { tradeOperations } from './operations/trade.js';
import type * as operation from './operation.js';

export const CONTRACT = {
  ...draftOperations,
  ...timeOperations,
  ...tradeOperations,
  ...playerOperations,
  ...teamOperations,
  ...runOperations,
  ...sessionOperations,
};

/** The operations in groups, as openapi.json lists them. */
export const TAGS: readonly { name: string; description: string; operations: object }[] = [
  {
    name: 'Draft',
    description: 'The economy that is worked on: edits, sheets, audit, pictures.',
    operations: draftOperations,
  },
  {
    name: 'Releases and time',
    description: 'Releases, channels, the calendar, rotations, news.',
    operations: timeOperations,
  },
  {
    name: 'Shops',
    description: 'What players see and do: storefronts, checks, purchases, acts.',
    operations: tradeOperations,
  },
  { name: 'Players', description: 'Players, their ledger, events and grants.', operations: playerOperations },
  {
    name: 'Teams and rankings',
    description: 'Teams, their members and accounts, and who is first.',
    operations: teamOperations,
  },
  { name: 'Simulations', description: 'Runs of made-up players, and comparisons.', operations: runOperations },
  { name: 'Access', description: 'Signing in, tokens, and who did what.', operations: sessionOperations },
];
export type Contract = typeof CONTRACT;
/** `GET /draft`, say. */
export type Key = keyof Contract;
export const KEYS = Object.keys(CONTRACT) as readonly Key[];

/** What a caller of an operation says. */
export type Input<K extends Key> = operation.Input<K, Contract[K]>;
/** What an operation answers with when it succeeds. */
export type Answer<K extends Key> = operation.Answer<Contract[K]>;
export type Params<K extends Key> = operation.Params<K, Contract[K]>;
export type Query<K extends Key> = operation.Query<Contract[K]>;
export type Body<K extends Key> = operation.Body<Contract[K]>;
export type EventOf<K extends Key> = operation.EventOf<Contract[K]>;
/** Operations that are an act with a thing that a player holds. */
export type ActKey = { [K in Key]: Contract[K] extends { act: unknown } ? K : never }[Key];
/** Operations of which what they work out aside is written then. */
export type SaveKey = { [K in Key]: Contract[K] extends { saves: true } ? K : never }[Key];
/** Operations that answer with server-sent events. */
export type StreamKey = { [K in Key]: Contract[K] extends { events: unknown } ? K : never }[Key];

/** Players: who they are, what they have, what happened to them, and what support gives. */
import { about, record, text } from '../../core/schema/index.js';
import { BATCH_KB, operations } from '../operation.js';
import { CHANNEL_QUERY, NUMBERED_PAGE_QUERY, PAGE_QUERY, listed, pageOf } from '../shapes/common.js';
import * as player from '../shapes/player.js';

export const playerOperations = operations({
  'GET /players': {
    id: 'listPlayers',
    role: 'read',
    // Looks at every player; without it there is an index.
    aside: ({ query }) => (query as { search?: string }).search !== undefined,
    summary: 'Players by id',
    query: { search: about('Part of an id or name', text(120)), ...PAGE_QUERY },
    answers: { 200: pageOf(player.playerRow) },
  },
  'POST /players': {
    id: 'createPlayer',
    role: 'game',
    summary: 'Creates a player with the start balances',
    body: player.newPlayer,
    answers: { 201: player.player },
    problems: ['invalid', 'already-there', 'nothing-published'],
  },
  'GET /players/{player}': {
    id: 'getPlayer',
    role: 'read',
    summary: 'One player: attributes, balances, stacks, counters',
    answers: { 200: player.player },
    problems: ['not-found', 'nothing-published'],
  },
  'DELETE /players/{player}': {
    id: 'erasePlayer',
    role: 'support',
    summary:
      'Erases a player: name, attributes, what they have and what was counted. Their movements stay, and the id is not used again',
    query: { reason: about('Why, for the record', text(400)) },
    answers: { 200: player.playerGone },
    problems: ['not-found', 'nothing-published'],
  },
  'GET /players/{player}/ledger': {
    id: 'listPlayerLedger',
    role: 'read',
    summary: 'Every movement of a player, oldest first; of one who was erased too',
    query: NUMBERED_PAGE_QUERY,
    answers: { 200: pageOf(player.movement) },
    problems: ['not-found'],
  },
  'POST /players/{player}/grants': {
    id: 'grantToPlayer',
    role: 'support',
    summary: 'Gives or takes with a reason; amounts in smallest units. Idempotency-Key makes a repeat harmless',
    key: 'always',
    body: player.grant,
    answers: { 200: player.grantAnswer, 201: player.grantAnswer },
    problems: ['invalid', 'not-found', 'key-needed', 'key-reused', 'nothing-published'],
  },
  'POST /players/{player}/events': {
    id: 'reportEvents',
    role: 'game',
    summary: 'Reports game events; each id counts once, ever',
    query: CHANNEL_QUERY,
    body: player.events,
    bodyKb: BATCH_KB,
    answers: { 200: record({ events: listed('events', player.eventAnswer) }) },
    problems: ['invalid', 'not-found', 'nothing-published'],
  },
  'POST /tries': {
    id: 'tryEvents',
    role: 'read',
    aside: true,
    summary:
      'What events would do for a player, real or made up: each rule, goal and track, and what an hour comes to. Nothing is kept',
    body: player.tryAsked,
    answers: { 200: player.tried },
    problems: ['invalid', 'not-found', 'nothing-published'],
  },
});

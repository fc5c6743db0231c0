/** Players: who they are, what they have, what happened to them, and what support gives. */
import type { PlayerView } from '../../contract/index.js';
import { MOST_TRIED } from '../../contract/index.js';
import { eventProblems, eventsTry } from '../../core/earning/index.js';
import type { Economy } from '../../core/economy/index.js';
import type { Value } from '../../core/formula/index.js';
import { playerSettle } from '../../core/player/index.js';
import { progressOf } from '../../core/progress/index.js';
import { DEFAULT_LIMIT, onceReply, pageOf } from '../handler.js';
import type { Handlers } from '../handler.js';
import { Problem, invalid } from '../problem.js';
import type { Grant } from '../trading/support.js';
import type { Service } from '../service.js';
import { playerAsked } from '../asked.js';

/** The player now: refills are counted up to this instant, without being written. */
function playerView(service: Service, id: string): PlayerView {
  const held = service.players.find(id);
  const { economy, release } = service.sources.live();
  const nowMs = service.now();
  const { player } = playerSettle(economy, held.player, nowMs);
  const { teams, ...own } = player;
  return {
    atMs: nowMs,
    release,
    ...own,
    teams: Object.values(teams).map(({ kind, id: team, name }) => ({ kind, id: team, name })),
    ...progressOf(economy, player, nowMs, true),
  };
}

/** Throws where it neither gives nor takes. */
export function grantAsked({ gives = {}, takes = {}, reason }: Partial<Grant> & Pick<Grant, 'reason'>): Grant {
  if (Object.keys(gives).length + Object.keys(takes).length > 0) return { gives, takes, reason };
  throw new Problem('invalid', 'Nothing is given and nothing is taken.', {
    errors: [
      {
        pointer: '',
        code: 'missing-field',
        detail: '"gives" and "takes" are empty',
        fix: 'Write gives: {...} or takes: {...}.',
      },
    ],
  });
}

export const playerHandlers = {
  'GET /players': ({ service, query: { search = '', cursor = '', limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.players.search(search, cursor, limit), limit, ({ id }) => id),
  }),
  'POST /players': async ({ service, who, body: { id, name = id, attributes = {} } }) => {
    await service.support.create(id, name, attributes, who.name);
    return { status: 201, body: playerView(service, id), headers: { Location: `/api/v1/players/${id}` } };
  },
  'GET /players/{player}': ({ service, params }) => ({ body: playerView(service, params.player) }),
  'DELETE /players/{player}': async ({ service, who, params: { player }, query: { reason = '' } }) => ({
    body: { player, lost: await service.support.erase(player, reason, who.name) },
  }),
  'GET /players/{player}/ledger': ({ service, params: { player }, query: { cursor = 0, limit = DEFAULT_LIMIT } }) => {
    if (!service.players.wasErased(player)) service.players.find(player);
    return { body: pageOf(service.ledger.of(player, cursor, limit), limit, ({ id }) => id) };
  },
  'POST /players/{player}/grants': async ({ service, params, who, key, body }) =>
    onceReply(await service.support.grant(params.player, grantAsked(body), who.name, key)),
  'POST /players/{player}/events': async ({ service, params, query: { channel }, body: { events } }) => {
    const { economy } = service.sources.live(channel);
    eventsFit(economy, events);
    const list = events.map(({ id, name, fields = {} }) => ({ id, name, fields }));
    return { body: { events: await service.events.report(params.player, list, channel) } };
  },
  'POST /tries': ({ service, body: { player, profile, source, at, seed, events } }) => {
    const { economy, release, atMs } = service.sources.at(source, at);
    eventsFit(economy, events);
    const list = events.map(({ name, fields = {}, times = 1 }) => ({
      name,
      fields: fields as Record<string, Value>,
      times,
    }));
    const all = list.reduce((sum, { times }) => sum + times, 0);
    if (all > MOST_TRIED)
      throw invalid('That is too much to try at once; nothing was tried.', [
        {
          code: 'wrong-value',
          pointer: '/events',
          message: `these are ${all} events`,
          fix: `Try ${MOST_TRIED} at most.`,
        },
      ]);
    return {
      body: {
        release,
        ...eventsTry(economy, playerAsked(service, economy, { player, profile }, atMs), list, atMs, seed),
      },
    };
  },
} satisfies Partial<Handlers>;

/** Throws a problem that names every field that does not fit. */
function eventsFit(economy: Economy, events: readonly { name: string; fields?: object | undefined }[]): void {
  const issues = events.flatMap(({ name, fields = {} }, index) =>
    eventProblems(economy, name, fields as Record<string, Value>).map((message) => ({
      code: 'wrong-value' as const,
      pointer: `/events/${index}`,
      message,
      fix: 'See the events of the economy.',
    })),
  );
  if (issues.length > 0) throw invalid('The events do not fit; none was handled.', issues);
}

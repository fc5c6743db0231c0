/** Players: who they are, what they have, what happened to them, and what support gives. */
import type { Basket } from '../../core/amount/index.js';
import { eventProblems } from '../../core/earning/index.js';
import type { GameEvent } from '../../core/earning/index.js';
import { checked, fields, mapOf, schemaIssues, text } from '../../core/schema/index.js';
import type { Value } from '../../core/formula/index.js';
import { playerSettle } from '../../core/player/index.js';
import { Problem, invalid, notFound } from '../problem.js';
import { CHANNEL_QUERY, PAGE_QUERY, bodyOf, pageLimit, pageOf, queryNumber } from '../route.js';
import type { Route } from '../route.js';
import type { Service } from '../service.js';
import { idempotencyKey } from './trade.js';

const value = () =>
  checked<Value>({ type: ['number', 'string', 'boolean'] }, (written) =>
    ['string', 'boolean'].includes(typeof written) || (typeof written === 'number' && Number.isFinite(written))
      ? undefined
      : { code: 'wrong-type', problem: `${JSON.stringify(written)} is not a number or a text`, fix: 'Write one.' },
  );
const units = () =>
  checked<number>({ type: 'integer', minimum: 1, maximum: Number.MAX_SAFE_INTEGER }, (written) =>
    Number.isSafeInteger(written) && (written as number) >= 1
      ? undefined
      : {
          code: 'bad-amount',
          problem: `${JSON.stringify(written)} is not a whole number of smallest units above 0`,
          fix: 'Write 1 or more.',
        },
  );
const playerId = () =>
  checked<string>({ type: 'string', pattern: '^[A-Za-z0-9_.:-]{1,64}$' }, (written) =>
    typeof written === 'string' && /^[A-Za-z0-9_.:-]{1,64}$/.test(written)
      ? undefined
      : {
          code: 'malformed-id',
          problem: `${JSON.stringify(written)} cannot be a player's id`,
          fix: 'Use 1 to 64 letters, digits, _ . : or -.',
        },
  );

const createBody = fields({ id: playerId().required(), name: text(120), attributes: mapOf(value()) });
const eventSchema = fields({ id: text(200).required(), name: text(64).required(), fields: mapOf(value()) });
const MOST_EVENTS = 1000;
const eventsBody = fields({
  events: checked<unknown[]>(
    { type: 'array', maxItems: MOST_EVENTS, items: { $ref: '#/components/schemas/Event' } },
    (list) =>
      Array.isArray(list) && list.length > 0 && list.length <= MOST_EVENTS
        ? undefined
        : {
            problem: `events are a list of 1 to ${MOST_EVENTS}`,
            fix: 'Send [{"id": "...", "name": "...", "fields": {...}}].',
          },
  ).required(),
});
const grantBody = fields({ gives: mapOf(units()), takes: mapOf(units()), reason: text(500).required() });
export const playerSchemas = { Event: eventSchema };

/** The player now: refills are counted up to this instant, without being written. */
function playerView(service: Service, id: string) {
  const held = service.players.get(id);
  if (!held) throw notFound('player', id);
  const { economy, release } = service.economies.live();
  const nowMs = service.now();
  return { atMs: nowMs, release, ...playerSettle(economy, held.player, nowMs).player };
}

export const playerRoutes: Route[] = [
  {
    method: 'get',
    path: '/players',
    needs: 'read',
    summary: 'Players by id',
    query: { search: 'Part of an id or name', ...PAGE_QUERY },
    handle: ({ service, query }) => {
      const limit = pageLimit(query);
      return {
        body: pageOf(
          service.players.search(query['search'] ?? '', query['cursor'] ?? '', limit),
          limit,
          ({ id }) => id,
        ),
      };
    },
  },
  {
    method: 'post',
    path: '/players',
    needs: 'game',
    summary: 'Creates a player with the start balances',
    body: createBody,
    handle: async (incoming) => {
      const {
        id,
        name = id,
        attributes = {},
      } = bodyOf<{ id: string; name?: string; attributes?: Record<string, Value> }>(incoming);
      await incoming.service.trading.create(id, name, attributes, incoming.who.name);
      return { status: 201, body: playerView(incoming.service, id), headers: { Location: `/api/v1/players/${id}` } };
    },
  },
  {
    method: 'get',
    path: '/players/{id}',
    needs: 'read',
    summary: 'One player: attributes, balances, stacks, counters',
    handle: ({ service, params }) => ({ body: playerView(service, params['id']!) }),
  },
  {
    method: 'get',
    path: '/players/{id}/ledger',
    needs: 'read',
    summary: 'Every movement of a player, oldest first',
    query: PAGE_QUERY,
    handle: ({ service, params, query }) => {
      if (!service.players.get(params['id']!)) throw notFound('player', params['id']!);
      const limit = pageLimit(query);
      return {
        body: pageOf(
          service.players.ledger(params['id']!, queryNumber(query, 'cursor', 0, 0, Number.MAX_SAFE_INTEGER), limit),
          limit,
          ({ id }) => id,
        ),
      };
    },
  },
  {
    method: 'post',
    path: '/players/{id}/grants',
    needs: 'support',
    summary: 'Gives or takes with a reason; amounts in smallest units. Idempotency-Key makes a repeat harmless',
    body: grantBody,
    handle: async (incoming) => {
      const { service, params, who } = incoming;
      const { gives = {}, takes = {}, reason } = bodyOf<{ gives?: Basket; takes?: Basket; reason: string }>(incoming);
      if (Object.keys(gives).length + Object.keys(takes).length === 0)
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
      const { answer, repeated } = await service.trading.grant(
        params['id']!,
        gives,
        takes,
        reason,
        who.name,
        idempotencyKey(incoming),
      );
      return {
        status: repeated ? 200 : 201,
        body: answer,
        headers: repeated ? { 'Idempotency-Replayed': 'true' } : {},
      };
    },
  },
  {
    method: 'post',
    path: '/players/{id}/events',
    needs: 'game',
    summary: 'Reports game events; each id counts once, ever',
    body: eventsBody,
    query: CHANNEL_QUERY,
    handle: async (incoming) => {
      const { service, params, query } = incoming;
      const { events } = bodyOf<{ events: unknown[] }>(incoming);
      const { economy } = service.economies.live(query['channel']);
      const issues = events.flatMap((event, index) =>
        eventIssues(economy, event).map((issue) => ({ ...issue, pointer: `/events/${index}${issue.pointer}` })),
      );
      if (issues.length > 0) throw invalid('The events do not fit; none was handled.', issues);
      const list = (events as (Omit<GameEvent, 'fields'> & { fields?: GameEvent['fields'] })[]).map((event) => ({
        ...event,
        fields: event.fields ?? {},
      }));
      return { body: { events: await service.trading.report(params['id']!, list, query['channel']) } };
    },
  },
];

function eventIssues(economy: Parameters<typeof eventProblems>[0], event: unknown) {
  const issues = schemaIssues(eventSchema.required(), event);
  if (issues.length > 0) return issues;
  const { name, fields: given = {} } = event as { name: string; fields?: Record<string, Value> };
  return eventProblems(economy, name, given).map((message) => ({
    code: 'wrong-value' as const,
    pointer: '',
    message,
    fix: 'See the events of the economy.',
  }));
}

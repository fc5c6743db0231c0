/** What players do with what they hold: selling back, using, opening, collecting. */
import { checked, fields, schemaIssues, text, wholeNumber } from '../../core/schema/index.js';
import type { ActKind, ActRequest } from '../../core/trade/index.js';
import { invalid } from '../problem.js';
import { unitsBasket } from '../profile.js';
import { CHANNEL_QUERY, bodyOf } from '../route.js';
import type { Route } from '../route.js';
import { idempotencyKey } from './trade.js';

const who = { player: text(64).required(), item: text(64).required() };
const times = { times: wholeNumber(1, Number.MAX_SAFE_INTEGER) };
const sellBody = fields({ ...who, ...times, shop: text(64).required(), expect: unitsBasket() });
const openBody = fields({ ...who, ...times });
const collectBody = fields(who);
const useSchema = fields({ id: text(200).required(), item: text(64).required(), ...times });
const MOST_USES = 1000;
const usesBody = fields({
  player: text(64).required(),
  uses: checked<unknown[]>(
    { type: 'array', maxItems: MOST_USES, items: { $ref: '#/components/schemas/Use' } },
    (list) =>
      Array.isArray(list) && list.length > 0 && list.length <= MOST_USES
        ? undefined
        : { problem: `uses are a list of 1 to ${MOST_USES}`, fix: 'Send [{"id": "...", "item": "...", "times": 1}].' },
  ).required(),
});
export const actSchemas = { Use: useSchema };

const PREVIEW = { preview: '1 tells what would happen, and does nothing', ...CHANNEL_QUERY };

/** One act with an Idempotency-Key, or a look at what it would do. */
function actRoute(path: string, kind: ActKind, summary: string, body: Route['body']): Route {
  return {
    method: 'post',
    path,
    needs: 'game',
    summary: `${summary}. Idempotency-Key makes a repeat harmless`,
    query: PREVIEW,
    ...(body ? { body } : {}),
    handle: async (incoming) => {
      const { service, query } = incoming;
      const { player, ...request } = bodyOf<ActRequest & { player: string }>(incoming);
      if (query['preview'] === '1')
        return { body: { verdict: service.trading.actAsk(kind, player, request, query['channel']) } };
      const { answer, repeated } = await service.trading.act(
        kind,
        player,
        request,
        idempotencyKey(incoming),
        query['channel'],
      );
      return {
        status: repeated ? 200 : 201,
        body: answer,
        headers: repeated ? { 'Idempotency-Replayed': 'true' } : {},
      };
    },
  };
}

export const actRoutes: Route[] = [
  actRoute('/buybacks', 'sell', 'Sells what a player holds back to a shop', sellBody),
  actRoute('/openings', 'open', 'Opens boxes', openBody),
  actRoute('/collections', 'collect', 'Collects what an item has yielded', collectBody),
  {
    method: 'post',
    path: '/uses',
    needs: 'game',
    summary: 'Uses things, many in one batch; each id counts once, ever, and a refusal of one stops none of the others',
    body: usesBody,
    query: CHANNEL_QUERY,
    handle: async (incoming) => {
      const { player, uses } = bodyOf<{ player: string; uses: unknown[] }>(incoming);
      const issues = uses.flatMap((use, index) =>
        schemaIssues(useSchema.required(), use).map((issue) => ({
          ...issue,
          pointer: `/uses/${index}${issue.pointer}`,
        })),
      );
      if (issues.length > 0) throw invalid('The uses do not fit; none was counted.', issues);
      const list = uses as (ActRequest & { id: string })[];
      return { body: { uses: await incoming.service.trading.useMany(player, list, incoming.query['channel']) } };
    },
  },
];

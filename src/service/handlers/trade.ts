/** What players see and do: the storefront, dry-run checks and purchases, and acts with what they hold. */
import { CONTRACT } from '../../contract/index.js';
import type { ActAnswer, ActKey } from '../../contract/index.js';
import { frontMake, frontTell, verdictTell } from '../../core/storefront/index.js';
import { verdictExplain } from '../../core/texts/index.js';
import { rehearsalKept } from '../../core/cases/index.js';
import { rehearsalEnd, rehearse, stepsRead, stepsTold } from '../../core/rehearsal/index.js';
import type { WrittenStep } from '../../core/rehearsal/index.js';
import { UNTOUCHED, purchaseCheck } from '../../core/trade/index.js';
import type { ActKind, ActRequest } from '../../core/trade/index.js';
import { DEFAULT_LIMIT, onceReply, onePage, pageOf } from '../handler.js';
import type { Handlers, Reply } from '../handler.js';
import { invalid, notFound } from '../problem.js';
import type { Service } from '../service.js';
import { playerAsked } from '../asked.js';

interface ActCall {
  service: Service;
  body: ActRequest & { player: string };
  query: { preview?: boolean; channel?: string };
  key: string | undefined;
}
/** Does an act once per key, or tells what it would do. */
const actHandler =
  (kind: ActKind) =>
  async ({ service, body, query, key }: ActCall): Promise<Reply<ActAnswer>> => {
    const { player, ...request } = body;
    return key === undefined
      ? { body: service.acts.ask(kind, player, request, query.channel) }
      : onceReply(await service.acts.act(kind, player, request, key, query.channel));
  };

/** The contract says which act each of them is. */
const actHandlers = Object.fromEntries(
  Object.entries(CONTRACT).flatMap(([key, operation]) =>
    'act' in operation ? [[key, actHandler(operation.act)]] : [],
  ),
) as Record<ActKey, ReturnType<typeof actHandler>>;

export const tradeHandlers = {
  ...actHandlers,
  'GET /shops': ({ service, query }) => {
    const { economy } = service.sources.of(query.source);
    const shops = [...economy.shops.values()].map(({ id, name, hidden, shelves }) => ({
      id,
      name,
      hidden,
      offers: shelves.reduce((sum, { offers }) => sum + offers.length, 0),
    }));
    return { body: onePage(shops) };
  },
  'GET /shops/{shop}/front': ({ service, params, query: { player, profile, at, source, language } }) => {
    const { economy, release, atMs } = service.sources.at(source, at);
    const shop = economy.shops.get(params.shop);
    if (!shop) throw notFound('shop', params.shop, economy.shops.keys());
    const asked = playerAsked(service, economy, { player, profile }, atMs);
    const front = frontMake(economy, shop, asked, service.shared.get(), atMs);
    return { body: { release, ...(language === undefined ? front : frontTell(economy, front, language)) } };
  },
  'POST /checks': ({ service, body: { source, checks, language } }) => {
    const { release } = service.sources.of(source);
    const verdicts = checks.map(({ player, profile, at, ...request }) => {
      const { economy, atMs } = service.sources.at(source, at);
      const asked = playerAsked(service, economy, { player, profile }, atMs);
      const checked = purchaseCheck(economy, asked, service.shared.get(), request, atMs);
      const verdict = verdictExplain(economy, checked);
      return language === undefined ? verdict : { ...verdict, told: verdictTell(economy, verdict, language) };
    });
    return { body: { release, verdicts } };
  },
  'POST /rehearsals': ({ service, body }) => {
    const { player, profile, source, at, seed, language, shop: shopId, steps: written, untouched, keep } = body;
    const { economy, release, atMs } = service.sources.at(source, at);
    const read = stepsRead(economy, written as WrittenStep[], 'smallest-units');
    if (!read.ok)
      throw invalid(
        'The steps do not fit; none was taken.',
        read.problems.map(({ step, message, fix }) => ({
          code: 'wrong-value',
          pointer: `/steps/${step}`,
          message,
          fix,
        })),
      );
    const start = {
      player: playerAsked(service, economy, { player, profile }, atMs),
      shared: untouched ? UNTOUCHED : service.shared.get(),
      atMs,
    };
    const shop = shopId === undefined ? undefined : economy.shops.get(shopId);
    if (shopId !== undefined && !shop) throw notFound('shop', shopId, economy.shops.keys());
    const { steps, state } = rehearse(economy, start, read.steps, seed);
    const kept = keep
      ? rehearsalKept(
          economy,
          start,
          { steps: read.steps, seed, language, profile: player === undefined ? (profile ?? {}) : undefined },
          steps,
        )
      : undefined;
    const front = shop && frontMake(economy, shop, state.player, state.shared, state.atMs);
    return {
      body: {
        release,
        steps: stepsTold(economy, read.steps, steps, language),
        end: rehearsalEnd(economy, state),
        ...(kept ? { kept } : {}),
        ...(front
          ? { front: { release, ...(language === undefined ? front : frontTell(economy, front, language)) } }
          : {}),
      },
    };
  },
  'GET /purchases': ({ service, query: { cursor = 0, limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.purchases.made(cursor, limit), limit, ({ purchase }) => purchase),
  }),
  'POST /purchases': async ({ service, body: { player, ...request }, query, key }) =>
    onceReply(await service.purchases.buy(player, request, key, query.channel)),
  'POST /uses': async ({ service, body: { player, uses }, query }) => ({
    body: { uses: await service.acts.useMany(player, uses, query.channel) },
  }),
} satisfies Partial<Handlers>;

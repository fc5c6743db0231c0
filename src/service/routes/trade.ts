/** What players see and do: the storefront, dry-run checks and purchases. */
import { checked, fields, schemaIssues, text, wholeNumber } from '../../core/schema/index.js';
import { frontMake, frontTell, verdictTell } from '../../core/storefront/index.js';
import { purchaseCheck } from '../../core/trade/index.js';
import { verdictExplain } from '../../core/texts/index.js';
import type { PurchaseRequest } from '../../core/trade/index.js';
import type { CheckQuestion } from '../../core/wire/index.js';
import type { Profile } from '../../core/player/index.js';
import { Problem, invalid, notFound } from '../problem.js';
import { playerAsked, profileSchema, sourceAt, sourceEconomy, unitsBasket } from '../profile.js';
import { CHANNEL_QUERY, bodyOf, languageOf } from '../route.js';
import type { Incoming, Route } from '../route.js';

const requestFields = {
  offer: text(64).required(),
  times: wholeNumber(1, Number.MAX_SAFE_INTEGER),
  pay: text(600),
  expect: unitsBasket(),
};
const checkSchema = fields({ ...requestFields, player: text(64), profile: profileSchema, at: text(40) });
const MOST_CHECKS = 1000;
const checksBody = fields({
  source: text(64),
  language: text(20),
  checks: checked<unknown[]>(
    { type: 'array', maxItems: MOST_CHECKS, items: { $ref: '#/components/schemas/Check' } },
    (value) =>
      Array.isArray(value) && value.length > 0 && value.length <= MOST_CHECKS
        ? undefined
        : {
            problem: `checks are a list of 1 to ${MOST_CHECKS} questions`,
            fix: 'Send [{"offer": "...", "player": "..."}].',
          },
  ).required(),
});
const purchaseBody = fields({ player: text(64).required(), ...requestFields });
export const tradeSchemas = { Check: checkSchema };

/** A made-up player written as JSON in the query. */
export function profileOf(written: string | undefined): Profile | undefined {
  if (written === undefined) return undefined;
  try {
    return JSON.parse(written) as Profile;
  } catch {
    throw new Problem(
      'bad-request',
      '"profile" must be JSON, such as {"attributes": {"level": 3}, "holds": {"shells": 500}}.',
    );
  }
}

/** The key under which a player's press is done once. */
export function idempotencyKey(incoming: Incoming): string {
  const key = incoming.header('idempotency-key');
  if (!key || key.length > 200)
    throw new Problem(
      'key-needed',
      'Send an Idempotency-Key header of up to 200 characters, new for each thing that a player does, the same when you repeat a request.',
    );
  return key;
}

export const tradeRoutes: Route[] = [
  {
    method: 'get',
    path: '/shops',
    needs: 'read',
    summary: 'The shops of a release or the draft',
    query: { source: 'draft, a channel or a release number; live by default' },
    handle: ({ service, query }) => {
      const { economy } = sourceEconomy(service, query['source']);
      return {
        body: {
          items: [...economy.shops.values()].map(({ id, name, hidden }) => ({
            id,
            name,
            hidden,
            offers: [...economy.offers.values()].filter(({ shop }) => shop.id === id).length,
          })),
          next: null,
        },
      };
    },
  },
  {
    method: 'get',
    path: '/shops/{id}/front',
    needs: 'read',
    summary: 'What is on show, at what price, with a verdict for each offer',
    query: {
      player: 'A real player',
      profile: 'Or a made-up one, as JSON',
      at: 'An instant; now by default',
      source: 'draft, a channel or a release number; live by default',
      language: 'Names, prices, the question and the refusals in the words of a language, such as pt',
    },
    handle: ({ service, query, params }) => {
      const { economy, release, atMs } = sourceAt(service, query['source'], query['at']);
      const shop = economy.shops.get(params['id']!);
      if (!shop) throw notFound('shop', params['id']!);
      const player = playerAsked(
        service,
        economy,
        { player: query['player'], profile: profileOf(query['profile']) },
        atMs,
      );
      const front = frontMake(economy, shop, player, service.players.shared(), atMs);
      const language = languageOf(query);
      return { body: { release, ...(language === undefined ? front : frontTell(economy, front, language)) } };
    },
  },
  {
    method: 'post',
    path: '/checks',
    needs: 'read',
    summary: 'Dry runs of purchases: every reason, the price broken down, before and after',
    body: checksBody,
    handle: (incoming) => {
      const { service } = incoming;
      const { source, checks, language } = bodyOf<{ source?: string; checks: unknown[]; language?: string }>(incoming);
      const told = languageOf(language === undefined ? {} : { language });
      const issues = checks.flatMap((check, index) =>
        schemaIssues(checkSchema.required(), check).map((issue) => ({
          ...issue,
          pointer: `/checks/${index}${issue.pointer}`,
        })),
      );
      if (issues.length > 0) throw invalid('The body does not fit.', issues);
      const { release } = sourceEconomy(service, source);
      const verdicts = (checks as CheckQuestion[]).map(({ player, profile, at, ...request }) => {
        const { economy, atMs } = sourceAt(service, source, at);
        const verdict = verdictExplain(
          economy,
          purchaseCheck(
            economy,
            playerAsked(service, economy, { player, profile }, atMs),
            service.players.shared(),
            request,
            atMs,
          ),
        );
        return told === undefined ? verdict : { ...verdict, told: verdictTell(economy, verdict, told) };
      });
      return { body: { release, verdicts } };
    },
  },
  {
    method: 'post',
    path: '/purchases',
    needs: 'game',
    summary: 'Buys: paying and receiving in one act. Idempotency-Key makes a repeat harmless',
    body: purchaseBody,
    query: CHANNEL_QUERY,
    handle: async (incoming) => {
      const { player, ...request } = bodyOf<PurchaseRequest & { player: string }>(incoming);
      const { answer, repeated } = await incoming.service.trading.buy(
        player,
        request,
        idempotencyKey(incoming),
        incoming.query['channel'],
      );
      return {
        status: repeated ? 200 : 201,
        body: answer,
        headers: repeated ? { 'Idempotency-Replayed': 'true' } : {},
      };
    },
  },
];

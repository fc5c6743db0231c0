/** What players see and do: the storefront, dry-run checks, purchases, and acts with what they hold. */
import { about, fields, listOf, record, text, yesNo } from '../../core/schema/index.js';
import type { ActKind } from '../../core/trade/index.js';
import { BATCH_KB, operations, unlessLive } from '../operation.js';
import type { Asked } from '../operation.js';
import {
  CHANNEL_QUERY,
  NUMBERED_PAGE_QUERY,
  atQuery,
  languageQuery,
  listed,
  pageOf,
  profile,
  sourceQuery,
} from '../shapes/common.js';
import * as rehearsal from '../shapes/rehearsal.js';
import * as trade from '../shapes/trade.js';

const LOOKING = ['not-found', 'invalid', 'nothing-published'] as const;
const DOING = [...LOOKING, 'key-needed', 'key-reused'] as const;
const MOST = 1000;

/** Each check costs about as much as this many times of a price by a formula. */
const TIMES_OF_CHECK = 20;
const MOST_TIMES = 2000;

/** Whether so much is checked that it takes longer than others should wait. */
const isLong = ({ body }: Asked): boolean =>
  (body as { checks: { times?: number }[] }).checks.reduce((sum, { times = 1 }) => sum + TIMES_OF_CHECK + times, 0) >
  MOST_TIMES;

/** One act with an Idempotency-Key, or a look at what it would do. */
const act = <const A extends ActKind, const B extends object>(kind: A, id: string, summary: string, body: B) =>
  ({
    id,
    act: kind,
    role: 'game',
    summary: `${summary}. Idempotency-Key makes a repeat harmless`,
    query: { preview: about('True tells what would happen, and does nothing', yesNo()), ...CHANNEL_QUERY },
    key: 'unless-preview',
    body,
    answers: { 200: trade.actAnswer, 201: trade.actAnswer },
    problems: [...DOING, 'act-refused'],
  }) as const;

export const tradeOperations = operations({
  'GET /shops': {
    id: 'listShops',
    role: 'read',
    aside: unlessLive,
    summary: 'The shops of a release or the draft',
    query: { source: sourceQuery() },
    answers: { 200: pageOf(trade.shop) },
    problems: ['not-found', 'nothing-published'],
  },
  'GET /shops/{shop}/front': {
    id: 'getStorefront',
    role: 'read',
    aside: unlessLive,
    summary: 'What is on show, at what price, with a verdict for each offer',
    query: {
      player: about('A real player', text(64)),
      profile: about('Or a made-up one, as JSON', profile),
      at: atQuery(),
      source: sourceQuery(),
      language: languageQuery(),
    },
    answers: { 200: trade.front },
    problems: LOOKING,
  },
  'POST /checks': {
    id: 'checkPurchase',
    role: 'read',
    aside: (asked) => unlessLive(asked) || isLong(asked),
    summary: 'Dry runs of purchases: every reason, the price broken down, before and after',
    bodyKb: BATCH_KB,
    body: fields({
      source: text(64),
      language: languageQuery(),
      checks: listOf(trade.check, {
        least: 1,
        most: MOST,
        of: 'questions',
        fix: 'Send [{"offer": "...", "player": "..."}].',
      }).required(),
    }),
    answers: { 200: trade.checksAnswer },
    problems: LOOKING,
  },
  'POST /rehearsals': {
    id: 'rehearse',
    role: 'read',
    aside: true,
    summary: 'A throwaway player does one thing after another; what becomes of each step. Nothing is kept',
    bodyKb: BATCH_KB,
    body: rehearsal.rehearsalAsked,
    answers: { 200: rehearsal.rehearsed },
    problems: LOOKING,
  },
  'POST /purchases': {
    id: 'purchase',
    role: 'game',
    summary: 'Buys: paying and receiving in one act. Idempotency-Key makes a repeat harmless',
    query: CHANNEL_QUERY,
    key: 'always',
    body: trade.purchaseRequest,
    answers: { 200: trade.purchaseAnswer, 201: trade.purchaseAnswer },
    problems: [...DOING, 'purchase-refused'],
  },
  'GET /purchases': {
    id: 'listPurchases',
    role: 'read',
    summary: 'Purchases of all players, oldest first; attributes are those of the player now',
    query: NUMBERED_PAGE_QUERY,
    answers: { 200: pageOf(trade.purchaseRow) },
  },
  'POST /buybacks': act('sell', 'sellBack', 'Sells what a player holds back to a shop', trade.sellRequest),
  'POST /openings': act('open', 'openBox', 'Opens boxes', trade.openRequest),
  'POST /collections': act('collect', 'collectYields', 'Collects what an item has yielded', trade.collectRequest),
  'POST /uses': {
    id: 'useItem',
    role: 'game',
    summary: 'Uses things, many in one batch; each id counts once, ever, and a refusal of one stops none of the others',
    query: CHANNEL_QUERY,
    bodyKb: BATCH_KB,
    body: fields({
      player: text(64).required(),
      uses: listOf(trade.useRequest, {
        least: 1,
        most: MOST,
        of: 'uses',
        fix: 'Send [{"id": "...", "item": "...", "times": 1}].',
      }).required(),
    }),
    answers: { 200: record({ uses: listed('uses', trade.usedAnswer) }) },
    problems: [...LOOKING, 'key-reused'],
  },
});

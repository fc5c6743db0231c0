/** The designer's tools on the draft: edits of many places, sheets, where things are used, flows, values, odds, pictures. */
import type { Operation } from 'fast-json-patch';
import {
  EDIT_KINDS,
  SHEET_NAMES,
  assetFlow,
  csvRead,
  csvWrite,
  documentEdit,
  formulaValues,
  moneyRows,
} from '../../core/catalog/index.js';
import { THING_KINDS, documentChanges, documentPatch, usesOf } from '../../core/document/index.js';
import type { Edit, SheetName } from '../../core/catalog/index.js';
import {
  anyNumber,
  checked,
  choice,
  fields,
  mapOf,
  schemaIssues,
  schemaToJson,
  text,
  wholeNumber,
  yesNo,
} from '../../core/schema/index.js';
import { economyCompile } from '../../core/economy/index.js';
import type { AnySchema } from '../../core/schema/index.js';
import type { Change, EconomyDocument } from '../../core/document/index.js';
import { boxOdds, lootOdds } from '../../core/loot/index.js';
import { playerScope } from '../../core/player/index.js';
import { overridesApply } from '../../core/simulation/index.js';
import type { DraftSaved, EditAnswer, OddsQuestion } from '../../core/wire/index.js';
import type { Profile } from '../../core/player/index.js';
import { Problem, invalid, notFound } from '../problem.js';
import { playerAsked, profileSchema, sourceEconomy } from '../profile.js';
import { bodyOf, instantOf, revisionOf } from '../route.js';
import type { Incoming, Reply, Route } from '../route.js';
import { profileOf } from './trade.js';

// --- edits

const pointer = () => text(500).required();
const round = fields({ to: anyNumber(0, 1e9).required(), way: choice('up', 'down', 'nearest').required() });
const listOf = (item: AnySchema, most: number) =>
  checked<unknown[]>({ type: 'array', maxItems: most }, (value) =>
    Array.isArray(value) && value.length <= most && value.every((one) => schemaIssues(item, one).length === 0)
      ? undefined
      : { problem: `a list of up to ${most} is needed, each of the right shape`, fix: 'See openapi.json.' },
  );
const anything = () => checked<unknown>({}, () => undefined);

/** The body of each kind of edit, beside `kind`. */
const EDIT_SCHEMAS: Readonly<Record<Edit['kind'], AnySchema>> = {
  remove: fields({ kind: text(), pointer: pointer(), mend: yesNo() }).required(),
  duplicate: fields({ kind: text(), pointer: pointer(), name: text(120) }).required(),
  move: fields({ kind: text(), pointer: pointer(), into: text(500), before: text(64) }).required(),
  reprice: fields({
    kind: text(),
    where: fields({
      ids: listOf(text(64).required(), 10_000),
      group: text(64),
      tag: text(64),
      shop: text(64),
    }).required(),
    of: choice('items', 'offers', 'both'),
    asset: text(64),
    percent: anyNumber(-100, 1_000_000).required(),
    round,
  }).required(),
  tiers: fields({
    kind: text(),
    pointer: pointer(),
    tiers: listOf(
      fields({ count: wholeNumber(1, 1_000_000).required(), discount: anyNumber(0, 100).required() }).required(),
      20,
    ).required(),
    round,
  }).required(),
  set: fields({ kind: text(), pointer: pointer(), value: anything() }).required(),
};
/** For openapi.json; `editOf` tells what is wrong in detail. */
const editShape = checked<unknown>(
  { oneOf: EDIT_KINDS.map((kind) => ({ title: kind, ...schemaToJson(EDIT_SCHEMAS[kind]) })) },
  () => undefined,
);
const editBody = fields({ kind: choice(...EDIT_KINDS).required() });

function editOf(body: unknown): Edit {
  const kind = (body as { kind?: unknown } | null)?.kind;
  const known = EDIT_KINDS.find((one) => one === kind);
  const issues = known ? schemaIssues(EDIT_SCHEMAS[known], body) : schemaIssues(editBody.required(), body);
  if (issues.length > 0) throw invalid('The body does not fit.', issues);
  return body as Edit;
}

/** What was done, for the history: the only change itself, or what kind of edit made how many. */
const whyWords = (why: string, changes: readonly Change[]): string =>
  changes.length === 1 ? changes[0]!.words : `${why}: ${changes.length} changes`;

/** Saves `after` as the draft, or only says what it would change. */
async function answerWith(
  incoming: Incoming,
  before: EconomyDocument,
  after: EconomyDocument,
  more: { notes: string[]; made?: string | undefined },
  why: string,
): Promise<Reply> {
  const { service, who, query } = incoming;
  const changes = documentChanges(before, after);
  const preview = query['preview'] === '1';
  let saved: DraftSaved | null = null;
  if (!preview && changes.length > 0) {
    const from = revisionOf(incoming);
    saved = await service.writer.submit(() =>
      service.economies.saveDraft(after, from, who.name, (query['why'] ?? whyWords(why, changes)).slice(0, 500)),
    );
  }
  const answer: EditAnswer = {
    saved,
    changes,
    notes: more.notes,
    made: more.made ?? null,
    operations: documentPatch(before, after) as Operation[],
    undo: documentPatch(after, before) as Operation[],
  };
  return { body: answer, headers: saved ? { ETag: `"${saved.revision}"` } : {} };
}

const PREVIEW = { preview: '1 shows what would change, and saves nothing', why: 'A word on why' };

// --- odds

const oddsBody = fields({
  id: text(64).required(),
  source: text(64),
  player: text(64),
  profile: profileSchema,
  set: mapOf(anything(), { test: (key) => key.startsWith('/'), rule: 'a JSON pointer', pattern: '^/' }),
});

function oddsOf({ service, ...incoming }: Incoming) {
  const { id, source = 'live', set, player, profile } = bodyOf<OddsQuestion>({ service, ...incoming });
  const from = sourceEconomy(service, source).economy;
  let economy = from;
  if (set) {
    const changed = overridesApply(from.document, set);
    if (!changed.ok) throw invalid('The changes do not fit.', changed.issues);
    economy = economyCompile(changed.value).economy;
  }
  const nowMs = service.now();
  const scope = playerScope(economy, playerAsked(service, economy, { player, profile }, nowMs), nowMs);
  const table = economy.loot.get(id);
  if (table) return lootOdds(economy, table, scope);
  const box = economy.items.get(id);
  if (box?.kind !== 'box') throw notFound('loot table or box', id);
  return boxOdds(economy, box, scope);
}

const sheetOf = ({ params }: Incoming): SheetName => {
  const sheet = SHEET_NAMES.find((name) => name === params['sheet']);
  if (!sheet)
    throw new Problem('not-found', `There is no sheet "${params['sheet']}". Sheets: ${SHEET_NAMES.join(', ')}.`);
  return sheet;
};

const rawBody = ({ body }: Incoming, what: string): Buffer => {
  if (!Buffer.isBuffer(body)) throw new Problem('bad-request', what);
  return body;
};

export const catalogRoutes: Route[] = [
  {
    method: 'post',
    path: '/draft/edits',
    needs: 'design',
    summary: `Edits of several places at once: ${EDIT_KINDS.join(', ')}; If-Match names the revision you started from`,
    query: PREVIEW,
    body: editShape,
    handle: (incoming) => {
      const edit = editOf(incoming.body);
      const { document } = incoming.service.economies.draft();
      const edited = documentEdit(document, edit);
      if (!edited.ok)
        throw new Problem(
          'edit-refused',
          edited.issues
            .map(({ message }) => message)
            .join('; ')
            .slice(0, 1000),
          {
            errors: edited.issues.map(({ pointer: at, code, message, fix }) => ({
              pointer: at,
              code,
              detail: message,
              fix,
            })),
            ...(edited.uses ? { uses: edited.uses } : {}),
          },
        );
      return answerWith(incoming, document, edited.document, edited, `${edit.kind}`);
    },
  },
  {
    method: 'get',
    path: '/draft/sheets/{sheet}',
    needs: 'read',
    summary: `The draft's ${SHEET_NAMES.join(', ')} as CSV (RFC 4180)`,
    handle: (incoming) => ({
      bytes: {
        type: 'text/csv; charset=utf-8; header=present',
        content: csvWrite(incoming.service.economies.draft().document, sheetOf(incoming)),
      },
    }),
  },
  {
    method: 'post',
    path: '/draft/sheets/{sheet}',
    needs: 'design',
    summary: 'Brings CSV rows into the draft (text/csv); If-Match names the revision you started from',
    query: PREVIEW,
    consumes: 'text/csv',
    handle: (incoming) => {
      const sheet = sheetOf(incoming);
      const csv = rawBody(incoming, 'Send the CSV as the body, with Content-Type: text/csv.').toString('utf8');
      const { document } = incoming.service.economies.draft();
      const read = csvRead(document, sheet, csv);
      if (!read.ok)
        throw new Problem('invalid', 'The CSV does not fit; the draft stays as it was.', {
          errors: read.problems.map(({ line, column, message }) => ({
            pointer: `line ${line}${column ? `, ${column}` : ''}`,
            code: 'wrong-value',
            detail: message,
            fix: 'Mend this cell and send the file again.',
            line,
            column,
          })),
        });
      const notes = [`${read.rows} rows read, ${read.added} of them new`];
      return answerWith(incoming, document, read.document, { notes }, `CSV of ${sheet}`);
    },
  },
  {
    method: 'get',
    path: '/draft/uses/{kind}/{id}',
    needs: 'read',
    summary: 'Where a thing is used: in which offers, tables, bundles, rules and formulas',
    handle: ({ service, params }) => {
      const kind = THING_KINDS.find((one) => one === params['kind']);
      if (!kind)
        throw new Problem('not-found', `There is no kind "${params['kind']}". Kinds: ${THING_KINDS.join(', ')}.`);
      const items = usesOf(service.economies.draft().document, { kind, id: params['id']! });
      return { body: { items, next: null } };
    },
  },
  {
    method: 'get',
    path: '/flows/{id}',
    needs: 'read',
    summary: 'Where a currency or item comes from, where it goes, and what it buys',
    query: { source: 'draft, a channel or a release number; live by default' },
    handle: ({ service, params, query }) => {
      const { economy } = sourceEconomy(service, query['source']);
      const id = params['id']!;
      if (!economy.currencies.has(id) && !economy.items.has(id)) throw notFound('currency or item', id);
      return { body: assetFlow(economy, id) };
    },
  },
  {
    method: 'get',
    path: '/draft/values',
    needs: 'read',
    summary: "What the draft's formulas come to for a player",
    query: { player: 'A real player', profile: 'Or a made-up one, as JSON', at: 'An instant; now by default' },
    handle: ({ service, query }) => {
      const { revision, economy } = service.economies.draft();
      const atMs = instantOf(query['at'], economy.zone, service.now());
      const asked: { player: string | undefined; profile: Profile | undefined } = {
        player: query['player'],
        profile: profileOf(query['profile']),
      };
      return { body: { revision, values: formulaValues(economy, playerAsked(service, economy, asked, atMs), atMs) } };
    },
  },
  {
    method: 'get',
    path: '/money',
    needs: 'read',
    summary: 'Real-money prices, gross and net, by store',
    query: { source: 'draft, a channel or a release number; live by default' },
    handle: ({ service, query }) => ({
      body: { items: moneyRows(sourceEconomy(service, query['source']).economy), next: null },
    }),
  },
  {
    method: 'post',
    path: '/odds',
    needs: 'read',
    summary: 'The exact odds of a loot table or box, with changes that are only being thought of',
    body: oddsBody,
    handle: (incoming) => ({ body: oddsOf(incoming) }),
  },
  {
    method: 'get',
    path: '/pictures',
    needs: 'read',
    summary: 'The icon pictures',
    handle: ({ service }) => ({ body: { items: service.pictures.list(), next: null } }),
  },
  {
    method: 'get',
    path: '/pictures/{name}',
    needs: 'read',
    summary: 'One icon picture',
    handle: ({ service, params, header }) => {
      const { type, bytes, hash } = service.pictures.get(params['name']!);
      const etag = `"${hash}"`;
      const headers = { ETag: etag, 'Cache-Control': 'private, no-cache' };
      return header('if-none-match') === etag ? { status: 304, headers } : { bytes: { type, content: bytes }, headers };
    },
  },
  {
    method: 'put',
    path: '/pictures/{name}',
    needs: 'design',
    summary: 'Uploads an icon picture: PNG, JPEG, WebP or GIF of at most 512 kB, as the body',
    consumes: 'image/*',
    handle: async (incoming) => {
      const { service, params, who } = incoming;
      const bytes = rawBody(incoming, 'Send the picture as the body, with its type, such as Content-Type: image/png.');
      const saved = await service.writer.submit(() => {
        const picture = service.pictures.save(params['name']!, bytes, who.name);
        service.trail.add(who.name, 'picture.save', picture.name);
        return picture;
      });
      return { status: 201, body: saved };
    },
  },
  {
    method: 'delete',
    path: '/pictures/{name}',
    needs: 'design',
    summary: 'Removes an icon picture',
    handle: async ({ service, params, who }) => {
      await service.writer.submit(() => {
        service.pictures.remove(params['name']!);
        service.trail.add(who.name, 'picture.remove', params['name']!);
      });
      return { status: 204 };
    },
  },
];

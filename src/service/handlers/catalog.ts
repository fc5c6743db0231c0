/** The designer's tools on the draft: edits of many places, sheets, where things are used, flows, values, odds, pictures. */
import type { Operation } from 'fast-json-patch';
import {
  assetFlow,
  csvRead,
  csvWrite,
  documentEdit,
  formulaTry,
  formulaValues,
  moneyRows,
} from '../../core/catalog/index.js';
import { documentChanges, documentPatch, usesOf } from '../../core/document/index.js';
import type { Change, EconomyDocument } from '../../core/document/index.js';
import { economyCompile } from '../../core/economy/index.js';
import { boxOdds, lootOdds, togetherProblem } from '../../core/loot/index.js';
import { playerScope } from '../../core/player/index.js';
import { overridesApply } from '../../core/document/index.js';
import { onePage } from '../handler.js';
import { instantOf } from '../instant.js';
import type { Handlers, Worked } from '../handler.js';
import { Problem, errorsOf, invalid, notFound } from '../problem.js';
import type { Service } from '../service.js';
import { playerAsked } from '../asked.js';

/** What was done, for the history, where one edit changes many places; a single change says it itself. */
const whyWords = (why: string, changes: readonly Change[]): string | undefined =>
  changes.length === 1 ? undefined : `${why}: ${changes.length} changes`;

interface Editing {
  service: Service;
  query: { why?: string };
  /** Undefined where the changes are only shown. */
  revision: number | undefined;
}

/** `after` as the new draft, or only what it would change. */
function editWorked(
  { service, query, revision }: Editing,
  before: EconomyDocument,
  after: EconomyDocument,
  more: { notes: string[]; made?: string | undefined },
  what: string,
): Worked {
  const changes = documentChanges(before, after);
  // A preview is the edit itself, not saved: it refuses what the edit refuses.
  if (revision === undefined && changes.length > 0) service.draft.saveable(after);
  const edited = {
    changes,
    notes: more.notes,
    made: more.made ?? null,
    operations: documentPatch(before, after) as Operation[],
    undo: documentPatch(after, before) as Operation[],
  };
  if (revision === undefined || changes.length === 0) return { kind: 'edit', edited };
  const save = { prepared: service.draft.prepare(after, revision), why: query.why ?? whyWords(what, changes) };
  return { kind: 'edit', edited, save };
}

export const catalogHandlers = {
  'POST /draft/edits': (incoming) => {
    const { document } = incoming.service.draft.current;
    const edited = documentEdit(document, incoming.body);
    if (!edited.ok) {
      const words = edited.issues.map(({ message }) => message).join('; ');
      throw new Problem('edit-refused', words.slice(0, 1000), {
        errors: errorsOf(edited.issues),
        ...(edited.uses ? { uses: edited.uses } : {}),
      });
    }
    return editWorked(incoming, document, edited.document, edited, incoming.body.kind);
  },
  'GET /draft/sheets/{sheet}': ({ service, params }) => ({
    bytes: {
      type: 'text/csv; charset=utf-8; header=present',
      content: csvWrite(service.draft.current.document, params.sheet),
    },
  }),
  'POST /draft/sheets/{sheet}': (incoming) => {
    const { sheet } = incoming.params;
    const { document } = incoming.service.draft.current;
    const read = csvRead(document, sheet, incoming.body.toString('utf8'));
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
    return editWorked(incoming, document, read.document, { notes: read.notes }, `CSV of ${sheet}`);
  },
  'GET /draft/uses/{kind}/{id}': ({ service, params }) => ({
    body: onePage(usesOf(service.draft.current.document, params)),
  }),
  'GET /flows/{asset}': ({ service, params: { asset }, query }) => {
    const { economy, document } = service.sources.of(query.source);
    if (!economy.currencies.has(asset) && !economy.items.has(asset))
      throw notFound('currency or item', asset, [...economy.currencies.keys(), ...economy.items.keys()]);
    return { body: assetFlow(document, economy, asset) };
  },
  'POST /draft/formula': ({ service, body: { player, profile, ...asked } }) => {
    const { economy } = service.draft.current;
    const nowMs = service.now();
    return { body: formulaTry(economy, playerAsked(service, economy, { player, profile }, nowMs), asked, nowMs) };
  },
  'GET /draft/values': ({ service, query: { player, profile, at } }) => {
    const { revision, economy } = service.draft.current;
    const atMs = instantOf(at, economy.zone, service.now());
    const asked = playerAsked(service, economy, { player, profile }, atMs);
    return { body: { revision, values: formulaValues(economy, asked, atMs) } };
  },
  'GET /money': ({ service, query }) => ({ body: onePage(moneyRows(service.sources.of(query.source).economy)) }),
  'POST /odds': ({ service, body: { id, source, set, player, profile, together = [] } }) => {
    const from = service.sources.of(source);
    let { economy } = from;
    if (set) {
      const changed = overridesApply(from.document, set);
      if (!changed.ok) throw invalid('The changes do not fit.', changed.issues);
      economy = economyCompile(changed.value).economy;
    }
    const nowMs = service.now();
    const scope = playerScope(economy, playerAsked(service, economy, { player, profile }, nowMs), nowMs);
    const table = economy.loot.get(id);
    const wrong = togetherProblem(economy, together);
    if (wrong)
      throw invalid('The set does not fit.', [
        {
          code: 'dangling-reference',
          pointer: `/together${wrong.at === undefined ? '' : `/${wrong.at}`}`,
          message: wrong.problem,
          fix: wrong.fix,
        },
      ]);
    if (table) return { body: lootOdds(economy, table, scope, {}, together) };
    const box = economy.items.get(id);
    if (box?.kind !== 'box') throw notFound('loot table or box', id, [...economy.loot.keys(), ...economy.items.keys()]);
    return { body: boxOdds(economy, box, scope, together) };
  },
  'GET /pictures': ({ service }) => ({ body: onePage(service.pictures.list()) }),
  'GET /pictures/{picture}': ({ service, params, header }) => {
    const { type, bytes, hash } = service.pictures.get(params.picture);
    const etag = `"${hash}"`;
    const headers = { ETag: etag, 'Cache-Control': 'private, no-cache' };
    return header('if-none-match') === etag ? { status: 304, headers } : { bytes: { type, content: bytes }, headers };
  },
  'PUT /pictures/{picture}': async ({ service, params, who, body }) => {
    const saved = await service.writer.submit(() => {
      const picture = service.pictures.save(params.picture, body, who.name);
      service.trail.add(who.name, 'picture.save', picture.name);
      return picture;
    });
    return { status: 201, body: saved };
  },
  'DELETE /pictures/{picture}': async ({ service, params: { picture }, who }) => {
    await service.writer.submit(() => {
      service.pictures.remove(picture);
      service.trail.add(who.name, 'picture.remove', picture);
    });
    return { status: 204 };
  },
} satisfies Partial<Handlers>;

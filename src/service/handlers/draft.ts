/** The working copy: read, save, patch, audit, differences, in and out as files. */
import type { Operation } from 'fast-json-patch';
import { findingCounts } from '../../core/audit/index.js';
import { casesProposed, casesRun } from '../../core/cases/index.js';
import { documentChanges, documentPatch } from '../../core/document/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { folderRead, folderWrite } from '../../core/files/index.js';
import { instantText } from '../../core/texts/index.js';
import { casesView } from '../draft/cases.js';
import { DEFAULT_LIMIT, pageOf } from '../handler.js';
import { instantOf } from '../instant.js';
import type { Handlers } from '../handler.js';
import { Problem, errorsOf, notFound } from '../problem.js';
import type { Service } from '../service.js';

/** The document that the draft is compared with: a release by number, or what a channel points at. */
function comparedWith(service: Service, against: string): { name: string; document: EconomyDocument } {
  const isNumber = /^\d+$/.test(against);
  if (isNumber || service.channels.exists(against))
    return { name: isNumber ? `release ${against}` : against, document: service.sources.of(against).document };
  const { name, timeZone } = service.draft.current.document;
  return { name: 'nothing (nothing is published yet)', document: { name, timeZone } };
}

export const draftHandlers = {
  'GET /draft': ({ service }) => {
    const { revision, document, savedMs, savedBy } = service.draft.current;
    return { body: { revision, savedMs, savedBy, document }, headers: { ETag: `"${revision}"` } };
  },
  'PUT /draft': ({ service, body, revision, query: { why } }) => ({
    kind: 'save',
    prepared: service.draft.prepare(body, revision),
    why,
  }),
  'PATCH /draft': ({ service, body, revision, query: { why } }) => ({
    kind: 'save',
    prepared: service.draft.preparePatch(body as Operation[], revision),
    why,
  }),
  'GET /draft/audit': ({ service }) => {
    const { revision } = service.draft.current;
    const findings = service.draft.findings();
    return { body: { revision, counts: findingCounts(findings), findings } };
  },
  'GET /cases': ({ service, query: { source = 'draft' } }) => {
    if (source === 'draft') return { body: service.draftCases.view() };
    const { release, document, economy } = service.sources.of(source);
    return { body: casesView(release, null, document, casesRun(economy, document)) };
  },
  'POST /cases/proposals': ({ service, body: { offers, at } }) => {
    const { economy } = service.draft.current;
    const unknown = offers.find((id) => !economy.offers.has(id));
    if (unknown !== undefined) throw notFound('offer', unknown, economy.offers.keys());
    const items = casesProposed(economy, offers, instantOf(at ?? 'now', economy.zone, service.now()));
    const found = new Set(items.map(({ offer }) => offer));
    return { body: { items, none: offers.filter((id) => !found.has(id)) } };
  },
  'GET /draft/changes': ({ service, query: { against = 'live', at } }) => {
    const base = comparedWith(service, against);
    const { revision, document } = service.draft.current;
    const zone = document.timeZone;
    const from = at === undefined ? '' : `, from ${instantText(zone, instantOf(at, zone, service.now()))}`;
    const changes = documentChanges(base.document, document).map((change) => ({
      ...change,
      words: `${change.words}${from}`,
    }));
    return { body: { revision, against: base.name, changes, patch: documentPatch(base.document, document) } };
  },
  'GET /draft/revisions': ({ service, query: { cursor = Number.MAX_SAFE_INTEGER, limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.draft.revisions(cursor, limit), limit, ({ revision }) => revision),
  }),
  'GET /draft/revisions/{revision}': ({ service, params }) => {
    const { revision, savedMs, savedBy, why, document } = service.draft.revision(params.revision);
    const empty: EconomyDocument = { name: document.name, timeZone: document.timeZone };
    const before = revision > 1 ? service.draft.revision(revision - 1).document : empty;
    return { body: { revision, savedMs, savedBy, why, changes: documentChanges(before, document) } };
  },
  'POST /draft/undo': ({ service, body: { to }, revision }) => ({
    kind: 'save',
    prepared: service.draft.prepareUndo(to, revision),
    why: `back to revision ${to}`,
  }),
  'POST /draft/import': ({ service, body: { files }, revision, query: { why } }) => {
    const { raw, issues } = folderRead(files);
    if (issues.length > 0)
      throw new Problem('invalid', 'The files cannot be read; the draft stays as it was.', {
        errors: errorsOf(issues),
      });
    return { kind: 'save', prepared: service.draft.prepare(raw, revision), why };
  },
  'GET /draft/export': ({ service }) => ({ body: { files: folderWrite([], service.draft.current.document) } }),
} satisfies Partial<Handlers>;

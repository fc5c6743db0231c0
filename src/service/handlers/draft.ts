/** The working copy: read, save, patch, audit, differences, in and out as files. */
import type { Operation } from 'fast-json-patch';
import type { DraftSaved } from '../../contract/index.js';
import { findingCounts } from '../../core/audit/index.js';
import { documentChanges, documentPatch } from '../../core/document/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { folderRead, folderWrite } from '../../core/files/index.js';
import { instantText } from '../../core/texts/index.js';
import { DEFAULT_LIMIT, instantOf, pageOf } from '../handler.js';
import type { Handlers, Reply } from '../handler.js';
import { Problem, errorsOf } from '../problem.js';
import type { Service } from '../service.js';

const saved = (body: DraftSaved): Reply<DraftSaved> => ({ body, headers: { ETag: `"${body.revision}"` } });

/** The document that the draft is compared with: a release by number, or what a channel points at. */
function comparedWith(service: Service, against: string): { name: string; document: EconomyDocument } {
  const { economies, channels } = service;
  if (/^\d+$/.test(against)) {
    const row = economies.releaseRow(Number(against));
    if (!row) throw new Problem('not-found', `There is no release ${against}.`);
    return { name: `release ${against}`, document: JSON.parse(row.document) as EconomyDocument };
  }
  if (channels.exists(against)) return { name: against, document: economies.live(against).document };
  const { name, timeZone } = economies.draft().document;
  return { name: 'nothing (nothing is published yet)', document: { name, timeZone } };
}

export const draftHandlers = {
  'GET /draft': ({ service }) => {
    const { revision, document, savedMs, savedBy } = service.economies.draft();
    return { body: { revision, savedMs, savedBy, document }, headers: { ETag: `"${revision}"` } };
  },
  'PUT /draft': async ({ service, who, body, revision, query: { why = 'saved' } }) =>
    saved(await service.writer.submit(() => service.economies.saveDraft(body, revision, who.name, why))),
  'PATCH /draft': async ({ service, who, body, revision, query: { why = 'edited' } }) =>
    saved(
      await service.writer.submit(() => service.economies.patchDraft(body as Operation[], revision, who.name, why)),
    ),
  'GET /draft/audit': ({ service }) => {
    const { revision } = service.economies.draft();
    const findings = service.economies.draftFindings();
    return { body: { revision, counts: findingCounts(findings), findings } };
  },
  'GET /draft/changes': ({ service, query: { against = 'live', at } }) => {
    const base = comparedWith(service, against);
    const { revision, document } = service.economies.draft();
    const zone = document.timeZone;
    const from = at === undefined ? '' : `, from ${instantText(zone, instantOf(at, zone, service.now()))}`;
    const changes = documentChanges(base.document, document).map((change) => ({
      ...change,
      words: `${change.words}${from}`,
    }));
    return { body: { revision, against: base.name, changes, patch: documentPatch(base.document, document) } };
  },
  'GET /draft/revisions': ({ service, query: { cursor = Number.MAX_SAFE_INTEGER, limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.economies.revisions(cursor, limit), limit, ({ revision }) => revision),
  }),
  'GET /draft/revisions/{revision}': ({ service, params }) => {
    const { revision, savedMs, savedBy, why, document } = service.economies.revision(params.revision);
    const empty: EconomyDocument = { name: document.name, timeZone: document.timeZone };
    const before = revision > 1 ? service.economies.revision(revision - 1).document : empty;
    return { body: { revision, savedMs, savedBy, why, changes: documentChanges(before, document) } };
  },
  'POST /draft/undo': async ({ service, who, body: { to }, revision }) =>
    saved(await service.writer.submit(() => service.economies.undoTo(to, revision, who.name))),
  'POST /draft/import': async ({ service, who, body: { files }, revision, query: { why = 'imported' } }) => {
    const { raw, issues } = folderRead(files);
    if (issues.length > 0)
      throw new Problem('invalid', 'The files cannot be read; the draft stays as it was.', {
        errors: errorsOf(issues),
      });
    return saved(await service.writer.submit(() => service.economies.saveDraft(raw, revision, who.name, why)));
  },
  'GET /draft/export': ({ service }) => ({ body: { files: folderWrite([], service.economies.draft().document) } }),
} satisfies Partial<Handlers>;

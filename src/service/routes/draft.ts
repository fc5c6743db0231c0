/** The working copy: read, save, patch, audit, differences, in and out as files. */
import type { Operation } from 'fast-json-patch';
import { findingCounts } from '../../core/audit/index.js';
import { checked, fields, wholeNumber } from '../../core/schema/index.js';
import { documentChanges, documentPatch } from '../../core/document/index.js';
import { folderRead, folderWrite } from '../../core/files/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { SourceFile } from '../../core/files/index.js';
import { instantText } from '../../core/texts/index.js';
import { Problem, invalid } from '../problem.js';
import { PAGE_QUERY, bodyOf, instantOf, pageLimit, pageOf, queryNumber, revisionOf } from '../route.js';
import type { Incoming, Reply, Route } from '../route.js';
import type { Service } from '../service.js';

const filesBody = fields({
  files: checked<SourceFile[]>(
    {
      type: 'array',
      items: {
        type: 'object',
        required: ['path', 'text'],
        properties: { path: { type: 'string' }, text: { type: 'string' } },
      },
    },
    (value) =>
      Array.isArray(value) &&
      value.every(
        (file) =>
          typeof (file as SourceFile | null)?.path === 'string' && typeof (file as SourceFile).text === 'string',
      )
        ? undefined
        : { problem: 'files are a list of {path, text}', fix: "Send the folder's files." },
  ).required(),
});

const revisionNumber = (written: string): number => {
  if (!/^\d{1,9}$/.test(written)) throw new Problem('not-found', `There is no revision "${written}" of the draft.`);
  return Number(written);
};

const whyOf = ({ query }: Incoming, otherwise: string): string => (query['why'] ?? otherwise).slice(0, 500);

function saved(reply: ReturnType<Service['economies']['saveDraft']>): Reply {
  const { revision, savedMs, savedBy, findings } = reply;
  return { body: { revision, savedMs, savedBy, findings }, headers: { ETag: `"${revision}"` } };
}

/** The document that the draft is compared with: a release by number, or what a channel points at. */
function comparedWith(service: Service, against: string): { name: string; document: EconomyDocument } {
  if (/^\d+$/.test(against)) {
    const row = service.economies.releaseRow(Number(against));
    if (!row) throw new Problem('not-found', `There is no release ${against}.`);
    return { name: `release ${against}`, document: JSON.parse(row.document) as EconomyDocument };
  }
  const pointed = service.channels.exists(against);
  const empty: EconomyDocument = {
    name: service.economies.draft().document.name,
    timeZone: service.economies.draft().document.timeZone,
  };
  return pointed
    ? { name: against, document: service.economies.live(against).economy.document }
    : { name: 'nothing (nothing is published yet)', document: empty };
}

export const draftRoutes: Route[] = [
  {
    method: 'get',
    path: '/draft',
    needs: 'read',
    summary: 'The draft with its revision',
    handle: ({ service }) => {
      const { revision, document, savedMs, savedBy } = service.economies.draft();
      return { body: { revision, savedMs, savedBy, document }, headers: { ETag: `"${revision}"` } };
    },
  },
  {
    method: 'put',
    path: '/draft',
    needs: 'design',
    summary: 'Replaces the draft; If-Match names the revision you started from',
    query: { why: 'A word on why' },
    handle: async (incoming) => {
      const { service, who, body } = incoming;
      const from = revisionOf(incoming);
      return saved(
        await service.writer.submit(() => service.economies.saveDraft(body, from, who.name, whyOf(incoming, 'saved'))),
      );
    },
  },
  {
    method: 'patch',
    path: '/draft',
    needs: 'design',
    summary: 'Changes the draft by RFC 6902 operations; If-Match names the revision you started from',
    query: { why: 'A word on why' },
    handle: async (incoming) => {
      const { service, who, body } = incoming;
      if (!Array.isArray(body))
        throw invalid('The body does not fit.', [
          {
            code: 'wrong-type',
            pointer: '',
            message: 'a list of RFC 6902 operations is needed',
            fix: 'Send [{"op": "replace", "path": "/items/...", "value": ...}].',
          },
        ]);
      const from = revisionOf(incoming);
      return saved(
        await service.writer.submit(() =>
          service.economies.patchDraft(body as Operation[], from, who.name, whyOf(incoming, 'edited')),
        ),
      );
    },
  },
  {
    method: 'get',
    path: '/draft/audit',
    needs: 'read',
    summary: 'Findings of the audit, errors first',
    handle: ({ service }) => {
      const { revision } = service.economies.draft();
      const findings = service.economies.draftFindings();
      return { body: { revision, counts: findingCounts(findings), findings } };
    },
  },
  {
    method: 'get',
    path: '/draft/changes',
    needs: 'read',
    summary: 'What the draft would change, in words and as JSON Patch',
    query: {
      against: 'A channel or a release number; live by default',
      at: 'When the release is meant to come: the words then say so',
    },
    handle: ({ service, query }) => {
      const base = comparedWith(service, query['against'] ?? 'live');
      const { revision, document } = service.economies.draft();
      const zone = document.timeZone;
      const from =
        query['at'] === undefined ? '' : `, from ${instantText(zone, instantOf(query['at'], zone, service.now()))}`;
      return {
        body: {
          revision,
          against: base.name,
          changes: documentChanges(base.document, document).map((change) => ({
            ...change,
            words: `${change.words}${from}`,
          })),
          patch: documentPatch(base.document, document),
        },
      };
    },
  },
  {
    method: 'get',
    path: '/draft/revisions',
    needs: 'read',
    summary: 'Who saved what and when, newest first',
    query: PAGE_QUERY,
    handle: ({ service, query }) => {
      const limit = pageLimit(query);
      return {
        body: pageOf(
          service.economies.revisions(
            queryNumber(query, 'cursor', Number.MAX_SAFE_INTEGER, 0, Number.MAX_SAFE_INTEGER),
            limit,
          ),
          limit,
          ({ revision }) => revision,
        ),
      };
    },
  },
  {
    method: 'get',
    path: '/draft/revisions/{revision}',
    needs: 'read',
    summary: 'One saved state: who, when, why, and what it changed',
    handle: ({ service, params }) => {
      const number = revisionNumber(params['revision']!);
      const { revision, savedMs, savedBy, why, document } = service.economies.revision(number);
      const empty: EconomyDocument = { name: document.name, timeZone: document.timeZone };
      const before = number > 1 ? service.economies.revision(number - 1).document : empty;
      return { body: { revision, savedMs, savedBy, why, changes: documentChanges(before, document) } };
    },
  },
  {
    method: 'post',
    path: '/draft/undo',
    needs: 'design',
    summary: 'Saves an earlier revision anew; If-Match names the revision you started from',
    body: fields({ to: wholeNumber(1, Number.MAX_SAFE_INTEGER).required() }),
    handle: async (incoming) => {
      const { service, who } = incoming;
      const from = revisionOf(incoming);
      const { to } = bodyOf<{ to: number }>(incoming);
      return saved(await service.writer.submit(() => service.economies.undoTo(to, from, who.name)));
    },
  },
  {
    method: 'post',
    path: '/draft/import',
    needs: 'design',
    summary: "Replaces the draft by an economy folder's files",
    body: filesBody,
    handle: async (incoming) => {
      const { service, who } = incoming;
      const from = revisionOf(incoming);
      const { raw, issues } = folderRead(bodyOf<{ files: SourceFile[] }>(incoming).files);
      if (issues.length > 0)
        throw new Problem('invalid', 'The files cannot be read; the draft stays as it was.', {
          errors: issues.map(({ pointer, code, message, fix, place }) => ({
            pointer,
            code,
            detail: message,
            fix,
            place,
          })),
        });
      return saved(
        await service.writer.submit(() =>
          service.economies.saveDraft(raw, from, who.name, whyOf(incoming, 'imported')),
        ),
      );
    },
  },
  {
    method: 'get',
    path: '/draft/export',
    needs: 'read',
    summary: "The draft as an economy folder's files",
    handle: ({ service }) => ({ body: { files: folderWrite([], service.economies.draft().document) } }),
  },
];

/** The draft, its history, what edits do to it, and what the audit says of it. */
import type { Operation } from 'fast-json-patch';
import type { Finding, FindingCounts } from '../../core/audit/index.js';
import { economySchema } from '../../core/document/index.js';
import type { Change, EconomyDocument, Use } from '../../core/document/index.js';
import type { Mend, Place } from '../../core/issue/index.js';
import {
  anyJson,
  anyText,
  anyWhole,
  choice,
  listOf,
  maybe,
  named,
  orNull,
  record,
  shapeOf,
} from '../../core/schema/index.js';
import type { Shape, ValueOf } from '../../core/schema/index.js';
import { REF_KINDS } from '../../core/schema/index.js';
import { listed, texts } from './common.js';

/** Any JSON at all, at any depth: what a document may hold is said elsewhere. */
export const anything = () => anyJson(Infinity);

export const document = named('Economy', economySchema as unknown as Shape<EconomyDocument>);

/** RFC 6902. */
const operation = named(
  'PatchOperation',
  record({
    op: choice('add', 'remove', 'replace', 'move', 'copy', 'test'),
    path: anyText(),
    value: maybe(anything()),
    from: maybe(anyText()),
  }),
);
/** The same as the package for patches types it. */
export const operations = () => listed('operations', operation as unknown as Shape<Operation>);
/** As a caller sends them; patches come from packages that type their operations more widely. */
export const patch = listOf(operation, {
  most: 10_000,
  of: 'RFC 6902 operations',
  fix: 'Send [{"op": "replace", "path": "/items/...", "value": ...}].',
}) as unknown as Shape<readonly object[]>;

const mend = shapeOf<Mend>({
  words: anyText(),
  operations: listed('operations', operation) as Shape<Mend['operations']>,
});
const place = shapeOf<Place>({ file: anyText(), line: anyWhole(), column: anyWhole() });

export const finding = named(
  'Finding',
  shapeOf<Finding>({
    code: anyText(),
    severity: choice('error', 'warning', 'hint'),
    pointer: anyText(),
    subject: anyText(),
    message: anyText(),
    fix: anyText(),
    place: maybe(place),
    mend: maybe(mend),
    silenced: maybe(anyText()),
  }),
);
const counts = shapeOf<FindingCounts>({ error: anyWhole(), warning: anyWhole(), hint: anyWhole() });

export const change = named(
  'Change',
  shapeOf<Change>({
    pointer: anyText(),
    subject: anyText(),
    field: anyText(),
    before: maybe(anything()),
    after: maybe(anything()),
    words: anyText(),
  }),
);
export const use = named(
  'Use',
  shapeOf<Use>({
    kind: choice(...REF_KINDS),
    id: anyText(),
    pointer: anyText(),
    words: anyText(),
    cut: orNull(anyText()),
  }),
);

export const saved = { revision: anyWhole(), savedMs: anyWhole(), savedBy: anyText() };
export const draft = named('Draft', record({ ...saved, document }));
export const draftSaved = named('DraftSaved', record({ ...saved, why: anyText(), findings: counts }));
export const audit = named('Audit', record({ revision: anyWhole(), counts, findings: listed('findings', finding) }));
export const changes = named(
  'Changes',
  record({ revision: anyWhole(), against: anyText(), changes: listed('changes', change), patch: operations() }),
);
/** What an edit or an import does: saved (`revision`), or only shown. */
export const edited = named(
  'Edited',
  record({
    saved: orNull(draftSaved),
    changes: listed('changes', change),
    notes: texts(),
    made: orNull(anyText()),
    /** RFC 6902, there and back. */
    operations: operations(),
    undo: operations(),
  }),
);
export const revision = named('Revision', record({ ...saved, why: anyText() }));
export const revisionWhole = named(
  'RevisionWhole',
  record({ ...saved, why: anyText(), changes: listed('changes', change) }),
);
export const sourceFile = named('SourceFile', record({ path: anyText(), text: anyText() }));

export type DraftView = ValueOf<typeof draft>;
export type DraftSaved = ValueOf<typeof draftSaved>;
export type AuditView = ValueOf<typeof audit>;
export type ChangesView = ValueOf<typeof changes>;
export type EditAnswer = ValueOf<typeof edited>;
export type RevisionView = ValueOf<typeof revision>;

/** The working copy: read, save, patch, audit, differences, in and out as files; and the designer's tools on it. */
import { MOST_TOGETHER } from '../../core/loot/index.js';
import { EDIT_KINDS, SHEET_NAMES } from '../../core/catalog/index.js';
import { THING_KINDS } from '../../core/document/index.js';
import { about, choice, fields, listOf, record, text, wholeNumber, yesNo } from '../../core/schema/index.js';
import { DOCUMENT_KB, NOTHING, PICTURE_KB, media, operations } from '../operation.js';
import {
  atQuery,
  listed,
  numbered,
  NUMBERED_PAGE_QUERY,
  pageOf,
  profile,
  sourceQuery,
  whyQuery,
} from '../shapes/common.js';
import * as catalog from '../shapes/catalog.js';
import * as draft from '../shapes/draft.js';
import { overrides } from '../shapes/run.js';

const WHY = { why: whyQuery() };
const PREVIEW = { preview: about('True shows what would change, and saves nothing', yesNo()), ...WHY };
const SAVING = ['invalid', 'stale', 'revision-needed'] as const;
const SHEET = { sheet: choice(...SHEET_NAMES) };

export const draftOperations = operations({
  'GET /draft': { aside: true, role: 'read', summary: 'The draft with its revision', answers: { 200: draft.draft } },
  'PUT /draft': {
    role: 'design',
    saves: true,
    summary: 'Replaces the draft; If-Match names the revision you started from',
    query: WHY,
    revision: 'always',
    body: draft.document,
    bodyKb: DOCUMENT_KB,
    bodyCheckedLater: true,
    answers: { 200: draft.draftSaved },
    problems: SAVING,
  },
  'PATCH /draft': {
    role: 'design',
    saves: true,
    summary: 'Changes the draft by RFC 6902 operations; If-Match names the revision you started from',
    query: WHY,
    revision: 'always',
    body: draft.patch,
    bodyKb: DOCUMENT_KB,
    answers: { 200: draft.draftSaved },
    problems: SAVING,
  },
  'GET /draft/audit': {
    aside: true,
    role: 'read',
    summary: 'Findings of the audit, errors first',
    answers: { 200: draft.audit },
  },
  'GET /draft/changes': {
    role: 'read',
    aside: true,
    summary: 'What the draft would change, in words and as JSON Patch',
    query: {
      against: about('A channel or a release number; live by default', text(64)),
      at: atQuery('When the release is meant to come: the words then say so'),
    },
    answers: { 200: draft.changes },
    problems: ['not-found'],
  },
  'GET /draft/revisions': {
    role: 'read',
    summary: 'Who saved what and when, newest first',
    query: NUMBERED_PAGE_QUERY,
    answers: { 200: pageOf(draft.revision) },
  },
  'GET /draft/revisions/{revision}': {
    role: 'read',
    aside: true,
    summary: 'One saved state: who, when, why, and what it changed',
    params: { revision: numbered() },
    answers: { 200: draft.revisionWhole },
    problems: ['not-found'],
  },
  'POST /draft/undo': {
    role: 'design',
    saves: true,
    summary: 'Saves an earlier revision anew; If-Match names the revision you started from',
    revision: 'always',
    body: fields({ to: wholeNumber(1, Number.MAX_SAFE_INTEGER).required() }),
    answers: { 200: draft.draftSaved },
    problems: [...SAVING, 'not-found'],
  },
  'POST /draft/import': {
    role: 'design',
    saves: true,
    summary: "Replaces the draft by an economy folder's files",
    query: WHY,
    revision: 'always',
    bodyKb: DOCUMENT_KB,
    body: fields({
      files: listOf(draft.sourceFile, {
        most: 10_000,
        of: 'files, each {path, text}',
        fix: "Send the folder's files.",
      }).required(),
    }),
    answers: { 200: draft.draftSaved },
    problems: SAVING,
  },
  'GET /draft/export': {
    role: 'read',
    aside: true,
    summary: "The draft as an economy folder's files",
    answers: { 200: record({ files: listed('files', draft.sourceFile) }) },
  },
  'POST /draft/edits': {
    role: 'design',
    saves: true,
    summary: `Edits of several places at once: ${EDIT_KINDS.join(', ')}; If-Match names the revision you started from`,
    query: PREVIEW,
    revision: 'unless-preview',
    body: catalog.edit,
    bodyKb: DOCUMENT_KB,
    answers: { 200: draft.edited },
    problems: [...SAVING, 'edit-refused'],
  },
  'GET /draft/sheets/{sheet}': {
    role: 'read',
    aside: true,
    summary: `The draft's ${SHEET_NAMES.join(', ')} as CSV (RFC 4180)`,
    params: SHEET,
    answers: { 200: media('text/csv') },
    problems: ['not-found'],
  },
  'POST /draft/sheets/{sheet}': {
    role: 'design',
    saves: true,
    summary: 'Brings CSV rows into the draft (text/csv); If-Match names the revision you started from',
    params: SHEET,
    query: PREVIEW,
    revision: 'unless-preview',
    body: media('text/csv'),
    bodyKb: DOCUMENT_KB / 2,
    answers: { 200: draft.edited },
    problems: [...SAVING, 'not-found'],
  },
  'GET /draft/uses/{kind}/{id}': {
    role: 'read',
    aside: true,
    summary: 'Where a thing is used: in which offers, tables, bundles, rules and formulas',
    params: { kind: choice(...THING_KINDS) },
    answers: { 200: pageOf(draft.use) },
    problems: ['not-found'],
  },
  'GET /flows/{asset}': {
    role: 'read',
    aside: true,
    summary: 'Where a currency or item comes from, where it goes, and what it buys',
    query: { source: sourceQuery() },
    answers: { 200: catalog.flow },
    problems: ['not-found', 'nothing-published'],
  },
  'POST /draft/formula': {
    role: 'read',
    aside: true,
    summary: 'What a formula that is being written comes to for a player, or where it is wrong',
    body: catalog.formulaAsked,
    answers: { 200: catalog.formulaTried },
    problems: ['not-found', 'invalid'],
  },
  'GET /draft/values': {
    role: 'read',
    aside: true,
    summary: "What the draft's formulas come to for a player",
    query: {
      player: about('A real player', text(64)),
      profile: about('Or a made-up one, as JSON', profile),
      at: atQuery(),
    },
    answers: { 200: catalog.formulaValues },
    problems: ['not-found', 'invalid'],
  },
  'GET /money': {
    role: 'read',
    aside: true,
    summary: 'Real-money prices, gross and net, by store',
    query: { source: sourceQuery() },
    answers: { 200: pageOf(catalog.moneyRow) },
    problems: ['not-found', 'nothing-published'],
  },
  'POST /odds': {
    role: 'read',
    aside: true,
    summary: 'The exact odds of a loot table or box, with changes that are only being thought of',
    body: fields({
      id: text(64).required(),
      source: text(64),
      player: text(64),
      profile,
      set: overrides(),
      together: listOf(text(64), { most: MOST_TOGETHER, of: 'assets' }),
    }),
    answers: { 200: catalog.odds },
    problems: ['not-found', 'invalid', 'nothing-published'],
  },
  'GET /pictures': { role: 'read', summary: 'The icon pictures', answers: { 200: pageOf(catalog.picture) } },
  'GET /pictures/{picture}': {
    role: 'read',
    summary: 'One icon picture',
    answers: { 200: media('image/*'), 304: NOTHING },
    problems: ['not-found'],
  },
  'PUT /pictures/{picture}': {
    role: 'design',
    summary: 'Uploads an icon picture: PNG, JPEG, WebP or GIF, as the body',
    body: media('image/*'),
    bodyKb: PICTURE_KB + 1,
    answers: { 201: catalog.pictureStored },
    problems: ['bad-picture'],
  },
  'DELETE /pictures/{picture}': {
    role: 'design',
    summary: 'Removes an icon picture',
    answers: { 204: NOTHING },
    problems: ['not-found'],
  },
});

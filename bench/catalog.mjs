// A folder of 5,000 items and 2,000 offers: reading, auditing, differences, writing back. Each is held against the
// part of it that no program could leave out: parsing the same text as YAML, or comparing the same two objects.
import fastJsonPatch from 'fast-json-patch';
import { parseDocument } from 'yaml';
import { economyAudit } from '../dist/core/audit/index.js';
import { csvRead, csvWrite, documentEdit } from '../dist/core/catalog/index.js';
import { documentChanges } from '../dist/core/document/index.js';
import { economyLoad } from '../dist/core/economy/index.js';
import { folderWrite } from '../dist/core/files/index.js';
import { compare, secondsOf } from './support.mjs';
import { largeDocument } from './large.mjs';

const document = largeDocument(5000);
const files = folderWrite([], document);
const changed = documentEdit(document, { kind: 'reprice', where: { group: 'group_3' }, percent: 10 }).document;
const csv = csvWrite(document, 'items');
const rate = (work) => async () => 1 / (await secondsOf(work));

await compare(
  'Reading the folder (times per second)',
  'per s',
  {
    'load: syntax, shape, references, places': rate(() => economyLoad(files)),
    'only parsing the same YAML': rate(() => files.map(({ text }) => parseDocument(text).toJS())),
  },
  3,
);
await compare('Auditing, differences, a sheet (times per second)', 'per s', {
  'audit, every rule and money loops': rate(() => economyAudit(document)),
  'differences in words': rate(() => documentChanges(document, changed)),
  'only comparing the two objects': rate(() => fastJsonPatch.compare(document, changed)),
  'reading 5,000 rows of CSV': rate(() => csvRead(document, 'items', csv)),
});
await compare(
  'Writing 125 changed prices into the folder (times per second)',
  'per s',
  {
    'write, comments kept': rate(() => folderWrite(files, changed)),
    'only parsing the same YAML': rate(() => files.map(({ text }) => parseDocument(text))),
  },
  3,
);

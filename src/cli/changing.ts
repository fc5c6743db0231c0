/** Changing the draft or a folder: shown first or saved, and told in words. */
import type { Command } from 'commander';
import { countText } from '../core/issue/index.js';
import { issueFinding } from '../core/audit/index.js';
import { documentEdit } from '../core/catalog/index.js';
import type { Edit, Edited } from '../core/catalog/index.js';
import { documentChanges, documentValidate } from '../core/document/index.js';
import type { EconomyDocument } from '../core/document/index.js';
import { economyCompile, issueBlocksSaving } from '../core/economy/index.js';
import { folderWrite } from '../core/files/index.js';
import type { Client } from '../client/index.js';
import type { EditAnswer } from '../contract/index.js';
import { clientOf, wantsJson } from './context.js';
import { folderFiles, folderLoad, folderSave } from './folder.js';
import { refusedFor } from './output.js';
import { colors, print, printJson } from './print.js';

export interface ChangeOptions {
  folder?: string;
  preview?: boolean;
}
export const withChange = (command: Command): Command =>
  command
    .option('--folder <folder>', 'change an economy folder instead of the draft')
    .option('--preview', 'show what would change, and save nothing');

export type Shown = Pick<EditAnswer, 'changes' | 'notes'> & { revision: number | null; written?: string[] };

/** Brings a folder to `edited`, or says why not. */
export function changeFolder(
  folder: string,
  preview: boolean | undefined,
  edit: (document: EconomyDocument) => Edited,
): Shown {
  const { document, placeOf } = folderLoad(folder);
  const edited = edit(document);
  if (!edited.ok)
    throw refusedFor(
      `${countText(edited.issues.length, 'problem')}; nothing was changed`,
      edited.issues.map((issue) => issueFinding({ ...issue, place: placeOf(issue.pointer) })),
    );
  const checked = documentValidate(edited.document);
  const issues = checked.ok ? economyCompile(edited.document).issues.filter(issueBlocksSaving) : checked.issues;
  if (issues.length > 0)
    throw refusedFor(`${countText(issues.length, 'problem')}; nothing was changed`, issues.map(issueFinding));
  const written = preview ? [] : folderSave(folderWrite(folderFiles(folder), edited.document));
  return { changes: documentChanges(document, edited.document), notes: edited.notes, revision: null, written };
}

/** From which revision it is saved, or that it is only shown. */
type Saving = { revision: number } | { query: { preview: true } };

export async function changeDraft(
  client: Client,
  preview: boolean | undefined,
  edit: (how: Saving) => Promise<EditAnswer>,
): Promise<Shown> {
  const how: Saving = preview ? { query: { preview: true } } : { revision: (await client.call('GET /draft')).revision };
  const { changes, notes, saved } = await edit(how);
  return { changes, notes, revision: saved?.revision ?? null };
}

export function printShown(shown: Shown, preview: boolean | undefined, command: Command): void {
  if (wantsJson(command)) {
    printJson(shown);
    return;
  }
  for (const { words } of shown.changes) print(words);
  for (const note of shown.notes) print(colors.dim(note));
  const count = countText(shown.changes.length, 'change');
  if (preview) print(`${count}; nothing was saved.`);
  else if (shown.revision !== null) print(`Draft revision ${shown.revision} saved: ${count}.`);
  else print(`${count}${shown.written?.length ? `; written: ${shown.written.join(', ')}` : '; nothing to write'}.`);
}

/** One edit of the draft or a folder; `why` is kept with the draft's revision. */
export async function edited(
  edit: Edit,
  { folder, preview }: ChangeOptions,
  command: Command,
  why?: string,
): Promise<Shown> {
  if (folder !== undefined) return changeFolder(folder, preview, (document) => documentEdit(document, edit));
  const client = clientOf(command);
  return changeDraft(client, preview, (how) =>
    client.call('POST /draft/edits', {
      body: edit,
      ...(why !== undefined && 'revision' in how ? { ...how, query: { why } } : how),
    }),
  );
}

/** The same, told. */
export async function runEdit(edit: Edit, options: ChangeOptions, command: Command): Promise<void> {
  printShown(await edited(edit, options, command), options.preview, command);
}

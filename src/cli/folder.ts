/** Economy folders on disk, for the commands that need no service. */
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { countText, nearestName } from '../core/issue/index.js';
import { issueFinding } from '../core/audit/index.js';
import { economyLoad, issueBlocksSaving } from '../core/economy/index.js';
import type { EconomyDocument } from '../core/document/index.js';
import type { Economy, EconomyLoaded } from '../core/economy/index.js';
import type { SourceFile } from '../core/files/index.js';
import { UsageProblem } from './context.js';
import { fileText } from './file.js';
import { refusedFor } from './output.js';

export function folderFiles(folder: string): SourceFile[] {
  if (!existsSync(folder) || !statSync(folder).isDirectory())
    throw new UsageProblem(`There is no folder "${folder}". Name a folder with the economy's YAML files.`);
  const files = filesIn(folder);
  if (files.length === 0) throw new UsageProblem(`"${folder}" holds no YAML or JSON files.`);
  return files;
}

const filesIn = (folder: string): SourceFile[] =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((path) => /\.(ya?ml|json)$/i.test(path))
    .sort()
    .map((path) => ({ path: join(folder, path), text: fileText(join(folder, path)) }));

/** What is there of a folder that is written to: it may be new, or empty. */
export function folderPresent(folder: string): SourceFile[] {
  if (!existsSync(folder)) return [];
  if (!statSync(folder).isDirectory())
    throw new UsageProblem(`"${folder}" is a file. Name a folder, which may be new.`);
  return filesIn(folder);
}

export type LoadedFolder = EconomyLoaded & { document: EconomyDocument; economy: Economy };

/** The folder's economy. Throws what keeps it from being read, with file, line and column, all at once. */
export function folderLoad(folder: string): LoadedFolder {
  const loaded = economyLoad(folderFiles(folder));
  const blocking = loaded.issues.filter(issueBlocksSaving);
  if (!loaded.document || blocking.length > 0) {
    const problems = loaded.document ? blocking : loaded.issues;
    const renamed = problems.some((problem) => problem.renamed !== undefined);
    throw refusedFor(
      `${countText(problems.length, 'problem')} in ${folder}${renamed ? `. To rename fields: dimestall audit ${folder} --mend` : ''}`,
      problems.map(issueFinding),
    );
  }
  return loaded as LoadedFolder;
}

/** What a folder's economy does not have, with the nearest that it has. */
export function notThere(what: string, id: string, known: Iterable<string>): UsageProblem {
  const near = nearestName(id, known);
  return new UsageProblem(`There is no ${what} "${id}".${near === undefined ? '' : ` Did you mean "${near}"?`}`);
}

export function folderSave(files: readonly SourceFile[]): string[] {
  return files
    .filter((file) => !existsSync(file.path) || readFileSync(file.path, 'utf8') !== file.text)
    .map(({ path, text }) => {
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, text);
      return relative(process.cwd(), path);
    });
}

/** Picture files stand in a folder of their own beside the economy's files. */
export const picturesFolder = (folder: string): string => join(folder, 'pictures');

/** The names of the folder's picture files. */
export function folderPictures(folder: string): Set<string> {
  const path = picturesFolder(folder);
  return new Set(existsSync(path) ? readdirSync(path) : []);
}

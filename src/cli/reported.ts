/** The economy that a command with `--report` works on: the report names it. */
import { basename, resolve } from 'node:path';
import type { Command } from 'commander';
import type { EconomyDocument } from '../core/document/index.js';
import { clientOf } from './context.js';
import { folderLoad } from './folder.js';
import { reportOf } from './report.js';

/** Of a folder, or of the service's draft, a channel or a release. */
export async function documentReported(
  { folder, source }: { folder?: string; source: string },
  command: Command,
): Promise<EconomyDocument> {
  if (folder !== undefined) return told(folderLoad(folder).document, `folder ${basename(resolve(folder))}`);
  const { release, revision, document } = await clientOf(command).call('GET /sources/{source}', { params: { source } });
  return told(document, release === null ? `revision ${revision} of the draft` : `release ${release}`);
}

function told(document: EconomyDocument, from: string): EconomyDocument {
  reportOf({ economy: { name: document.name, zone: document.timeZone, from } });
  return document;
}

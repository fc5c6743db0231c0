/** The economy that the service speaks of: names, decimals and zone for what is printed. */
import { basename, resolve } from 'node:path';
import type { Command } from 'commander';
import { documentLabels } from '../core/texts/amounts.js';
import type { Client } from '../client/index.js';
import type { AssetLabels } from '../core/texts/index.js';
import type { EconomyDocument } from '../core/document/index.js';
import { clientOf } from './context.js';
import { folderLoad } from './folder.js';

/** Where a command finds the economy it works on: a folder, or the service's draft, a channel or a release. */
export interface SourceOptions {
  folder?: string;
  source: string;
}

/** The economy, and where it is from: `revision 12 of the draft`. */
export async function sourceDocument(
  { folder, source }: SourceOptions,
  command: Command,
): Promise<{ document: EconomyDocument; from: string }> {
  if (folder !== undefined)
    return { document: folderLoad(folder).document, from: `folder ${basename(resolve(folder))}` };
  const { release, revision, document } = await clientOf(command).call('GET /sources/{source}', { params: { source } });
  return { document, from: release === null ? `revision ${revision} of the draft` : `release ${release}` };
}

/** `source` is the draft, a channel or the number of a release, as everywhere. */
export async function serviceEconomy(
  client: Client,
  source: string,
): Promise<{ document: EconomyDocument; labels: AssetLabels; zone: string }> {
  const { document } = await client.call('GET /sources/{source}', { params: { source } });
  return { document, labels: documentLabels(document), zone: document.timeZone };
}

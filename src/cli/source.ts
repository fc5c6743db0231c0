/** The economy that the service speaks of: names, decimals and zone for what is printed. */
import type { Client } from '../client/index.js';
import type { AssetLabels } from '../core/texts/index.js';
import type { EconomyDocument } from '../core/document/index.js';
import { CommandRefused } from './context.js';
import { documentLabels } from './output.js';

export async function serviceEconomy(
  client: Client,
  source: string,
): Promise<{ document: EconomyDocument; labels: AssetLabels; zone: string }> {
  const document =
    source === 'draft' ? (await client.call('GET /draft')).document : await releaseDocument(client, source);
  return { document, labels: documentLabels(document), zone: document.timeZone };
}

async function releaseDocument(client: Client, source: string): Promise<EconomyDocument> {
  const number = /^\d+$/.test(source)
    ? Number(source)
    : (await client.call('GET /channels')).items.find(({ name }) => name === source)?.release;
  if (number === undefined || number === null)
    throw new CommandRefused(`Nothing is published on "${source}" yet. Publish first: dimestall publish --note "...".`);
  return (await client.call('GET /releases/{release}', { params: { release: number } })).document;
}

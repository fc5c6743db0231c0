/** The economy that the service speaks of: names, decimals and zone for what is printed. */
import { documentLabels } from '../core/texts/amounts.js';
import type { Client } from '../client/index.js';
import type { AssetLabels } from '../core/texts/index.js';
import type { EconomyDocument } from '../core/document/index.js';

/** `source` is the draft, a channel or the number of a release, as everywhere. */
export async function serviceEconomy(
  client: Client,
  source: string,
): Promise<{ document: EconomyDocument; labels: AssetLabels; zone: string }> {
  const { document } = await client.call('GET /sources/{source}', { params: { source } });
  return { document, labels: documentLabels(document), zone: document.timeZone };
}

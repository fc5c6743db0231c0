/** All purchases that a service keeps, as a log of them is read. */
import type { Known, Recorded } from '../core/log/index.js';
import type { Client } from './client.js';

/** The most of one page. */
const PAGE = 500;

/** Oldest first; `onPage` hears how many there are so far. Each `line` is the number of the purchase. */
export async function purchasesRecorded(client: Client, onPage?: (count: number) => void): Promise<Recorded[]> {
  const all: Recorded[] = [];
  for (let cursor = 0; ;) {
    const { items, next } = await client.call('GET /purchases', { query: { limit: PAGE, cursor } });
    for (const { purchase, player, atMs, offer, times, pay, paid, attributes, known } of items)
      all.push({
        line: purchase,
        player,
        atMs,
        session: undefined,
        attributes: attributes as Recorded['attributes'],
        offer,
        times,
        pay: pay ?? undefined,
        paid,
        ...(known ? { known: known as Known } : {}),
      });
    onPage?.(all.length);
    if (next === null) return all.sort((a, b) => a.atMs - b.atMs || a.line - b.line);
    cursor = Number(next);
  }
}

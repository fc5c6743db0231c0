/** Loot tables: weights, what entries give, and that no table reaches itself. */
import type { DocumentReader, Segments } from './reader.js';
import type { LootDocument } from '../document/index.js';
import type { LootEntry, LootTable } from './types.js';

type LootAmount = number | { from: number; to: number };

export function lootCompile(reader: DocumentReader): Map<string, LootTable> {
  const tables = new Map<string, LootTable>();
  for (const [id, written] of Object.entries(reader.document.loot ?? {}))
    tables.set(id, tableCompile(reader, id, written));
  circlesCut(reader, tables);
  return tables;
}

function tableCompile(reader: DocumentReader, id: string, written: LootDocument): LootTable {
  const at = ['loot', id];
  const { picks = 1, guarantee } = written;
  const entries = Object.entries(written.entries).map(([entryId, entry]) =>
    entryCompile(reader, entryId, entry, [...at, 'entries', entryId]),
  );
  if (entries.length > MOST_ENTRIES)
    reader.issue(
      'wrong-value',
      [...at, 'entries'],
      `it has ${entries.length} entries and ${MOST_ENTRIES} are the most`,
      'Split it into tables that it names.',
    );
  const known = new Set(entries.map((entry) => entry.id));
  return {
    id,
    name: written.name,
    picks: typeof picks === 'number' ? { from: picks, to: picks } : picks,
    distinct: written.distinct ?? false,
    entries,
    guarantee: guarantee && known.has(guarantee.entry) ? guarantee : undefined,
  };
}

/** Together with at most 100 picks this keeps exact odds within seconds and within their error bound. */
const MOST_ENTRIES = 300;

function entryCompile(
  reader: DocumentReader,
  id: string,
  written: LootDocument['entries'][string],
  at: Segments,
): LootEntry {
  if (written.gives && written.table !== undefined)
    reader.issue(
      'wrong-value',
      at,
      'an entry gives a basket or rolls a table, not both',
      'Split it into two entries, or put the basket into the table.',
    );
  return {
    id,
    weight: written.weight,
    gives: Object.entries(written.gives ?? {}).flatMap(([asset, amount]) =>
      amountCompile(reader, asset, amount as LootAmount, [...at, 'gives', asset]),
    ),
    table: written.table !== undefined && reader.lootIds.has(written.table) ? written.table : undefined,
    when: reader.condition(written.when, [...at, 'when']),
  };
}

function amountCompile(
  reader: DocumentReader,
  asset: string,
  amount: LootAmount,
  at: Segments,
): LootEntry['gives'][number][] {
  const decimals = reader.decimalsOf(asset);
  if (!reader.currencies.has(asset) && !reader.items.has(asset)) return [];
  const { from, to } = typeof amount === 'number' ? { from: amount, to: amount } : amount;
  return [{ asset, from: reader.units(from, decimals, at), to: reader.units(to, decimals, at) }];
}

/** A table that reaches itself would never stop rolling: the step that closes the circle is cut and reported. */
function circlesCut(reader: DocumentReader, tables: ReadonlyMap<string, LootTable>): void {
  const done = new Set<string>();
  const open: string[] = [];
  const visit = (id: string): void => {
    open.push(id);
    const table = tables.get(id)!;
    for (const [index, { id: entry, table: next }] of table.entries.entries()) {
      if (next === undefined || done.has(next)) continue;
      if (!open.includes(next)) {
        visit(next);
        continue;
      }
      reader.issue(
        'circular-table',
        ['loot', id, 'entries', entry, 'table'],
        `the table reaches itself: ${[...open.slice(open.indexOf(next)), next].join(' > ')}`,
        'Name another table, or give a basket here.',
      );
      (table.entries as LootEntry[])[index] = { ...table.entries[index]!, table: undefined };
    }
    open.pop();
    done.add(id);
  };
  for (const id of tables.keys()) if (!done.has(id)) visit(id);
}

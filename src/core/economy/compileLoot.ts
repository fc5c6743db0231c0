/** Loot tables: weights, what entries give, and that no table reaches itself. */
import type { References, Segments } from './references.js';
import type { LootDocument } from '../document/index.js';
import type { LootEntry, LootTable } from './types.js';

type LootAmount = number | { from: number; to: number };

export function lootCompile(refs: References): Map<string, LootTable> {
  const tables = new Map<string, LootTable>();
  for (const [id, written] of Object.entries(refs.document.loot ?? {})) tables.set(id, tableCompile(refs, id, written));
  circlesCut(refs, tables);
  return tables;
}

function tableCompile(refs: References, id: string, written: LootDocument): LootTable {
  const at = ['loot', id];
  const { rolls = 1, guarantee } = written;
  const entries = Object.entries(written.entries).map(([entryId, entry]) =>
    entryCompile(refs, entryId, entry, [...at, 'entries', entryId]),
  );
  if (entries.length > MOST_ENTRIES)
    refs.issue(
      'wrong-value',
      [...at, 'entries'],
      `it has ${entries.length} entries and ${MOST_ENTRIES} are the most`,
      'Split it into tables that it names.',
    );
  const known = new Set(entries.map((entry) => entry.id));
  return {
    id,
    name: written.name,
    rolls: typeof rolls === 'number' ? { from: rolls, to: rolls } : rolls,
    distinct: written.distinct ?? false,
    entries,
    guarantee: guarantee && known.has(guarantee.entry) ? guarantee : undefined,
  };
}

/** Together with at most 100 rolls this keeps exact odds within seconds and within their error bound. */
const MOST_ENTRIES = 300;

function entryCompile(refs: References, id: string, written: LootDocument['entries'][string], at: Segments): LootEntry {
  if (written.gives && written.table !== undefined)
    refs.issue(
      'wrong-value',
      at,
      'an entry gives a basket or rolls a table, not both',
      'Split it into two entries, or put the basket into the table.',
    );
  return {
    id,
    weight: written.weight,
    gives: Object.entries(written.gives ?? {}).flatMap(([asset, amount]) =>
      amountCompile(refs, asset, amount as LootAmount, [...at, 'gives', asset]),
    ),
    table: written.table !== undefined && refs.lootIds.has(written.table) ? written.table : undefined,
    when: refs.condition(written.when, [...at, 'when']),
  };
}

function amountCompile(
  refs: References,
  asset: string,
  amount: LootAmount,
  at: Segments,
): LootEntry['gives'][number][] {
  const decimals = refs.decimalsOf(asset);
  if (!refs.currencies.has(asset) && !refs.items.has(asset)) return [];
  const { from, to } = typeof amount === 'number' ? { from: amount, to: amount } : amount;
  return [{ asset, from: refs.units(from, decimals, at), to: refs.units(to, decimals, at) }];
}

/** A table that reaches itself would never stop rolling: the step that closes the circle is cut and reported. */
function circlesCut(refs: References, tables: ReadonlyMap<string, LootTable>): void {
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
      refs.issue(
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

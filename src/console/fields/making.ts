/** New things, by a name that their id is made of. */
import { KINDS } from '../../core/document/kinds.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { idFor } from '../../core/schema/ids.js';
import type { RefKind } from '../../core/schema/index.js';
import { useDraft } from '../api.js';
import { useEdits } from '../parts/edits.js';
import { addOperations } from '../parts/step.js';
import type { NameKind } from './nameable.js';

/** What one must say beside its name. */
const BEGIN: Partial<Record<RefKind, object>> = {
  asset: { kind: 'durable' },
  attribute: { start: 0 },
  currency: {},
  event: {},
  group: {},
  item: { kind: 'durable' },
  loot: { entries: {} },
  store: {},
};

/** Its section and id, where one of that kind can be made by a name alone, and the id is free. */
function place(document: EconomyDocument, kind: RefKind, name: string): [keyof EconomyDocument, string] | undefined {
  const sections = KINDS[kind].homes([]).map(([section]) => section as keyof EconomyDocument);
  // Items and currencies share their ids.
  const shared = ['item', 'currency', 'asset'].includes(kind) ? (['currencies', 'items'] as const) : sections;
  const taken = (one: string): boolean =>
    shared.some((section) => (document[section] as Record<string, unknown> | undefined)?.[one] !== undefined);
  const id = idFor(name, KINDS[kind].word, taken);
  return id === '' || taken(id) ? undefined : [sections.at(-1)!, id];
}

/** Makes one and keeps its id; undefined for kinds that need more than a name. */
export function useMaker(): (kind: NameKind) => ((name: string, keep: (id: string) => void) => void) | undefined {
  const document = useDraft().data?.document;
  const { apply } = useEdits();
  return (kind) => {
    if (kind === 'tag') return (name, keep) => keep(name.trim());
    if (kind === 'language') return (name, keep) => keep(name.trim());
    const value = kind === 'zone' ? undefined : BEGIN[kind];
    if (!document || !value) return undefined;
    return (name, keep) => {
      const found = place(document, kind as RefKind, name);
      if (!found) return;
      const [section, id] = found;
      apply({ operations: addOperations(document, section, id, { name: name.trim(), ...value }) });
      keep(id);
    };
  };
}

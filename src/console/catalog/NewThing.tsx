/** A new item, currency, group or store: its name makes its id. */
import type { SectionSheet } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { AddByName } from '../parts/AddByName.js';
import { useEdits } from '../parts/edits.js';
import { addOperations } from '../parts/step.js';

const BEGIN = { items: { kind: 'durable' }, currencies: {}, groups: {}, stores: {} } as const;
const WORD = { items: 'item', currencies: 'currency', groups: 'group', stores: 'store' } as const;

export function NewThing({
  section,
  document,
  onMade,
}: {
  section: SectionSheet;
  document: EconomyDocument;
  onMade: (pointer: string) => void;
}) {
  const { apply } = useEdits();
  // Items and currencies share their ids.
  const sections = section === 'groups' || section === 'stores' ? [section] : (['items', 'currencies'] as const);
  return (
    <AddByName
      what={WORD[section]}
      taken={(id) => sections.some((one) => document[one]?.[id] !== undefined)}
      onAdd={(id, name) => {
        apply({ operations: addOperations(document, section, id, { name, ...BEGIN[section] }) });
        onMade(`/${section}/${id}`);
      }}
    />
  );
}

/** A new item, currency, group or store: its name makes its id. */
import { useState } from 'react';
import type { SectionSheet } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { useEdits } from '../parts/edits.js';
import { addOperations, idOf } from '../parts/step.js';
import { Button, Input } from '../parts/ui.js';

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
  const [name, setName] = useState('');
  const id = idOf(name);
  // Items and currencies share their ids.
  const sections = section === 'groups' || section === 'stores' ? [section] : (['items', 'currencies'] as const);
  const taken = sections.some((one) => document[one]?.[id] !== undefined);
  const fits = id !== '' && !taken;
  const add = () => {
    apply({
      operations: addOperations(document, section, id, { name: name.trim(), ...BEGIN[section] }),
    });
    setName('');
    onMade(`/${section}/${id}`);
  };
  return (
    <form
      className="flex gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (fits) add();
      }}
    >
      <Input
        aria-label={`New ${WORD[section]}'s name`}
        placeholder={`New ${WORD[section]}'s name`}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" disabled={!fits}>
        {taken ? `${id} exists` : `Add ${WORD[section]}`}
      </Button>
    </form>
  );
}

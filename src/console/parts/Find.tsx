/** Goes to any thing by its name or id, and to any room: Ctrl+K from everywhere. */
import { useCombobox } from 'downshift';
import { Dialog } from 'radix-ui';
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import type { JsonNode } from '../../core/catalog/index.js';
import { useDraft, useSchema } from '../api.js';
import { found, nameables } from '../fields/nameable.js';
import type { Nameable } from '../fields/nameable.js';
import { placeLink } from './findings.js';
import { Icon } from './Icon.js';
import { useFocusBack } from './focusBack.js';

interface Goal extends Nameable {
  to: string;
}

const MOST_SHOWN = 12;

/** Everything that has a name: rooms, then things section by section, with the word of each from the schema. */
function goals(document: EconomyDocument, schema: JsonNode, rooms: readonly Goal[]): Goal[] {
  const things = Object.entries(schema.properties ?? {}).flatMap(([section, { additionalProperties }]) => {
    const word = typeof additionalProperties === 'object' ? additionalProperties.title : undefined;
    if (word === undefined || section === 'texts') return [];
    const entries = (document[section as keyof EconomyDocument] ?? {}) as Record<
      string,
      { name?: string; icon?: string; symbol?: string }
    >;
    return Object.entries(entries).map(([id, { name, icon, symbol }]): Goal => ({
      id,
      label: name ?? id,
      hint: word,
      icon: icon ?? symbol,
      to: placeLink(`/${section}/${id}`),
    }));
  });
  const offers = Object.entries(document.shops ?? {}).flatMap(([shop, { shelves }]) =>
    Object.entries(shelves).flatMap(([shelf, { offers: all }]) =>
      Object.keys(all).map((id) => [id, `/shops/${shop}/shelves/${shelf}/offers/${id}`] as const),
    ),
  );
  const places = new Map(offers);
  const named = nameables(document, 'offer', []).map((offer): Goal => ({
    ...offer,
    hint: `offer, ${offer.hint.split(', ').slice(1).join(', ')}`,
    to: placeLink(places.get(offer.id)!),
  }));
  return [...rooms, ...things, ...named];
}

export default function Find({
  rooms,
  onClose,
}: {
  rooms: readonly { path: string; name: string }[];
  onClose: () => void;
}) {
  const document = useDraft().data?.document;
  const schema = useSchema().data;
  const go = useNavigate();
  const focusBack = useFocusBack();
  const [typed, setTyped] = useState('');
  const all = useMemo(() => {
    const listed = rooms.map(({ path, name }) => ({ id: path, label: name, hint: 'room', to: `/${path}` }));
    return document && schema ? goals(document, schema, listed) : listed;
  }, [document, schema, rooms]);
  const shown = useMemo(() => found<Goal>(all, typed).slice(0, MOST_SHOWN), [all, typed]);
  const take = (goal: Goal | null | undefined): void => {
    if (!goal) return;
    onClose();
    void go(goal.to);
  };
  const box = useCombobox<Goal>({
    items: [...shown],
    isOpen: true,
    selectedItem: null,
    inputValue: typed,
    itemToString: (goal) => goal?.label ?? '',
    defaultHighlightedIndex: 0,
    stateReducer: (_, { type, changes }) =>
      type === useCombobox.stateChangeTypes.InputChange ? { ...changes, highlightedIndex: 0 } : changes,
    onStateChange: ({ type, selectedItem }) => {
      if (type === useCombobox.stateChangeTypes.ItemClick) take(selectedItem);
    },
  });
  const at = Math.max(0, box.highlightedIndex);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Dialog.Content
          {...focusBack}
          aria-describedby={undefined}
          className="fixed top-24 left-1/2 z-50 flex w-[560px] max-w-[94vw] -translate-x-1/2 flex-col gap-2 rounded-sheet border border-line bg-sheet p-3 shadow-sheet"
        >
          <Dialog.Title className="sr-only">Find anything</Dialog.Title>
          <input
            {...box.getInputProps({
              onChange: ({ currentTarget }) => setTyped(currentTarget.value),
              onKeyDown: (event) => {
                if (event.key === 'Escape') onClose();
                if (event.key !== 'Enter') return;
                event.preventDefault();
                (event.nativeEvent as { preventDownshiftDefault?: boolean }).preventDownshiftDefault = true;
                take(shown[at]);
              },
            })}
            aria-label="Find anything"
            aria-labelledby={undefined}
            placeholder="A name, an id, or a room"
            className="rounded-tag border border-line bg-paper px-3 py-2 text-lg text-ink placeholder:text-soft"
          />
          <ul {...box.getMenuProps({ 'aria-label': 'What was found' })} className="min-h-24">
            {shown.map((goal, index) => (
              <li
                key={`${goal.hint} ${goal.id}`}
                {...box.getItemProps({ item: goal, index })}
                className={`flex cursor-pointer items-center gap-2 rounded-tag px-2 py-0.5 ${index === at ? 'bg-tint-copper' : ''}`}
              >
                {goal.icon !== undefined && <Icon icon={goal.icon} />}
                <span className="truncate">{goal.label}</span>
                <span className="ml-auto truncate text-sm text-soft">{goal.hint}</span>
              </li>
            ))}
          </ul>
          {shown.length === 0 && <p className="px-2 text-soft">Nothing is called that.</p>}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

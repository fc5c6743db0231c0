/** A field that names something: it is found by name or id, by mouse or keyboard, and a new one can be made here. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useCombobox } from 'downshift';
import { Popover } from 'radix-ui';
import { useMemo, useRef, useState } from 'react';
import type { CellValue } from '../../core/catalog/index.js';
import { Icon } from '../parts/Icon.js';
import { found } from './nameable.js';
import type { Nameable } from './nameable.js';

interface Asked {
  id?: string | undefined;
  /** Said to who does not see, where no label stands beside it. */
  label?: string;
  options: readonly Nameable[];
  value: string | undefined;
  /** What it names, in a word. */
  word: string;
  /** Undefined: nothing is named any more. */
  onPick: (id: string | undefined) => void;
  /** Makes a new one of that name; where it is not given, none can be made here. */
  onMake?: ((name: string, amount?: string) => void) | undefined;
  /** Takes what is typed with its amount, as a cell has it: `40 shells; 3 pearls`. */
  onAmounts?: (entries: readonly AmountOf[]) => void;
  /** What is named must not be taken away. */
  needed?: boolean;
  /** Empties itself after each pick: for adding one after the other. */
  adding?: boolean;
  describedBy?: string | undefined;
  className?: string;
}

export interface AmountOf {
  id: string;
  amount: string;
}

/** Amounts by what they are of, all or none: what is wrong with the first that cannot be read. */
export function amountsRead(
  entries: readonly AmountOf[],
  read: (id: string, amount: string) => CellValue,
): { ok: true; values: Record<string, unknown> } | { ok: false; problem: string } {
  const values: Record<string, unknown> = {};
  for (const { id, amount } of entries) {
    const one = read(id, amount);
    if (!one.ok) return one;
    values[id] = one.value;
  }
  return { ok: true, values };
}

/** `40 shells`, `1-3 wax`: an amount or a range, and what it is of. */
const WITH_AMOUNT = /^\s*(\d[\d.,]*(?:\s*-\s*\d[\d.,]*)?)\s+(\S.*)?$/s;

const named = (options: readonly Nameable[], words: string): Nameable | undefined => {
  const name = words.trim().toLowerCase();
  return options.find(({ id, label }) => id === name || label.toLowerCase() === name);
};

type Row = { kind: 'known'; one: Nameable } | { kind: 'new'; name: string };

const ROW_PX = 30;
const MOST_PX = 300;

export function Picker({
  id,
  label,
  options,
  value,
  word,
  onPick,
  onMake,
  onAmounts,
  needed = false,
  adding = false,
  describedBy,
  className = '',
}: Asked) {
  const chosen = options.find((one) => one.id === value);
  const shown = chosen?.label ?? value ?? '';
  /** What is typed; null where nothing is, and the field says what is chosen. */
  const [typed, setTyped] = useState<string | null>(null);
  const mayMake = onMake !== undefined;
  const whole = typed ?? '';
  const [, amount, rest = ''] = (onAmounts && !named(options, whole) && WITH_AMOUNT.exec(whole)) || [];
  /** What is looked for: without the amount before it. */
  const looked = amount === undefined ? whole : rest;
  // What nobody looks at is not listed: a panel has many pickers, and some have thousands to pick from.
  const [focused, setFocused] = useState(false);
  const rows = useMemo((): Row[] => {
    if (!focused) return [];
    const known = found(options, looked).map((one): Row => ({ kind: 'known', one }));
    const name = looked.trim();
    return mayMake && name !== '' && !named(options, name) ? [...known, { kind: 'new', name }] : known;
  }, [focused, options, looked, mayMake]);
  const list = useRef<HTMLDivElement>(null);
  const entering = useRef(false);
  // Nothing else here is memoized over it.
  // oxlint-disable-next-line react/incompatible-library
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW_PX,
    overscan: 4,
  });
  const take = (row: Row | null | undefined): void => {
    if (row?.kind === 'new') onMake!(row.name, amount);
    else if (row && amount !== undefined) onAmounts!([{ id: row.one.id, amount }]);
    else if (row && row.one.id !== value) onPick(row.one.id);
    setTyped(null);
  };
  /** Of several with semicolons between them all but the last are taken at once; what is left is still being typed. */
  const severalTaken = (text: string): string => {
    const parts = text.split(';');
    const last = parts.pop()!;
    const entries = parts.flatMap((part) => {
      const [, count, words = ''] = WITH_AMOUNT.exec(part) ?? [];
      const one = named(options, words);
      return count !== undefined && one ? [{ id: one.id, amount: count }] : [];
    });
    if (!onAmounts || parts.length === 0 || entries.length < parts.length) return text;
    onAmounts(entries);
    return last.trimStart();
  };
  const box = useCombobox<Row>({
    items: rows,
    selectedItem: null,
    // Of what was filtered away there is none any more.
    itemToString: (row) => (!row ? '' : row.kind === 'new' ? row.name : row.one.label),
    inputValue: typed ?? (adding ? '' : shown),
    defaultHighlightedIndex:
      typed === null
        ? Math.max(
            0,
            rows.findIndex((row) => row.kind === 'known' && row.one.id === value),
          )
        : 0,
    scrollIntoView: () => undefined,
    onHighlightedIndexChange: ({ highlightedIndex, type }) => {
      if (type !== useCombobox.stateChangeTypes.ItemMouseMove && highlightedIndex >= 0)
        virtual.scrollToIndex(highlightedIndex);
    },
    stateReducer: (_state, { type, changes }) => {
      // Leaving the field chooses nothing: what is typed and not picked is dropped.
      if (type === useCombobox.stateChangeTypes.InputChange) return { ...changes, highlightedIndex: 0 };
      if (type === useCombobox.stateChangeTypes.InputBlur) return { ...changes, selectedItem: null };
      return changes;
    },
    onStateChange: ({ type, selectedItem }) => {
      if (type === useCombobox.stateChangeTypes.ItemClick) take(selectedItem);
    },
  });
  const open = box.isOpen;
  const menu = box.getMenuProps({ ref: list, 'aria-label': 'What can be picked' }, { suppressRefError: true });
  return (
    <Popover.Root open={open}>
      <Popover.Anchor asChild>
        <input
          {...box.getInputProps({
            id,
            placeholder: adding ? `Add ${article(word)}` : `Find ${article(word)}`,
            // At once, and not when the list has heard of it: else the next key finds the old text.
            onChange: ({ currentTarget }) => setTyped(severalTaken(currentTarget.value)),
            onFocus: ({ currentTarget }) => {
              setFocused(true);
              currentTarget.select();
            },
            onBlur: () => {
              if (typed?.trim() === '' && !needed && value !== undefined) onPick(undefined);
              setTyped(null);
              setFocused(false);
            },
            onMouseDown: ({ currentTarget }) => {
              entering.current = currentTarget !== currentTarget.ownerDocument.activeElement;
            },
            // What stands there stays selected, and gives way to what is typed.
            onMouseUp: (event) => {
              if (entering.current) event.preventDefault();
              entering.current = false;
            },
            onKeyDown: (event) => {
              // What closes the list must not also close the panel or window around it.
              if (event.key === 'Escape' && (open || typed !== null)) event.stopPropagation();
              if (event.key === 'Escape') setTyped(null);
              if (event.key !== 'Enter') return;
              // At once: what is typed next may be for what this makes or opens.
              event.preventDefault();
              (event.nativeEvent as { preventDownshiftDefault?: boolean }).preventDownshiftDefault = true;
              // Whoever takes the text away and moves to nothing wants nothing, and not the first of the list.
              const emptied = typed?.trim() === '' && box.highlightedIndex <= 0 && value !== undefined;
              if (emptied && !needed) onPick(undefined);
              else if (open && !emptied) take(rows[box.highlightedIndex]);
              if (emptied) setTyped(null);
              box.closeMenu();
            },
          })}
          aria-label={label}
          // A label that stands beside it names it; the list's own label would hide that.
          aria-labelledby={undefined}
          aria-describedby={describedBy}
          aria-invalid={value !== undefined && !adding && !chosen}
          className={`rounded-tag border border-line bg-paper px-2 py-1 text-ink placeholder:text-soft aria-invalid:border-brick ${className}`}
        />
      </Popover.Anchor>
      {focused && (
        <Popover.Portal forceMount>
          <Popover.Content
            // The list in it says what it is.
            role="presentation"
            forceMount
            align="start"
            sideOffset={3}
            hidden={!open}
            onOpenAutoFocus={(event) => event.preventDefault()}
            onCloseAutoFocus={(event) => event.preventDefault()}
            className="z-[60] w-80 rounded-sheet border border-line bg-sheet p-1 shadow-sheet"
          >
            <div {...menu} className="overflow-auto" style={{ maxHeight: MOST_PX }}>
              {open && rows.length > 0 && (
                <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
                  {virtual.getVirtualItems().map(({ index, start }) => {
                    const row = rows[index];
                    if (!row) return null;
                    return (
                      <div
                        key={row.kind === 'new' ? '(new)' : row.one.id}
                        {...box.getItemProps({ item: row, index })}
                        aria-setsize={rows.length}
                        aria-posinset={index + 1}
                        style={{ position: 'absolute', top: start, left: 0, right: 0, height: ROW_PX }}
                        className={`flex cursor-pointer items-center gap-2 rounded-tag px-2 ${index === box.highlightedIndex ? 'bg-tint-copper' : ''}`}
                      >
                        {row.kind === 'new' ? (
                          <span className="truncate font-semibold">
                            Make a new {word}: {row.name}
                          </span>
                        ) : (
                          <>
                            {row.one.icon !== undefined && <Icon icon={row.one.icon} />}
                            <span className={`truncate ${row.one.id === value ? 'font-semibold' : ''}`}>
                              {amount} {row.one.label}
                            </span>
                            <span className="ml-auto truncate text-sm text-soft">{row.one.hint}</span>
                          </>
                        )}
                      </div>
                    );
                  })}
                </div>
              )}
            </div>
            {open && rows.length === 0 && (
              <p className="px-2 py-1 text-sm text-soft">
                There is no {word} {looked ? `like "${looked}"` : 'yet'}.
              </p>
            )}
          </Popover.Content>
        </Popover.Portal>
      )}
    </Popover.Root>
  );
}

export const article = (word: string): string => `${/^[aeiou]/.test(word) ? 'an' : 'a'} ${word}`;

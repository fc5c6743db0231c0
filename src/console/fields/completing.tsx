/** Text that is completed as it is typed: what could stand where the caret is, in a list below. */
import { Popover } from 'radix-ui';
import { useId, useLayoutEffect, useRef, useState } from 'react';
import type { ChangeEvent, InputHTMLAttributes, KeyboardEvent, ReactElement, RefObject } from 'react';
import { found } from './nameable.js';
import type { Nameable } from './nameable.js';

export interface Completion {
  /** Where what is completed begins. */
  from: number;
  options: readonly Nameable[];
}

const MOST_SHOWN = 8;

/** Those that a word may become; none once it is one of them. */
export function completionsOf(all: readonly Nameable[], word: string): readonly Nameable[] {
  const options = found(all, word).slice(0, MOST_SHOWN);
  return options.some(({ id }) => id === word) ? [] : options;
}

interface Completes {
  input: RefObject<HTMLInputElement | null>;
  open: boolean;
  options: readonly Nameable[];
  /** The one that Enter takes. */
  at: number;
  listId: string;
  take(one: Nameable): void;
  close(): void;
  /** Of the input itself. */
  props: InputHTMLAttributes<HTMLInputElement> & { ref: RefObject<HTMLInputElement | null> };
  /** True for a key that the list took. */
  onKeyDown(event: KeyboardEvent): boolean;
}

export function useCompleting({
  text,
  onType,
  find,
  closedFirst = true,
}: {
  text: string;
  onType: (text: string) => void;
  find: (text: string, caret: number) => Completion;
  /** Nothing is offered before something is typed. */
  closedFirst?: boolean;
}): Completes {
  const [caret, setCaret] = useState(text.length);
  const [closed, setClosed] = useState(closedFirst);
  const [at, setAt] = useState(0);
  const input = useRef<HTMLInputElement>(null);
  /** Where the caret belongs once what was completed is shown: before the next key. */
  const goesTo = useRef<number | null>(null);
  useLayoutEffect(() => {
    if (goesTo.current !== null) input.current?.setSelectionRange(goesTo.current, goesTo.current);
    goesTo.current = null;
  });
  const listId = useId();
  const { from, options } = closed ? { from: 0, options: [] } : find(text, caret);
  const open = options.length > 0;
  const type = (next: string, place: number): void => {
    onType(next);
    setCaret(place);
    setClosed(false);
    setAt(0);
  };
  const take = ({ id }: Nameable): void => {
    type(`${text.slice(0, from)}${id}${text.slice(caret)}`, from + id.length);
    goesTo.current = from + id.length;
  };
  const close = (): void => setClosed(true);
  const onKeyDown = (pressed: KeyboardEvent): boolean => {
    if (!open) return false;
    const { key } = pressed;
    if (key === 'ArrowDown' || key === 'ArrowUp')
      setAt((at + (key === 'ArrowDown' ? 1 : options.length - 1)) % options.length);
    else if (key === 'Enter') take(options[at]!);
    else if (key === 'Escape') {
      pressed.stopPropagation();
      close();
      return true;
    } else return false;
    pressed.preventDefault();
    return true;
  };
  return {
    input,
    open,
    options,
    at,
    listId,
    take,
    close,
    onKeyDown,
    props: {
      ref: input,
      role: 'combobox',
      'aria-expanded': open,
      'aria-controls': listId,
      'aria-autocomplete': 'list',
      'aria-activedescendant': open ? `${listId}-${at}` : undefined,
      autoComplete: 'off',
      spellCheck: false,
      value: text,
      onChange: ({ target }: ChangeEvent<HTMLInputElement>) =>
        type(target.value, target.selectionStart ?? target.value.length),
    },
  };
}

/** The input with its list. */
export function Completing({ of, children }: { of: Completes; children: ReactElement }) {
  const { open, options, at, listId, take } = of;
  return (
    <Popover.Root open={open}>
      <Popover.Anchor asChild>{children}</Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          // The list in it says what it is.
          role="presentation"
          align="start"
          sideOffset={3}
          onOpenAutoFocus={(opened) => opened.preventDefault()}
          onCloseAutoFocus={(left) => left.preventDefault()}
          className="z-[60] w-80 rounded-sheet border border-line bg-sheet p-1 shadow-sheet"
        >
          <ul role="listbox" id={listId} aria-label="What can stand here">
            {options.map((one, index) => (
              <li
                key={one.id}
                id={`${listId}-${index}`}
                role="option"
                aria-selected={index === at}
                onMouseDown={(pressed) => {
                  pressed.preventDefault();
                  take(one);
                }}
                className={`flex cursor-pointer gap-2 rounded-tag px-2 ${index === at ? 'bg-tint-copper' : ''}`}
              >
                <span className="truncate">{one.label}</span>
                <span className="ml-auto truncate text-sm text-soft">{one.hint}</span>
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

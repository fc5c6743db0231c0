/** A formula as it is typed: names and functions are completed, what is wrong is marked where it stands, and its value is told. */
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Popover } from 'radix-ui';
import { useEffect, useId, useLayoutEffect, useMemo, useRef, useState } from 'react';
import type { FormulaTried } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { FUNCTION_NAMES, LOOKUPS } from '../../core/formula/functions.js';
import type { LookupName } from '../../core/formula/index.js';
import { client, usePlayers } from '../api.js';
import { useParam } from '../parts/search.js';
import { Why } from '../parts/ui.js';
import { ifShown } from './leaving.js';
import { found, nameables } from './nameable.js';
import type { Nameable, NameKind } from './nameable.js';

const LOOKS_UP: Readonly<Record<LookupName, NameKind>> = { owned: 'item', balance: 'currency', bought: 'offer' };
const MOST_SHOWN = 8;

interface Completion {
  /** Where what is completed begins. */
  from: number;
  options: readonly Nameable[];
}

/** What could stand where the caret is: things below `owned(` and the like, names and functions elsewhere. */
function completionAt(document: EconomyDocument, event: string | undefined, text: string, caret: number): Completion {
  const before = text.slice(0, caret);
  const [word = ''] = /[a-z_]\w*$/i.exec(before) ?? [];
  const from = caret - word.length;
  const lookup = new RegExp(`(${LOOKUPS.join('|')})\\(\\s*$`).exec(before.slice(0, from))?.[1] as
    | LookupName
    | undefined;
  const all = lookup ? nameables(document, LOOKS_UP[lookup], []) : namesFor(document, event);
  if (word === '' && !lookup) return { from, options: [] };
  const options = found(all, word).slice(0, MOST_SHOWN);
  return { from, options: options.some(({ id }) => id === word) ? [] : options };
}

function namesFor(document: EconomyDocument, event: string | undefined): Nameable[] {
  const fields = event === undefined ? {} : (document.events?.[event]?.fields ?? {});
  return [
    ...Object.entries(fields).map(([id, type]) => ({ id, label: id, hint: `${type} of the event` })),
    ...nameables(document, 'attribute', []).map((one) => ({ ...one, label: one.id, hint: one.label })),
    { id: 'day', label: 'day', hint: "days since the player's first" },
    ...FUNCTION_NAMES.map((name) => ({
      id: `${name}(`,
      label: `${name}( )`,
      hint: name in LOOKS_UP ? 'of the player' : 'function',
    })),
  ];
}

interface Asked {
  id?: string;
  /** Said to who does not see, where no label stands beside it. */
  label?: string;
  /** It was just added: what stands in it gives way to what is typed. */
  selected?: boolean;
  className?: string;
  document: EconomyDocument;
  /** As it is written in the economy; a number where that may stand too. */
  text: string;
  gives: 'truth' | 'number';
  /** Whose fields can be named too. */
  event?: string | undefined;
  describedBy?: string | undefined;
  placeholder?: string;
  /** Gives a problem, where what is typed cannot be kept. */
  onKeep: (text: string) => string | undefined;
}

export function FormulaInput({
  id,
  label,
  selected = false,
  className = '',
  document,
  text,
  gives,
  event,
  describedBy,
  placeholder,
  onKeep,
}: Asked) {
  const [typed, setTyped] = useState<string | null>(null);
  const [caret, setCaret] = useState(0);
  const [closed, setClosed] = useState(true);
  const [at, setAt] = useState(0);
  const [problem, setProblem] = useState<string | undefined>();
  const [focused, setFocused] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  /** Where the caret belongs once what was completed is shown: before the next key. */
  const goesTo = useRef<number | null>(null);
  useLayoutEffect(() => {
    if (goesTo.current !== null) input.current?.setSelectionRange(goesTo.current, goesTo.current);
    goesTo.current = null;
  });
  const list = useId();
  const now = typed ?? text;
  // A condition is always a formula: its = need not be typed.
  const formula = now.startsWith('=') ? now : gives === 'truth' && now.trim() !== '' ? `=${now}` : undefined;
  const completion = useMemo(
    () => (closed ? { from: 0, options: [] } : completionAt(document, event, now, caret)),
    [closed, document, event, now, caret],
  );
  const open = focused && completion.options.length > 0;
  useEffect(() => {
    if (selected) input.current?.select();
  }, [selected]);
  const type = (next: string, place: number): void => {
    setTyped(next);
    setCaret(place);
    setClosed(false);
    setAt(0);
  };
  const complete = ({ id: name }: Nameable): void => {
    const next = `${now.slice(0, completion.from)}${name}${now.slice(caret)}`;
    const place = completion.from + name.length;
    type(next, place);
    goesTo.current = place;
  };
  const keep = (): void => {
    setClosed(true);
    if (typed === null) return;
    const wrong = typed.trim() === text ? undefined : onKeep(typed.trim());
    setProblem(wrong);
    if (wrong === undefined) setTyped(null);
  };
  return (
    <div
      className="flex flex-col gap-0.5"
      onFocus={() => setFocused(true)}
      onBlur={({ currentTarget, relatedTarget }) => setFocused(currentTarget.contains(relatedTarget))}
    >
      <Popover.Root open={open}>
        <Popover.Anchor asChild>
          <input
            ref={input}
            id={id}
            role="combobox"
            aria-label={label}
            aria-expanded={open}
            aria-controls={list}
            aria-autocomplete="list"
            aria-activedescendant={open ? `${list}-${at}` : undefined}
            aria-describedby={describedBy}
            aria-invalid={problem !== undefined}
            autoComplete="off"
            spellCheck={false}
            placeholder={placeholder}
            value={now}
            onChange={({ target }) => type(target.value, target.selectionStart ?? target.value.length)}
            onBlur={ifShown(keep)}
            onKeyDown={(pressed) => {
              const { key } = pressed;
              if (open && (key === 'ArrowDown' || key === 'ArrowUp')) {
                pressed.preventDefault();
                const { length } = completion.options;
                setAt((at + (key === 'ArrowDown' ? 1 : length - 1)) % length);
              } else if (open && key === 'Enter') {
                pressed.preventDefault();
                complete(completion.options[at]!);
              } else if (open && key === 'Escape') {
                pressed.stopPropagation();
                setClosed(true);
              } else if (key === 'Enter') keep();
              else if (key === 'Escape') {
                setTyped(null);
                setProblem(undefined);
              }
            }}
            className={`w-full rounded-tag border border-line bg-paper px-2 text-ink placeholder:text-soft ${className || 'py-1'}`}
          />
        </Popover.Anchor>
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
            <ul role="listbox" id={list} aria-label="What can stand here">
              {completion.options.map((one, index) => (
                <li
                  key={one.id}
                  id={`${list}-${index}`}
                  role="option"
                  aria-selected={index === at}
                  onMouseDown={(pressed) => {
                    pressed.preventDefault();
                    complete(one);
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
      <Why problem={problem} />
      {formula !== undefined && !open && (focused || typed !== null) && (
        <Told formula={formula} gives={gives} event={event} />
      )}
    </div>
  );
}

const PAUSE_MS = 150;
const NEW_PLAYER = '';

/** What it comes to for somebody, or where it is wrong; asked for when the typing pauses. */
function Told({ formula, gives, event }: { formula: string; gives: 'truth' | 'number'; event: string | undefined }) {
  const players = usePlayers().data?.items ?? [];
  const [whom, setWhom] = useParam('for', NEW_PLAYER);
  const [asked, setAsked] = useState(formula);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(formula), PAUSE_MS);
    return () => clearTimeout(timer);
  }, [formula]);
  const tried = useQuery({
    queryKey: ['values', 'formula', asked, gives, event, whom],
    queryFn: () =>
      client.call('POST /draft/formula', {
        body: { formula: asked, gives, ...(event ? { event } : {}), ...(whom ? { player: whom } : {}) },
      }),
    placeholderData: keepPreviousData,
    retry: false,
  }).data;
  // It may be below the edge of its panel.
  const told = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    told.current?.scrollIntoView({ block: 'nearest' });
  }, [tried]);
  if (!tried) return null;
  return (
    <span ref={told} className="flex flex-wrap items-center gap-x-2 text-sm" role="status">
      {tried.kind === 'wrong' ? (
        <Wrong formula={asked} wrong={tried} />
      ) : tried.kind === 'later' ? (
        <span className="text-soft">told when the event is reported</span>
      ) : (
        <>
          <span className={tried.kind === 'none' ? 'text-brick' : 'font-semibold'}>
            {tried.kind === 'none' ? tried.problem : valueWords(tried.value)}
          </span>
          <label className="text-soft">
            for{' '}
            <select
              value={whom}
              onChange={({ target }) => setWhom(target.value)}
              className="rounded-tag border border-line bg-paper"
            >
              <option value={NEW_PLAYER}>a new player</option>
              {players.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </>
      )}
    </span>
  );
}

const valueWords = (value: number | boolean): string =>
  typeof value === 'boolean' ? (value ? 'holds' : 'does not hold') : Number(value.toPrecision(8)).toLocaleString('en');

function Wrong({ formula, wrong }: { formula: string; wrong: Extract<FormulaTried, { kind: 'wrong' }> }) {
  const { at, problem, fix } = wrong;
  const [part = ''] = /^(?:\w+|\S|$)/.exec(formula.slice(at)) ?? [];
  return (
    <span className="text-brick">
      <code className="mr-1">
        {formula.slice(0, at)}
        <mark className="bg-tint-brick text-brick underline decoration-wavy">{part === '' ? ' ' : part}</mark>
        {formula.slice(at + part.length)}
      </code>
      {problem}. {fix}
    </span>
  );
}

/** Things by name with a value each, as rows: what a basket holds, what a mix is made of. `40 shells` adds one with its amount. */
import { useEffect, useRef, useState } from 'react';
import type { ReactNode } from 'react';
import type { CellValue } from '../../core/catalog/index.js';
import { Icon } from '../parts/Icon.js';
import { Button, Choice, Input, Legend, Why } from '../parts/ui.js';
import type { Option } from '../parts/ui.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { FormulaInput } from './FormulaInput.js';
import { Picker, amountsRead, article } from './Picker.js';
import type { AmountOf } from './Picker.js';
import { ifShown } from './leaving.js';
import { useTyped } from './useTyped.js';
import type { Nameable } from './nameable.js';

type Values = Readonly<Record<string, unknown>>;

interface Asked {
  label: string;
  help?: string | undefined;
  options: readonly Nameable[];
  /** What is named, in a word. */
  word: string;
  value: Values | undefined;
  onKeep: (value: Values | undefined) => void;
  write: (id: string, value: unknown) => string;
  read: (id: string, text: string) => CellValue;
  /** What stands there first for one that is added. */
  first: unknown;
  /** Where an amount may be a formula. */
  formula?: { document: EconomyDocument; event?: string | undefined };
  /** What a value can be, where that is a choice. */
  choices?: readonly Option[] | undefined;
  /** What is added may be typed with its amount, as in a cell: `40 shells`. */
  amounts?: boolean;
  /** It must not be taken away as a whole. */
  needed?: boolean;
  /** What is said of the values, with what is being typed. */
  tells?: ((values: Values) => ReactNode) | undefined;
  /** Gives the id of a new one of that name. */
  onMake?: ((name: string, keep: (id: string) => void) => void) | undefined;
}

export function Rows({
  label,
  help,
  options,
  word,
  value = {},
  onKeep,
  write,
  read,
  first,
  formula,
  choices,
  amounts,
  needed,
  tells,
  onMake,
}: Asked) {
  const [typing, setTyping] = useState<Record<string, string | undefined>>({});
  const [added, setAdded] = useState<string | null>(null);
  const [problem, setProblem] = useState<string>();
  const ids = Object.keys(value);
  /** As if what is typed were kept. */
  const typed = (): Values =>
    Object.fromEntries(
      ids.map((id) => {
        const back = typing[id] === undefined ? undefined : read(id, typing[id]);
        return [id, back?.ok ? back.value : value[id]];
      }),
    );
  const keep = (after: Values): void => onKeep(Object.keys(after).length === 0 && !needed ? undefined : after);
  const add = (id: string | undefined): void => {
    if (id === undefined || id in value) return;
    setAdded(id);
    keep({ ...value, [id]: first });
  };
  const addAmounts = (entries: readonly AmountOf[]): void => {
    const typed = amountsRead(entries, read);
    setProblem(typed.ok ? undefined : typed.problem);
    if (typed.ok) keep({ ...value, ...typed.values });
  };
  return (
    <fieldset className="min-w-0 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={help} />
      {help !== undefined && ids.length === 0 && <p className="mb-1 text-sm text-soft">{help}</p>}
      <div className="flex flex-col gap-1">
        {ids.map((id) => {
          const one = options.find((option) => option.id === id);
          return (
            <Row
              key={id}
              id={id}
              label={label}
              one={one}
              text={write(id, value[id])}
              read={(text) => read(id, text)}
              focused={added === id}
              formula={formula}
              choices={choices}
              tells={tells && ((amount) => tells({ [id]: amount }))}
              onTyping={tells && ((text) => setTyping((before) => ({ ...before, [id]: text })))}
              onKeep={(next) => {
                const { [id]: _gone, ...others } = value;
                // In its place, not at the end.
                keep(next === undefined ? others : { ...value, [id]: next });
              }}
            />
          );
        })}
        {tells?.(typed())}
        <Picker
          label={`${label}: add ${article(word)}`}
          options={options.filter(({ id }) => !(id in value))}
          value={undefined}
          word={word}
          adding
          onPick={add}
          onMake={
            onMake &&
            ((name, amount) => onMake(name, amount === undefined ? add : (id) => addAmounts([{ id, amount }])))
          }
          {...(amounts ? { onAmounts: addAmounts } : {})}
        />
        <Why problem={problem} />
      </div>
    </fieldset>
  );
}

/** Longer values take a line of their own. */
const SHORT = 12;

function Row({
  id,
  label,
  one,
  text,
  read,
  focused,
  formula,
  choices,
  tells,
  onTyping,
  onKeep,
}: {
  id: string;
  label: string;
  one: Nameable | undefined;
  text: string;
  read: (text: string) => CellValue;
  /** It was just added. */
  focused: boolean;
  formula: Asked['formula'];
  choices: Asked['choices'];
  tells: ((amount: number) => ReactNode) | undefined;
  onTyping: ((text: string | undefined) => void) | undefined;
  onKeep: (value: unknown) => void;
}) {
  const name = one?.label ?? id;
  const keep = (typed: string): string | undefined => {
    if (typed.trim() === '') return undefined;
    const back = read(typed);
    if (!back.ok) return back.problem;
    onKeep(back.value);
    return undefined;
  };
  const asked = { label: `${label}: ${name}`, text, selected: focused, onKeep: keep, onTyping };
  const isShort = text.length <= SHORT;
  return (
    <div className="flex flex-wrap items-start gap-x-2 gap-y-0.5">
      <span className={`min-w-0 flex-1 truncate ${isShort ? 'py-0.5' : ''} ${one ? '' : 'text-brick'}`} title={id}>
        {one?.icon !== undefined && (
          <>
            <Icon icon={one.icon} />{' '}
          </>
        )}
        {name}
      </span>
      <div className={isShort ? 'w-32' : 'order-last w-full'}>
        {choices ? (
          <Choice label={asked.label} value={text} options={choices} onChange={onKeep} />
        ) : formula ? (
          <FormulaInput
            {...asked}
            {...formula}
            tells={tells}
            gives="number"
            className={isShort ? 'py-0.5 text-right' : 'py-0.5'}
          />
        ) : (
          <PlainInput {...asked} />
        )}
      </div>
      <Button className="px-1.5 py-0" aria-label={`${label}: without ${name}`} onClick={() => onKeep(undefined)}>
        ×
      </Button>
    </div>
  );
}

function PlainInput({
  label,
  text,
  selected,
  onTyping,
  onKeep,
}: {
  label: string;
  text: string;
  selected: boolean;
  onTyping: ((text: string | undefined) => void) | undefined;
  /** Gives a problem, where what is typed cannot be kept. */
  onKeep: (text: string) => string | undefined;
}) {
  const field = useTyped(text, onKeep, onTyping);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (selected) input.current?.select();
  }, [selected]);
  return (
    <>
      <Input
        ref={input}
        aria-label={label}
        aria-invalid={field.problem !== undefined}
        className="w-full py-0.5"
        value={field.shown}
        onChange={(event) => field.type(event.target.value)}
        onBlur={ifShown(field.keep)}
        onKeyDown={field.onKeyDown}
      />
      <Why problem={field.problem} />
    </>
  );
}

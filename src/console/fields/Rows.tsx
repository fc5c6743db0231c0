/** Things by name with a value each, as rows: what a basket holds, what a mix is made of. */
import { useEffect, useRef, useState } from 'react';
import type { CellValue } from '../../core/catalog/index.js';
import { Icon } from '../parts/Icon.js';
import { Button, Input, Legend } from '../parts/ui.js';
import { Picker, article } from './Picker.js';
import { ifShown } from './leaving.js';
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
  /** It must not be taken away as a whole. */
  needed?: boolean;
  /** Gives the id of a new one of that name. */
  onMake?: ((name: string, keep: (id: string) => void) => void) | undefined;
}

export function Rows({ label, help, options, word, value = {}, onKeep, write, read, first, needed, onMake }: Asked) {
  const [added, setAdded] = useState<string | null>(null);
  const ids = Object.keys(value);
  const keep = (after: Values): void => onKeep(Object.keys(after).length === 0 && !needed ? undefined : after);
  const add = (id: string | undefined): void => {
    if (id === undefined || id in value) return;
    setAdded(id);
    keep({ ...value, [id]: first });
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
              onKeep={(next) => {
                const { [id]: _gone, ...others } = value;
                // In its place, not at the end.
                keep(next === undefined ? others : { ...value, [id]: next });
              }}
            />
          );
        })}
        <Picker
          label={`${label}: add ${article(word)}`}
          options={options.filter(({ id }) => !(id in value))}
          value={undefined}
          word={word}
          adding
          onPick={add}
          onMake={onMake && ((name) => onMake(name, add))}
        />
      </div>
    </fieldset>
  );
}

function Row({
  id,
  label,
  one,
  text,
  read,
  focused,
  onKeep,
}: {
  id: string;
  label: string;
  one: Nameable | undefined;
  text: string;
  read: (text: string) => CellValue;
  /** It was just added. */
  focused: boolean;
  onKeep: (value: unknown) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | undefined>();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (focused) input.current?.select();
  }, [focused]);
  const keep = () => {
    if (typed === null || typed.trim() === '') {
      setTyped(null);
      return;
    }
    const back = typed === text ? undefined : read(typed);
    setProblem(back && !back.ok ? back.problem : undefined);
    if (back?.ok) onKeep(back.value);
    if (!back || back.ok) setTyped(null);
  };
  const name = one?.label ?? id;
  return (
    <div>
      <div className="flex items-center gap-2">
        <span className={`min-w-0 flex-1 truncate ${one ? '' : 'text-brick'}`} title={id}>
          {one?.icon !== undefined && (
            <>
              <Icon icon={one.icon} />{' '}
            </>
          )}
          {name}
        </span>
        <Input
          ref={input}
          aria-label={`${label}: ${name}`}
          aria-invalid={problem !== undefined}
          className="w-32 py-0.5 text-right"
          value={typed ?? text}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={ifShown(keep)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') keep();
            if (event.key === 'Escape') setTyped(null);
          }}
        />
        <Button className="px-1.5 py-0" aria-label={`${label}: without ${name}`} onClick={() => onKeep(undefined)}>
          ×
        </Button>
      </div>
      {problem !== undefined && (
        <span role="alert" className="text-sm text-brick">
          {problem}
        </span>
      )}
    </div>
  );
}

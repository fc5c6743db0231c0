/** Several things by name, each once: groups, shops, tags. */
import { Button, Legend } from '../parts/ui.js';
import { Picker, article } from './Picker.js';
import type { Nameable } from './nameable.js';

export function Many({
  label,
  help,
  options,
  word,
  value = [],
  onKeep,
  onMake,
}: {
  label: string;
  help?: string | undefined;
  options: readonly Nameable[];
  word: string;
  value: readonly string[] | undefined;
  onKeep: (value: readonly string[] | undefined) => void;
  /** Gives the id of a new one of that name. */
  onMake?: ((name: string, keep: (id: string) => void) => void) | undefined;
}) {
  const keep = (after: readonly string[]): void => onKeep(after.length === 0 ? undefined : after);
  const add = (id: string | undefined): void => {
    if (id !== undefined && !value.includes(id)) keep([...value, id]);
  };
  return (
    <fieldset className="min-w-0 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={help} />
      {help !== undefined && value.length === 0 && <p className="mb-1 text-sm text-soft">{help}</p>}
      <div className="flex flex-wrap items-center gap-1">
        {value.map((id) => {
          const name = options.find((one) => one.id === id)?.label ?? id;
          return (
            <span key={id} className="inline-flex items-center gap-1 rounded-tag bg-sunk pl-2" title={id}>
              {name}
              <Button
                className="border-0 bg-transparent px-1.5 py-0"
                aria-label={`${label}: without ${name}`}
                onClick={() => keep(value.filter((one) => one !== id))}
              >
                ×
              </Button>
            </span>
          );
        })}
        <Picker
          label={`${label}: add ${article(word)}`}
          className="w-40"
          options={options.filter(({ id }) => !value.includes(id))}
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

/** How often things are beside each other, as a slider for each, with its part of all. */
import { Legend } from '../parts/ui.js';
import { Picker, article } from './Picker.js';
import { SliderRow } from './SliderRow.js';
import type { Nameable } from './nameable.js';

type Values = Readonly<Record<string, number>>;

export function Weights({
  label,
  help,
  options,
  word,
  value,
  onKeep,
  onMake,
}: {
  label: string;
  help?: string | undefined;
  options: readonly Nameable[];
  /** What is named, in a word. */
  word: string;
  value: Values;
  onKeep: (value: Values) => void;
  /** Gives the id of a new one of that name. */
  onMake?: ((name: string, keep: (id: string) => void) => void) | undefined;
}) {
  const weights = Object.values(value);
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  const most = (Math.max(0, ...weights) || 1) * 2;
  const add = (id: string | undefined): void => {
    // As often as the others are, so that it is seen.
    if (id !== undefined && !(id in value))
      onKeep({ ...value, [id]: all > 0 ? Number((all / weights.length).toPrecision(2)) : 1 });
  };
  return (
    <fieldset className="min-w-0 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={help} />
      {weights.length === 0 && <p className="mb-1 text-sm text-soft">{help}</p>}
      <div className="flex flex-col gap-1">
        {Object.entries(value).map(([id, weight]) => (
          <SliderRow
            key={id}
            name={options.find((one) => one.id === id)?.label ?? id}
            label={`${label}: ${options.find((one) => one.id === id)?.label ?? id}`}
            value={weight}
            from={0}
            to={most}
            step={most > 10 ? 1 : most > 1 ? 0.1 : 0.01}
            more={all > 0 ? `${Math.round((100 * weight) / all)} %` : ''}
            onRest={(next) => {
              if (next !== weight) onKeep({ ...value, [id]: next });
            }}
            onRemove={() => {
              const { [id]: _gone, ...others } = value;
              onKeep(others);
            }}
          />
        ))}
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

/** The levers on the left: each a slider with its number, where the draft has it, and a way back there. */
import type { LeverOffered } from '../../core/levers/index.js';
import { Picker } from '../fields/Picker.js';
import { Remove, SliderRow } from '../fields/SliderRow.js';
import { standText } from './bench.js';
import type { LeverStand, Mix } from './bench.js';
import type { LeverRead, ScenarioRead } from './desk/orders.js';

export function Levers({
  stands,
  read,
  offered,
  onMove,
  onAdd,
  onRemove,
}: {
  stands: readonly LeverStand[];
  read: readonly LeverRead[];
  offered: readonly LeverOffered[];
  /** `null`: back to where the draft has it. `back`: the way back leads here; while the hand drags on it does not. */
  onMove: (spec: string, value: number | null, back: boolean) => void;
  onAdd: (spec: string) => void;
  onRemove: (spec: string) => void;
}) {
  const known = new Map(read.map((lever) => [lever.ok ? lever.id : lever.spec, lever]));
  const free = offered.filter(({ spec }) => !stands.some((stand) => stand.spec === spec));
  return (
    <div className="flex flex-col gap-1">
      {stands.map(({ spec, value }) => {
        const lever = known.get(spec);
        if (!lever) return null;
        if (!lever.ok)
          return (
            <p key={spec} role="alert" className="text-sm text-brick">
              {lever.why} <Remove name={spec} onRemove={() => onRemove(spec)} />
            </p>
          );
        return (
          <SliderRow
            key={spec}
            name={lever.name}
            value={value ?? lever.now}
            usual={lever.now}
            usualWords={`the draft has ${standText(lever.moves, lever.now)}`}
            from={lever.from}
            to={lever.to}
            step={lever.step}
            {...(lever.moves === 'factor' ? { prefix: '×' } : {})}
            onMove={(next, back) => onMove(spec, next === lever.now ? null : next, back)}
            onRemove={() => onRemove(spec)}
          />
        );
      })}
      <Picker
        label="Add a lever"
        word="lever"
        adding
        options={free.map(({ spec, words, now }) => ({
          id: spec,
          label: words,
          hint: now === null ? '' : String(now),
        }))}
        value={undefined}
        onPick={(spec) => {
          if (spec !== undefined) onAdd(spec);
        }}
      />
    </div>
  );
}

/** Who plays: how many of each persona beside each other. */
export function MixSliders({
  scenario,
  mix,
  onMix,
}: {
  scenario: ScenarioRead;
  mix: Mix;
  onMix: (mix: Mix, back: boolean) => void;
}) {
  const weights = scenario.mix.map((one) => ({ ...one, now: mix?.[one.persona] ?? one.weight }));
  const all = weights.reduce((sum, { now }) => sum + now, 0);
  const most = Math.max(...scenario.mix.map(({ weight }) => weight)) * 2;
  return (
    <div className="flex flex-col gap-1">
      {weights.map(({ persona, name, weight, now }) => (
        <SliderRow
          key={persona}
          name={name}
          value={now}
          usual={weight}
          usualWords={`the draft has ${weight}`}
          from={0}
          to={most}
          step={most > 10 ? 1 : 0.1}
          more={all > 0 ? `${Math.round((100 * now) / all)} %` : ''}
          onMove={(next, back) => {
            const moved = { ...Object.fromEntries(weights.map((one) => [one.persona, one.now])), [persona]: next };
            const isUsual = scenario.mix.every((one) => moved[one.persona] === one.weight);
            const isNobody = Object.values(moved).every((one) => one === 0);
            if (!isNobody) onMix(isUsual ? undefined : moved, back);
          }}
        />
      ))}
    </div>
  );
}

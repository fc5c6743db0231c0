/** The levers on the left: each a slider with its number, where the draft has it, and a way back there. */
import { Slider } from 'radix-ui';
import { useRef, useState } from 'react';
import type { LeverOffered } from '../../core/levers/index.js';
import { Picker } from '../fields/Picker.js';
import { Badge, Input } from '../parts/ui.js';
import { shown, standText } from './bench.js';
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
            prefix={lever.moves === 'factor' ? '×' : ''}
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
          prefix=""
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

interface Row {
  name: string;
  value: number;
  /** Where the draft has it. */
  usual: number;
  usualWords: string;
  from: number;
  to: number;
  step: number;
  prefix: string;
  more?: string;
  onMove: (value: number, back: boolean) => void;
  onRemove?: () => void;
}

function SliderRow({ name, value: kept, usual, usualWords, from, to, step, prefix, more, onMove, onRemove }: Row) {
  const part = to > from ? Math.min(1, Math.max(0, (usual - from) / (to - from))) : 0;
  // The hand is shown at once; the address, and all that hangs from it, comes after.
  const [hand, setHand] = useState({ over: kept, value: kept });
  const value = hand.over === kept ? hand.value : kept;
  const move = (next: number, back: boolean): void => {
    setHand({ over: kept, value: next });
    onMove(next, back);
  };
  const isMoved = value !== usual;
  const isDragged = useRef(false);
  return (
    <div className="rounded-tag px-1 py-0.5 hover:bg-sunk">
      <div className="flex items-center gap-1">
        <span className="min-w-0 flex-1 truncate text-sm font-semibold" title={name}>
          {name}
        </span>
        {more !== undefined && <Badge>{more}</Badge>}
        {prefix !== '' && <span className="text-sm text-soft">{prefix}</span>}
        <NumberBox key={value} label={`${name}, number`} value={value} onKeep={(next) => move(next, true)} />
        {onRemove && <Remove name={name} onRemove={onRemove} />}
      </div>
      <div className="relative h-6">
        <Slider.Root
          className="relative flex h-4 touch-none items-center select-none"
          value={[Math.min(to, Math.max(from, value))]}
          min={from}
          max={to}
          step={step}
          onValueChange={([next]) => {
            move(Number(next!.toPrecision(12)), !isDragged.current);
            isDragged.current = true;
          }}
          onValueCommit={() => {
            isDragged.current = false;
          }}
        >
          <Slider.Track className="relative h-1 flex-1 rounded-full bg-line">
            <Slider.Range className="absolute h-full rounded-full bg-copper" />
          </Slider.Track>
          <Slider.Thumb
            aria-label={name}
            className="block size-4 rounded-full border-2 border-copper bg-sheet shadow-sheet"
          />
        </Slider.Root>
        <button
          type="button"
          tabIndex={isMoved ? 0 : -1}
          aria-label={`${name}: back, ${usualWords}`}
          title={`Back: ${usualWords}`}
          disabled={!isMoved}
          onClick={() => move(usual, true)}
          className={`absolute top-3.5 -translate-x-1/2 text-[10px] leading-none ${isMoved ? 'text-copper' : 'text-soft'}`}
          style={{ left: `calc(8px + (100% - 16px) * ${part})` }}
        >
          ▲
        </button>
      </div>
    </div>
  );
}

const Remove = ({ name, onRemove }: { name: string; onRemove: () => void }) => (
  <button
    type="button"
    aria-label={`Take ${name} away`}
    title="Take it away"
    className="px-1 text-soft"
    onClick={onRemove}
  >
    ×
  </button>
);

/** A number that is kept with Enter or when it is left. */
function NumberBox({ label, value, onKeep }: { label: string; value: number; onKeep: (value: number) => void }) {
  const [typed, setTyped] = useState(shown(value));
  const keep = (): void => {
    const next = Number(typed.replace(',', '.'));
    if (typed.trim() === '' || !Number.isFinite(next) || next < 0) setTyped(shown(value));
    else if (next !== value) onKeep(next);
  };
  return (
    <Input
      aria-label={label}
      inputMode="decimal"
      className="w-20 py-0 text-right tabular-nums"
      value={typed}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') keep();
        if (event.key === 'Escape') setTyped(shown(value));
      }}
    />
  );
}

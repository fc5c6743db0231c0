/** A slider with its number and, where there is one, the mark of where it usually stands. */
import { Slider } from 'radix-ui';
import { useRef, useState } from 'react';
import { shown } from '../parts/shown.js';
import { Badge, Input } from '../parts/ui.js';

interface Row {
  name: string;
  /** What it is called for those who do not see it; its name otherwise. */
  label?: string;
  value: number;
  /** Where a way back leads, and what is there; none where it is left out. */
  usual?: number;
  usualWords?: string;
  from: number;
  to: number;
  step: number;
  prefix?: string;
  more?: string;
  /** It moves; `back`: the way back leads here, which it does not while the hand drags. */
  onMove?: (value: number, back: boolean) => void;
  /** The hand has let go of it. */
  onRest?: (value: number) => void;
  onRemove?: () => void;
}

export function SliderRow({
  name,
  label = name,
  value: kept,
  usual = kept,
  usualWords,
  from,
  to,
  step,
  prefix,
  more,
  onMove,
  onRest,
  onRemove,
}: Row) {
  const part = to > from ? Math.min(1, Math.max(0, (usual - from) / (to - from))) : 0;
  // The hand is shown at once; the address, and all that hangs from it, comes after.
  const [hand, setHand] = useState({ over: kept, value: kept });
  const value = hand.over === kept ? hand.value : kept;
  const move = (next: number, back: boolean): void => {
    setHand({ over: kept, value: next });
    onMove?.(next, back);
  };
  /** Not by a hand that drags. */
  const put = (next: number): void => {
    move(next, true);
    onRest?.(next);
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
        {prefix !== undefined && <span className="text-sm text-soft">{prefix}</span>}
        <NumberBox key={value} label={`${label}, number`} value={value} onKeep={put} />
        {onRemove && <Remove name={label} onRemove={onRemove} />}
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
          onValueCommit={([next]) => {
            isDragged.current = false;
            onRest?.(Number(next!.toPrecision(12)));
          }}
        >
          <Slider.Track className="relative h-1 flex-1 rounded-full bg-line">
            <Slider.Range className="absolute h-full rounded-full bg-copper" />
          </Slider.Track>
          <Slider.Thumb
            aria-label={label}
            className="block size-4 rounded-full border-2 border-copper bg-sheet shadow-sheet"
          />
        </Slider.Root>
        {usualWords !== undefined && (
          <button
            type="button"
            tabIndex={isMoved ? 0 : -1}
            aria-label={`${label}: back, ${usualWords}`}
            title={`Back: ${usualWords}`}
            disabled={!isMoved}
            onClick={() => put(usual)}
            className={`absolute top-3.5 -translate-x-1/2 text-[10px] leading-none ${isMoved ? 'text-copper' : 'text-soft'}`}
            style={{ left: `calc(8px + (100% - 16px) * ${part})` }}
          >
            ▲
          </button>
        )}
      </div>
    </div>
  );
}

export const Remove = ({ name, onRemove }: { name: string; onRemove: () => void }) => (
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

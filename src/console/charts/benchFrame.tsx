/**
 * What the charts of the bench have in common: what is in hand solid, kept variants dashed, each named at the end of its
 * line; one cursor goes through all, and an axis stands still while the hand moves.
 */
import { useRef, useState } from 'react';
import type { ReactElement } from 'react';
import { Line, ResponsiveContainer } from 'recharts';
import type { SimulationResult } from '../../core/simulation/index.js';
import { dayShown } from '../../core/simulation/report.js';

/** A run with its name; the first of several is the one in hand. */
export interface Drawn {
  name: string;
  result: SimulationResult;
  /** Fewer play than are asked for: drawn lighter. */
  preliminary: boolean;
}

export const COLOURS = ['var(--series-1)', 'var(--series-2)', 'var(--series-3)', 'var(--series-5)'];
const DASHES = ['', '7 3', '2 3', '8 3 2 3'];
export const lookOf = (place: number) => ({
  colour: COLOURS[place % COLOURS.length]!,
  dash: DASHES[place % DASHES.length]!,
  width: place === 0 ? 2.5 : 1.75,
});

export const SYNC = 'bench-day';
export const AXIS = { stroke: 'var(--ink-soft)', fontSize: 11, tickLine: false } as const;
export const DAYS = { interval: 'equidistantPreserveStart', minTickGap: 16 } as const;
export const STILL = { isAnimationActive: false, dot: false } as const;
export const HEIGHT = 168;
export const MARGIN = { top: 6, right: 74, left: 0, bottom: 0 };
export const POPUP_LOOK = {
  isAnimationActive: false,
  itemStyle: { padding: 0, lineHeight: 1.25 },
  contentStyle: {
    background: 'var(--sheet)',
    border: '1px solid var(--line)',
    borderRadius: 6,
    color: 'var(--ink)',
    padding: '2px 8px',
    fontSize: 12,
  },
} as const;
const POPUP = {
  ...POPUP_LOOK,
  labelFormatter: (day: unknown) => `day ${String(day)}`,
} as const;
export const grouped = (value: unknown): string =>
  typeof value === 'number' ? value.toLocaleString('en', { maximumFractionDigits: 1 }) : String(value);

/** The most that was needed, which does not shrink while the hand moves: the axis stands still until it rests. */
export function useHeldTop(needed: number, isHeld: boolean): number {
  const top = useRef(needed);
  // Only what was drawn last counts, so it may be written while drawing.
  // oxlint-disable-next-line react/refs
  top.current = isHeld ? Math.max(top.current, needed) : needed;
  // oxlint-disable-next-line react/refs
  return top.current;
}

/** Figures are told where the mouse is; all others show the day alone, by the line that goes through them. */
export function Plot({ children }: { children: (popup: PopupProps) => ReactElement }) {
  const [isHere, setHere] = useState(false);
  return (
    <div onMouseEnter={() => setHere(true)} onMouseLeave={() => setHere(false)}>
      <ResponsiveContainer width="100%" height={HEIGHT}>
        {children(isHere ? POPUP : { ...POPUP, content: nothing })}
      </ResponsiveContainer>
    </div>
  );
}
type PopupProps = typeof POPUP & { content?: () => null };
const nothing = (): null => null;

export const roundUp = (value: number): number => {
  if (value <= 0) return 1;
  const power = 10 ** Math.floor(Math.log10(value));
  return power * [1, 1.5, 2, 3, 4, 5, 6, 8, 10].find((times) => times * power >= value)!;
};

interface End {
  x?: number | string;
  y?: number | string;
  index?: number;
}
/** The name of a line where it ends. */
export const endLabel = (text: string, colour: string, last: number, lift = 0) =>
  function EndLabel({ x, y, index }: End): ReactElement {
    return index === last ? (
      <text x={Number(x) + 5} y={Number(y) + 4 + lift} fontSize={11} fill={colour}>
        {text.length > 11 ? `${text.slice(0, 10)}…` : text}
      </text>
    ) : (
      <g />
    );
  };

/** Names that would stand on each other are moved apart: by how much each, in the order given. */
export function lifts(ends: readonly (number | undefined)[], top: number): number[] {
  const perPx = top / (HEIGHT - 30);
  const order = [...ends.keys()].sort((a, b) => (ends[b] ?? 0) - (ends[a] ?? 0));
  const at = ends.map((end) => -(end ?? 0) / perPx);
  for (let i = 1; i < order.length; i++) at[order[i]!] = Math.max(at[order[i]!]!, at[order[i - 1]!]! + 12);
  // Those that would stand below the axis push the others up.
  for (let i = order.length - 1, floor = -2; i >= 0; i--) {
    at[order[i]!] = Math.min(at[order[i]!]!, floor);
    floor = at[order[i]!]! - 12;
  }
  return ends.map((end, place) => at[place]! + (end ?? 0) / perPx);
}

/** By day, a column for each run under its place. */
export const merged = (columns: readonly (readonly (number | null)[])[], days: number) =>
  Array.from({ length: days }, (_, day) => ({
    day: dayShown(day),
    ...Object.fromEntries(columns.map((column, place) => [`v${place}`, column[day] ?? null])),
  }));

export function VariantLines({
  drawn,
  columns,
  days,
  top,
  step = false,
}: {
  drawn: readonly Drawn[];
  columns: readonly (readonly (number | null)[])[];
  days: number;
  top: number;
  step?: boolean;
}) {
  const moved = lifts(
    columns.map((column) => column[days - 1] ?? undefined),
    top,
  );
  // The one in hand lies on top.
  return drawn
    .map(({ name, preliminary }, place) => {
      const { colour, dash, width } = lookOf(place);
      return (
        <Line
          key={place}
          dataKey={`v${place}`}
          name={name}
          type={step ? 'stepAfter' : 'linear'}
          stroke={colour}
          strokeDasharray={dash}
          strokeWidth={width}
          strokeOpacity={preliminary ? 0.55 : 1}
          label={endLabel(name, colour, days - 1, moved[place])}
          connectNulls
          {...STILL}
        />
      );
    })
    .reverse();
}
export const tableRows = (columns: readonly (readonly (number | null)[])[], days: number) =>
  Array.from({ length: days }, (_, day) => [dayShown(day), ...columns.map((column) => column[day] ?? null)]);

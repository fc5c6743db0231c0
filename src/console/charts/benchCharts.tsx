/**
 * The charts of the bench: what is in hand solid, kept variants dashed, each named at the end of its line. One cursor goes
 * through all. Each is drawn again for another run alone, so that a lever moves without waiting for them.
 */
import { memo, useRef, useState } from 'react';
import type { ReactElement } from 'react';
import {
  Area,
  Bar,
  BarChart,
  CartesianGrid,
  ComposedChart,
  LabelList,
  Legend,
  Line,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import type { SimulationResult } from '../../core/simulation/index.js';
import { dayShown } from '../../core/simulation/report.js';
import { ChartFrame } from './ChartFrame.js';
import {
  OTHER_IN,
  OTHER_OUT,
  bandRows,
  heightRows,
  flowDays,
  payBars,
  priceRows,
  shareRow,
  supplyRows,
  unevenRows,
} from '../../core/simulation/figures.js';
import type { BandRow } from '../../core/simulation/figures.js';

/** A run with its name; the first of several is the one in hand. */
export interface Drawn {
  name: string;
  result: SimulationResult;
  /** Fewer play than are asked for: drawn lighter. */
  preliminary: boolean;
}

const COLOURS = ['var(--series-1)', 'var(--series-2)', 'var(--series-3)', 'var(--series-5)'];
const DASHES = ['', '7 3', '2 3', '8 3 2 3'];
export const lookOf = (place: number) => ({
  colour: COLOURS[place % COLOURS.length]!,
  dash: DASHES[place % DASHES.length]!,
  width: place === 0 ? 2.5 : 1.75,
});

const SYNC = 'bench-day';
const AXIS = { stroke: 'var(--ink-soft)', fontSize: 11, tickLine: false } as const;
const DAYS = { interval: 'equidistantPreserveStart', minTickGap: 16 } as const;
const STILL = { isAnimationActive: false, dot: false } as const;
const HEIGHT = 168;
const MARGIN = { top: 6, right: 74, left: 0, bottom: 0 };
const POPUP = {
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
  labelFormatter: (day: unknown) => `day ${String(day)}`,
} as const;
const grouped = (value: unknown): string =>
  typeof value === 'number' ? value.toLocaleString('en', { maximumFractionDigits: 1 }) : String(value);

/** The most that was needed, which does not shrink while the hand moves: the axis stands still until it rests. */
function useHeldTop(needed: number, isHeld: boolean): number {
  const top = useRef(needed);
  // Only what was drawn last counts, so it may be written while drawing.
  // oxlint-disable-next-line react/refs
  top.current = isHeld ? Math.max(top.current, needed) : needed;
  // oxlint-disable-next-line react/refs
  return top.current;
}

/** Figures are told where the mouse is; all others show the day alone, by the line that goes through them. */
function Plot({ children }: { children: (popup: PopupProps) => ReactElement }) {
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

const roundUp = (value: number): number => {
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
const endLabel = (text: string, colour: string, last: number, lift = 0) =>
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
function lifts(ends: readonly (number | undefined)[], top: number): number[] {
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
const merged = (columns: readonly (readonly (number | null)[])[], days: number) =>
  Array.from({ length: days }, (_, day) => ({
    day: dayShown(day),
    ...Object.fromEntries(columns.map((column, place) => [`v${place}`, column[day] ?? null])),
  }));

function VariantLines({
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

/** Who own a thing by each day, with what the target wants drawn in. */
export const ShareChart = memo(function ShareChart({
  drawn,
  item,
  name,
  persona,
  from,
  to,
  percentile,
}: {
  drawn: readonly Drawn[];
  item: string;
  name: string;
  persona: string;
  /** What a target wants; no percentile where there is none. */
  from: number | undefined;
  to: number | undefined;
  percentile: number | undefined;
}) {
  const { days, personas } = drawn[0]!.result;
  const columns = drawn.map(({ result }) =>
    shareRow(result, item, persona).map((share) => Math.round(1000 * share) / 10),
  );
  const who = personas.find(({ id }) => id === persona)?.name ?? persona;
  const title = `${who} with ${name}, %`;
  return (
    <ChartFrame title={title} table={{ head: ['day', ...drawn.map((one) => one.name)], rows: rowsOf(columns, days) }}>
      <Plot>
        {(popup) => (
          <LineChart data={merged(columns, days)} margin={MARGIN} syncId={SYNC}>
            <CartesianGrid stroke="var(--line)" strokeDasharray="2 4" vertical={false} />
            {percentile !== undefined && (
              <ReferenceArea
                x1={Math.max(1, from ?? 1)}
                x2={Math.min(days, to ?? days)}
                y1={0}
                y2={100}
                fill="var(--tint-brass)"
                fillOpacity={0.9}
              />
            )}
            {percentile !== undefined && <ReferenceLine y={percentile} stroke="var(--brass)" strokeDasharray="3 3" />}
            <XAxis dataKey="day" type="number" domain={[1, days]} {...AXIS} {...DAYS} />
            <YAxis {...AXIS} width={34} domain={[0, 100]} />
            <Tooltip {...popup} formatter={(value) => `${grouped(value)} %`} />
            {VariantLines({ drawn, columns, days, top: 100, step: true })}
          </LineChart>
        )}
      </Plot>
    </ChartFrame>
  );
});

const rowsOf = (columns: readonly (readonly (number | null)[])[], days: number) =>
  Array.from({ length: days }, (_, day) => [dayShown(day), ...columns.map((column) => column[day] ?? null)]);

/** What a persona holds: half of the players and nearly all as bands, medians of variants as lines. */
export const WalletChart = memo(function WalletChart({
  drawn,
  persona,
  currency,
}: {
  drawn: readonly Drawn[];
  persona: number;
  currency: number;
}) {
  const [{ result }] = drawn as [Drawn, ...Drawn[]];
  return (
    <BandChart
      drawn={drawn}
      title={`${result.personas[persona]!.name}: ${result.currencies[currency]!.name} held`}
      rowsOf={(run) => bandRows(run, persona, currency)}
    />
  );
});

/** How high the players of a persona are on a track. */
export const LevelsChart = memo(function LevelsChart({
  drawn,
  persona,
  track,
  name,
}: {
  drawn: readonly Drawn[];
  persona: number;
  track: string;
  name: string;
}) {
  return (
    <BandChart
      drawn={drawn}
      title={`${drawn[0]!.result.personas[persona]!.name}: ${name}`}
      rowsOf={(run) => heightRows(run, persona, track)}
      step
    />
  );
});

/** Where half of the players are by day, and nine of ten; of other runs the median. */
function BandChart({
  drawn,
  title,
  rowsOf,
  step = false,
}: {
  drawn: readonly Drawn[];
  title: string;
  rowsOf: (result: SimulationResult) => BandRow[];
  step?: boolean;
}) {
  const [{ result, preliminary }] = drawn as [Drawn, ...Drawn[]];
  const { days } = result;
  const bands = rowsOf(result);
  const columns = drawn.map((one) => {
    const medians = new Map(rowsOf(one.result).map(({ day, median }) => [day, median]));
    return Array.from({ length: days }, (_, day) => medians.get(dayShown(day)) ?? null);
  });
  const needed = Math.max(1, ...bands.map(({ most }) => most[1]), ...columns.flat().map((value) => value ?? 0));
  const top = useHeldTop(roundUp(needed), preliminary);
  const byDay = new Map(bands.map((row) => [row.day, row]));
  const data = merged(columns, days).map((row) => ({
    ...row,
    most: byDay.get(row.day)?.most,
    half: byDay.get(row.day)?.half,
  }));
  return (
    <ChartFrame
      title={title}
      table={{
        head: ['day', 'p5', 'p25', 'p75', 'p95', ...drawn.map(({ name }) => `median, ${name}`)],
        rows: data.map((row, day) => [
          row.day,
          row.most?.[0] ?? null,
          row.half?.[0] ?? null,
          row.half?.[1] ?? null,
          row.most?.[1] ?? null,
          ...columns.map((column) => column[day] ?? null),
        ]),
      }}
    >
      <Plot>
        {(popup) => (
          <ComposedChart data={data} margin={MARGIN} syncId={SYNC}>
            <CartesianGrid stroke="var(--line)" strokeDasharray="2 4" vertical={false} />
            <XAxis dataKey="day" type="number" domain={[1, days]} {...AXIS} {...DAYS} />
            <YAxis {...AXIS} width={46} domain={[0, top]} allowDataOverflow tickFormatter={grouped} />
            <Tooltip
              {...popup}
              formatter={(value) => (Array.isArray(value) ? value.map(grouped).join(' to ') : grouped(value))}
            />
            <Area
              dataKey="most"
              name="5th to 95th percentile"
              type={step ? 'stepAfter' : 'linear'}
              stroke="none"
              fill={COLOURS[0]}
              fillOpacity={0.14}
              {...STILL}
            />
            <Area
              dataKey="half"
              name="half of the players"
              type={step ? 'stepAfter' : 'linear'}
              stroke="none"
              fill={COLOURS[0]}
              fillOpacity={0.24}
              {...STILL}
            />
            {VariantLines({ drawn, columns, days, top, step })}
          </ComposedChart>
        )}
      </Plot>
    </ChartFrame>
  );
}

/** Of two colours that some eyes cannot tell apart, the second has stripes. */
const STRIPED = [3, 4, 6];
const stripes = (series: number): string => `stripes-${series}`;
const CAUSES = [1, 5, 3, 2, 4, 6].map((series) =>
  STRIPED.includes(series) ? `url(#${stripes(series)})` : `var(--series-${series})`,
);
const REST = 'var(--ink-soft)';

/** A cause keeps its colour while the hand moves, whatever becomes of its place among the largest. */
function useCauseColours(causes: readonly string[]): (cause: string) => string {
  const known = useRef(new Map<string, string>());
  return (cause) => {
    if (cause === OTHER_IN || cause === OTHER_OUT) return REST;
    // Colours of causes that are no longer drawn are free again.
    const taken = new Map([...known.current].filter(([one]) => causes.includes(one)));
    const free = CAUSES.find((colour) => ![...taken.values()].includes(colour)) ?? CAUSES[0]!;
    const colour = taken.get(cause) ?? free;
    known.current = taken.set(cause, colour);
    return colour;
  };
}

/** What comes in and goes out of the game in a day: sources up, sinks down. Of the run in hand. */
export const FlowDaysChart = memo(function FlowDaysChart({
  drawn,
  currency,
}: {
  drawn: readonly Drawn[];
  currency: number;
}) {
  const [{ result, preliminary }] = drawn as [Drawn, ...Drawn[]];
  const { causes, rows } = flowDays(result, currency);
  const colourOf = useCauseColours(causes);
  const top = useHeldTop(roundUp(Math.max(1, ...rows.map(({ up, down }) => Math.max(up, -down)))), preliminary);
  return (
    <ChartFrame
      title={`${result.currencies[currency]!.name} in and out, by day and player`}
      table={{
        head: ['day', ...causes],
        rows: rows.map(({ day, by }) => [day, ...causes.map((cause) => by[cause] ?? 0)]),
      }}
    >
      <Plot>
        {(popup) => (
          <BarChart
            data={rows.map(({ day, by }) => ({ day, ...by }))}
            margin={{ ...MARGIN, right: 4 }}
            stackOffset="sign"
            syncId={SYNC}
            barCategoryGap={1}
          >
            <defs>
              {STRIPED.map((series) => (
                <pattern
                  key={series}
                  id={stripes(series)}
                  width="4"
                  height="4"
                  patternUnits="userSpaceOnUse"
                  patternTransform="rotate(45)"
                >
                  <rect width="4" height="4" fill={`var(--series-${series})`} />
                  <rect width="1.3" height="4" fill="var(--sheet)" />
                </pattern>
              ))}
            </defs>
            <CartesianGrid stroke="var(--line)" strokeDasharray="2 4" vertical={false} />
            <XAxis dataKey="day" {...AXIS} {...DAYS} />
            <YAxis {...AXIS} width={40} domain={[-top, top]} tickFormatter={grouped} />
            <ReferenceLine y={0} stroke="var(--ink-soft)" />
            <Tooltip {...popup} formatter={grouped} cursor={{ fill: 'var(--sheet-sunk)' }} />
            <Legend
              verticalAlign="middle"
              align="right"
              layout="vertical"
              content={() => (
                <ul className="flex max-w-[150px] flex-col pl-1 text-[11px] leading-tight">
                  {causes.map((cause) => (
                    <li key={cause} className="flex items-baseline gap-1">
                      <svg aria-hidden width="10" height="10" className="shrink-0">
                        <rect width="10" height="10" fill={colourOf(cause)} />
                      </svg>
                      {cause}
                    </li>
                  ))}
                </ul>
              )}
            />
            {causes.map((cause) => (
              <Bar
                key={cause}
                dataKey={cause}
                stackId="flow"
                fill={colourOf(cause)}
                fillOpacity={preliminary ? 0.55 : 0.9}
                isAnimationActive={false}
              />
            ))}
          </BarChart>
        )}
      </Plot>
    </ChartFrame>
  );
});

/** What a minute of each activity pays, the best first; the runs beside each other. */
export const PayChart = memo(function PayChart({ drawn, currency }: { drawn: readonly Drawn[]; currency: number }) {
  const { currencies } = drawn[0]!.result;
  const bars = drawn.map(({ result }) => new Map(payBars(result, currency).map(({ name, pay }) => [name, pay])));
  const rows = payBars(drawn[0]!.result, currency).map(({ name }) => ({
    name,
    ...Object.fromEntries(bars.map((one, place) => [`v${place}`, one.get(name) ?? 0])),
  }));
  return (
    <ChartFrame
      title={`${currencies[currency]!.name} a minute, by activity`}
      table={{
        head: ['activity', ...drawn.map(({ name }) => name)],
        rows: rows.map(({ name }) => [name, ...bars.map((one) => one.get(name) ?? null)]),
      }}
    >
      <Plot>
        {(popup) => (
          <BarChart data={rows} layout="vertical" margin={{ ...MARGIN, right: drawn.length > 1 ? 48 : 12 }}>
            <XAxis type="number" {...AXIS} tickFormatter={grouped} />
            <YAxis type="category" dataKey="name" {...AXIS} width={110} interval={0} />
            <Tooltip {...popup} labelFormatter={String} formatter={grouped} cursor={{ fill: 'var(--sheet-sunk)' }} />
            {drawn.map(({ name, preliminary }, place) => (
              <Bar
                key={place}
                dataKey={`v${place}`}
                name={name}
                fill={lookOf(place).colour}
                fillOpacity={preliminary ? 0.55 : 1}
                isAnimationActive={false}
              >
                {drawn.length > 1 && (
                  <LabelList position="right" valueAccessor={() => name} fontSize={9} fill="var(--ink-soft)" />
                )}
              </Bar>
            ))}
          </BarChart>
        )}
      </Plot>
    </ChartFrame>
  );
});

/** All that players hold together, of each who is left; and how prices stand against the first day. */
export const SupplyChart = memo(function SupplyChart({
  drawn,
  currency,
}: {
  drawn: readonly Drawn[];
  currency: number;
}) {
  return (
    <DayLines
      drawn={drawn}
      title={`${drawn[0]!.result.currencies[currency]!.name} held, by player`}
      columnOf={(result) => supplyRows(result, currency)}
    />
  );
});
export const PricesChart = memo(function PricesChart({
  drawn,
  currency,
}: {
  drawn: readonly Drawn[];
  currency: number;
}) {
  return (
    <DayLines
      drawn={drawn}
      title={`Prices in ${drawn[0]!.result.currencies[currency]!.name} against day 1, %`}
      columnOf={(result) => priceRows(result, currency)}
    />
  );
});

export const UnevenChart = memo(function UnevenChart({
  drawn,
  currency,
}: {
  drawn: readonly Drawn[];
  currency: number;
}) {
  return (
    <DayLines
      drawn={drawn}
      title={`How unevenly ${drawn[0]!.result.currencies[currency]!.name} are held (Gini, %)`}
      columnOf={(result) => unevenRows(result, currency)}
    />
  );
});

function DayLines({
  drawn,
  title,
  columnOf,
}: {
  drawn: readonly Drawn[];
  title: string;
  columnOf: (result: SimulationResult) => (number | null)[];
}) {
  const { days } = drawn[0]!.result;
  const columns = drawn.map(({ result }) => columnOf(result));
  const needed = Math.max(1, ...columns.flat().map((value) => value ?? 0));
  const top = useHeldTop(roundUp(needed), drawn[0]!.preliminary);
  return (
    <ChartFrame title={title} table={{ head: ['day', ...drawn.map(({ name }) => name)], rows: rowsOf(columns, days) }}>
      <Plot>
        {(popup) => (
          <LineChart data={merged(columns, days)} margin={MARGIN} syncId={SYNC}>
            <CartesianGrid stroke="var(--line)" strokeDasharray="2 4" vertical={false} />
            <XAxis dataKey="day" type="number" domain={[1, days]} {...AXIS} {...DAYS} />
            <YAxis {...AXIS} width={46} domain={[0, top]} tickFormatter={grouped} />
            <Tooltip {...popup} formatter={grouped} />
            {VariantLines({ drawn, columns, days, top })}
          </LineChart>
        )}
      </Plot>
    </ChartFrame>
  );
}

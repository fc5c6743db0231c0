/** The charts of Simulate: bands of balances, flows, and shares who own. With two runs, both are drawn. */
import {
  Area,
  Bar,
  BarChart,
  CartesianGrid,
  ComposedChart,
  Line,
  LineChart,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import type { SimulationResult } from '../../core/simulation/index.js';
import { ChartFrame } from './ChartFrame.js';
import { dayShown } from '../../core/simulation/report.js';
import { bandRows, causeWords, flowRows } from '../../core/simulation/figures.js';
import type { OwnedRow } from '../../core/simulation/figures.js';

/** The run in question, and the one it is compared with. */
export interface Runs {
  now: SimulationResult;
  before?: SimulationResult | undefined;
}

const NOW = 'var(--series-1)';
const BEFORE = 'var(--series-2)';
const AXIS = { stroke: 'var(--ink-soft)', fontSize: 12, tickLine: false } as const;
const grouped = (value: unknown): string => (typeof value === 'number' ? value.toLocaleString('en') : String(value));
const DAYS = { interval: 'equidistantPreserveStart', minTickGap: 16 } as const;
const POPUP = {
  contentStyle: { background: 'var(--sheet)', border: '1px solid var(--line)', borderRadius: 6, color: 'var(--ink)' },
  labelFormatter: (day: unknown) => `day ${String(day)}`,
} as const;

/** The same words for colours everywhere; the lines differ in dash too, so that colour is not the only sign. */
export function Legend({ compared }: { compared: boolean }) {
  return (
    <p className="flex flex-wrap gap-4 text-sm text-soft">
      <span>
        <span aria-hidden style={{ color: NOW }}>
          ━━
        </span>{' '}
        median{compared ? ' of this run' : ''}
      </span>
      <span>
        <span aria-hidden style={{ color: NOW, opacity: 0.5 }}>
          ▇
        </span>{' '}
        half of the players
      </span>
      <span>
        <span aria-hidden style={{ color: NOW, opacity: 0.22 }}>
          ▇
        </span>{' '}
        5th to 95th percentile
      </span>
      {compared && (
        <span>
          <span aria-hidden style={{ color: BEFORE }}>
            ╍╍
          </span>{' '}
          the run before, median and half of the players
        </span>
      )}
    </p>
  );
}

export function BalanceChart({ runs, persona, currency }: { runs: Runs; persona: number; currency: number }) {
  const { now, before } = runs;
  const { name, players } = now.personas[persona]!;
  const unit = now.currencies[currency]!.name;
  const earlier = before ? bandRows(before, persona, currency) : [];
  const rows = bandRows(now, persona, currency).map((row, index) => ({
    ...row,
    beforeMedian: earlier[index]?.median,
    beforeHalf: earlier[index]?.half,
  }));
  const head = ['day', 'p5', 'p25', 'median', 'p75', 'p95', 'players', ...(before ? ['median before'] : [])];
  return (
    <ChartFrame
      title={`${name} (${players} players): ${unit}`}
      table={{
        head,
        rows: rows.map((row) => [
          row.day,
          row.most[0],
          row.half[0],
          row.median,
          row.half[1],
          row.most[1],
          row.n,
          ...(before ? [row.beforeMedian ?? null] : []),
        ]),
      }}
    >
      <ResponsiveContainer width="100%" height={190}>
        <ComposedChart data={rows} margin={{ top: 4, right: 8, left: 0, bottom: 0 }}>
          <CartesianGrid stroke="var(--line)" strokeDasharray="2 4" vertical={false} />
          <XAxis dataKey="day" {...AXIS} {...DAYS} />
          <YAxis {...AXIS} width={48} tickFormatter={grouped} />
          <Tooltip {...POPUP} />
          <Area
            dataKey="most"
            name="5th to 95th"
            stroke="none"
            fill={NOW}
            fillOpacity={0.16}
            isAnimationActive={false}
          />
          <Area
            dataKey="half"
            name="half of the players"
            stroke="none"
            fill={NOW}
            fillOpacity={0.3}
            isAnimationActive={false}
          />
          {before && (
            <Area
              dataKey="beforeHalf"
              name="half, run before"
              stroke="none"
              fill={BEFORE}
              fillOpacity={0.22}
              isAnimationActive={false}
            />
          )}
          <Line dataKey="median" stroke={NOW} strokeWidth={2} dot={false} isAnimationActive={false} />
          {before && (
            <Line
              dataKey="beforeMedian"
              name="median, run before"
              stroke={BEFORE}
              strokeWidth={2}
              strokeDasharray="5 3"
              dot={false}
              isAnimationActive={false}
            />
          )}
        </ComposedChart>
      </ResponsiveContainer>
    </ChartFrame>
  );
}

export function FlowChart({
  runs: { now, before },
  currency,
  direction,
}: {
  runs: Runs;
  currency: number;
  direction: 'in' | 'out';
}) {
  const earlier = new Map(
    (before ? flowRows(before, currency, direction) : []).map(({ cause, units }) => [cause, units]),
  );
  const rows = flowRows(now, currency, direction)
    .map(({ cause, units }) => ({
      cause: causeWords(cause),
      units,
      before: before ? (earlier.get(cause) ?? 0) : undefined,
    }))
    .slice(0, 8);
  const unit = now.currencies[currency]!.name;
  return (
    <ChartFrame
      title={`${unit} ${direction === 'in' ? 'in, by source' : 'out, by sink'}`}
      table={{
        head: ['cause', unit, ...(before ? ['run before'] : [])],
        rows: rows.map((row) => [row.cause, row.units, ...(before ? [row.before ?? 0] : [])]),
      }}
    >
      <ResponsiveContainer width="100%" height={40 + rows.length * (before ? 34 : 26)}>
        <BarChart data={rows} layout="vertical" margin={{ top: 4, right: 16, left: 0, bottom: 0 }}>
          <XAxis type="number" {...AXIS} tickFormatter={grouped} />
          <YAxis type="category" dataKey="cause" {...AXIS} width={165} interval={0} />
          <Tooltip {...POPUP} labelFormatter={(cause) => String(cause)} cursor={{ fill: 'var(--sheet-sunk)' }} />
          <Bar dataKey="units" name={before ? 'this run' : unit} fill={NOW} isAnimationActive={false} />
          {before && <Bar dataKey="before" name="run before" fill={BEFORE} isAnimationActive={false} />}
        </BarChart>
      </ResponsiveContainer>
    </ChartFrame>
  );
}

const SERIES = [
  'var(--series-1)',
  'var(--series-2)',
  'var(--series-3)',
  'var(--series-4)',
  'var(--series-5)',
  'var(--series-6)',
];
const DASHES = ['', '6 3', '2 3', '8 3 2 3', '4 4', '1 3'];

/** The share of players who own an item, by day: Kaplan and Meier's estimate for each persona. */
export function OwnedChart({
  name,
  rows,
  before,
}: {
  name: string;
  rows: readonly OwnedRow[];
  before: readonly OwnedRow[];
}) {
  const days = rows[0]?.share.length ?? 0;
  const data = Array.from(
    { length: days },
    (_, day) =>
      Object.fromEntries([
        ['day', dayShown(day)],
        ...rows.map((row) => [row.persona, Math.round(1000 * row.share[day]!) / 10]),
        ...before.map((row) => [`${row.persona}, before`, Math.round(1000 * row.share[day]!) / 10]),
      ]) as Record<string, number>,
  );
  const lines = [
    ...rows.map((row, index) => ({
      key: row.persona,
      colour: SERIES[index % SERIES.length]!,
      width: 2,
      dash: DASHES[index % DASHES.length]!,
    })),
    ...before.map((row, index) => ({
      key: `${row.persona}, before`,
      colour: SERIES[index % SERIES.length]!,
      width: 1,
      dash: '2 4',
    })),
  ];
  return (
    <ChartFrame
      title={`${name}: share of players who own it, in %`}
      table={{
        head: ['day', ...lines.map(({ key }) => key)],
        rows: data.map((row) => [row['day']!, ...lines.map(({ key }) => row[key] ?? null)]),
      }}
    >
      <ResponsiveContainer width="100%" height={200}>
        <LineChart data={data} margin={{ top: 4, right: 8, left: 0, bottom: 0 }}>
          <CartesianGrid stroke="var(--line)" strokeDasharray="2 4" vertical={false} />
          <XAxis dataKey="day" {...AXIS} {...DAYS} />
          <YAxis {...AXIS} width={40} domain={[0, 100]} />
          <Tooltip {...POPUP} />
          {lines.map(({ key, colour, width, dash }) => (
            <Line
              key={key}
              type="stepAfter"
              dataKey={key}
              stroke={colour}
              strokeWidth={width}
              strokeDasharray={dash}
              dot={false}
              isAnimationActive={false}
            />
          ))}
        </LineChart>
      </ResponsiveContainer>
      <p className="flex flex-wrap gap-3 px-2 text-sm text-soft">
        {rows.map(({ persona }, index) => (
          <span key={persona}>
            <svg width="26" height="8" aria-hidden className="inline">
              <line
                x1="0"
                y1="4"
                x2="26"
                y2="4"
                stroke={SERIES[index % SERIES.length]}
                strokeWidth="2"
                strokeDasharray={DASHES[index % DASHES.length]}
              />
            </svg>{' '}
            {persona}
          </span>
        ))}
        {before.length > 0 && <span>thin: the run before</span>}
      </p>
    </ChartFrame>
  );
}

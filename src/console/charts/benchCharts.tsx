/** The other charts of the bench: who own a thing, what pays, supply and prices. Each is drawn again for another run alone. */
import { memo } from 'react';
import {
  Bar,
  BarChart,
  CartesianGrid,
  LabelList,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import type { SimulationResult } from '../../core/simulation/index.js';
import { payBars, priceRows, shareRow, supplyRows, unevenRows } from '../../core/simulation/figures.js';
import { ChartFrame } from './ChartFrame.js';
import {
  SYNC,
  AXIS,
  DAYS,
  MARGIN,
  grouped,
  useHeldTop,
  Plot,
  roundUp,
  merged,
  VariantLines,
  tableRows,
  lookOf,
} from './benchFrame.js';
import type { Drawn } from './benchFrame.js';

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
    <ChartFrame
      title={title}
      table={{ head: ['day', ...drawn.map((one) => one.name)], rows: tableRows(columns, days) }}
    >
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
    <ChartFrame
      title={title}
      table={{ head: ['day', ...drawn.map(({ name }) => name)], rows: tableRows(columns, days) }}
    >
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

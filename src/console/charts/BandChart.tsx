/** Bands of players by day, for a wallet or a level: drawn again for another run alone. */
import { memo } from 'react';
import { Area, CartesianGrid, ComposedChart, Tooltip, XAxis, YAxis } from 'recharts';
import type { SimulationResult } from '../../core/simulation/index.js';
import { bandRows, heightRows } from '../../core/simulation/figures.js';
import type { BandRow } from '../../core/simulation/figures.js';
import { dayShown } from '../../core/simulation/report.js';
import { ChartFrame } from './ChartFrame.js';
import {
  COLOURS,
  SYNC,
  AXIS,
  DAYS,
  STILL,
  MARGIN,
  grouped,
  useHeldTop,
  Plot,
  roundUp,
  merged,
  VariantLines,
} from './benchFrame.js';
import type { Drawn } from './benchFrame.js';

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

const BANDS = [
  { key: 'most', name: '5th to 95th percentile', opacity: 0.14 },
  { key: 'half', name: 'half of the players', opacity: 0.24 },
];

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
            {BANDS.map(({ key, name, opacity }) => (
              <Area
                key={key}
                dataKey={key}
                name={name}
                type={step ? 'stepAfter' : 'linear'}
                stroke="none"
                fill={COLOURS[0]}
                fillOpacity={opacity}
                {...STILL}
              />
            ))}
            {VariantLines({ drawn, columns, days, top, step })}
          </ComposedChart>
        )}
      </Plot>
    </ChartFrame>
  );
}

/** Money by day, by where it comes from and where it goes. */
import { memo, useRef } from 'react';
import { Bar, BarChart, CartesianGrid, Legend, ReferenceLine, Tooltip, XAxis, YAxis } from 'recharts';
import { OTHER_IN, OTHER_OUT, flowDays } from '../../core/simulation/figures.js';
import { ChartFrame } from './ChartFrame.js';
import { SYNC, AXIS, DAYS, MARGIN, grouped, useHeldTop, Plot, roundUp } from './benchFrame.js';
import type { Drawn } from './benchFrame.js';

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

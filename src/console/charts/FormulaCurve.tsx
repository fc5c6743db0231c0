/** A formula over one thing that it reads, with where the player is. */
import { CartesianGrid, Line, LineChart, ReferenceDot, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { FormulaCurve as Curve } from '../../core/catalog/index.js';
import { ChartFrame } from './ChartFrame.js';
import { AXIS, POPUP_LOOK, STILL, grouped } from './benchFrame.js';

/** `at`: what the player has of it. */
export default function FormulaCurve({ curve: { name, points }, at }: { curve: Curve; at: number }) {
  const here = points.find((point) => point.at === at);
  return (
    <ChartFrame
      title={`by ${name}`}
      table={{ head: [name, 'value'], rows: points.map(({ at: one, value }) => [one, value]) }}
    >
      <ResponsiveContainer width="100%" height={120}>
        <LineChart data={points} margin={{ top: 6, right: 12, left: 0, bottom: 0 }}>
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis dataKey="at" type="number" domain={['dataMin', 'dataMax']} {...AXIS} tickFormatter={grouped} />
          <YAxis width={48} {...AXIS} tickFormatter={grouped} />
          <Tooltip
            {...POPUP_LOOK}
            formatter={(value) => [grouped(value), 'value']}
            labelFormatter={(one) => `${name} = ${String(one)}`}
          />
          <Line dataKey="value" stroke="var(--series-1)" strokeWidth={2} {...STILL} />
          {here && here.value !== null && (
            <ReferenceDot x={here.at} y={here.value} r={5} fill="var(--copper)" stroke="var(--sheet)" />
          )}
        </LineChart>
      </ResponsiveContainer>
    </ChartFrame>
  );
}

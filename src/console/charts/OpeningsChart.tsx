/** The share of players who have at least one of an asset, by how often they opened. */
import { useState } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { LootOdds } from '../../core/loot/index.js';
import { Choice } from '../parts/ui.js';
import { ChartFrame } from './ChartFrame.js';

const AXIS = { stroke: 'var(--ink-soft)', fontSize: 12, tickLine: false } as const;
const LEVELS = [0.5, 0.9, 0.99];

export function OpeningsChart({ odds, nameOf }: { odds: LootOdds; nameOf: (asset: string) => string }) {
  // The rarest first: that is what a designer asks about.
  const rarest = [...odds.assets].sort((a, b) => a.chance - b.chance)[0];
  const [picked, setPicked] = useState<string | null>(null);
  const asset = odds.assets.find((one) => one.asset === picked) ?? rarest;
  if (!asset) return null;
  const rows = asset.curve.map(({ openings, share }) => ({ openings, share: Math.round(share * 1e4) / 100 }));
  return (
    <>
      <Choice
        label="Openings until players have"
        value={asset.asset}
        options={odds.assets.map((one) => ({ value: one.asset, label: nameOf(one.asset) }))}
        onChange={setPicked}
      />
      <ChartFrame
        title={`Openings until players have ${nameOf(asset.asset)}`}
        table={{ head: ['openings', '% of players'], rows: rows.map(({ openings, share }) => [openings, share]) }}
      >
        <ResponsiveContainer width="100%" height={220}>
          <LineChart data={rows} margin={{ top: 8, right: 16, bottom: 4, left: 0 }}>
            <CartesianGrid stroke="var(--line)" vertical={false} />
            <XAxis dataKey="openings" type="number" domain={[1, 'dataMax']} allowDecimals={false} {...AXIS} />
            <YAxis domain={[0, 100]} unit=" %" width={54} {...AXIS} />
            <Tooltip
              contentStyle={{
                background: 'var(--sheet)',
                border: '1px solid var(--line)',
                borderRadius: 6,
                color: 'var(--ink)',
              }}
              formatter={(value) => [`${String(value)} % of players`, 'have it']}
              labelFormatter={(openings) => `after ${String(openings)} openings`}
            />
            {LEVELS.map((level) => (
              <ReferenceLine key={level} y={level * 100} stroke="var(--series-2)" strokeDasharray="4 3" />
            ))}
            <Line
              dataKey="share"
              stroke="var(--series-1)"
              dot={rows.length < 16}
              strokeWidth={2}
              isAnimationActive={false}
            />
          </LineChart>
        </ResponsiveContainer>
      </ChartFrame>
    </>
  );
}

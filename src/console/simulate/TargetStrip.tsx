/** How the run in hand stands to each target: a sign and a word, and the interval beside what is wanted. */
import { MARK_SIGNS, markText, targetBounds, targetDecides, targetFigure } from '../../core/simulation/report.js';
import type { SimulationResult, TargetRow } from '../../core/simulation/index.js';

const TONES: Readonly<Record<TargetRow['mark'], string>> = {
  met: 'text-verdigris',
  under: 'text-brick',
  over: 'text-brick',
  undecided: 'text-brass',
  unknown: 'text-soft',
};

export function TargetStrip({
  result,
  preliminary,
  onShow,
  onDecide,
}: {
  result: SimulationResult;
  preliminary: boolean;
  /** Shows the chart that a target is about. */
  onShow: (target: string) => void;
  /** Plays so many, which would decide it. */
  onDecide: (players: number) => void;
}) {
  const { targets, currencies } = result;
  if (targets.length === 0) return null;
  return (
    <ul aria-label="Targets" className="grid grid-cols-[repeat(auto-fit,minmax(270px,1fr))] gap-2">
      {targets.map((row) => (
        <li key={row.id} className="rounded-sheet border border-line bg-sheet px-3 py-1">
          <button
            type="button"
            onClick={() => onShow(row.id)}
            title={`${row.name}. Wanted: ${targetBounds(row, currencies)}. Show its chart.`}
            className="flex w-full items-baseline gap-2 text-left"
          >
            <span className={`font-semibold whitespace-nowrap ${TONES[row.mark]}`}>
              <span aria-hidden>{MARK_SIGNS[row.mark]}</span> {markText(row)}
            </span>
            <span className="truncate">{row.name}</span>
          </button>
          <div className={`flex items-center gap-2 text-sm ${preliminary ? 'opacity-60' : ''}`}>
            <span
              className="whitespace-nowrap tabular-nums"
              title={`95% interval; wanted: ${targetBounds(row, currencies)}`}
            >
              {targetFigure(row, currencies)}
            </span>
            <Interval row={row} days={result.days} />
            {row.mark === 'undecided' && !preliminary && row.decides !== null && (
              <button
                type="button"
                className="whitespace-nowrap text-copper underline"
                title={targetDecides(row)}
                onClick={() => onDecide(row.decides!)}
              >
                decide
              </button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}

const WIDTH = 110;
const HEIGHT = 14;

/** The interval on one scale with what is wanted; what lies outside of it ends in an arrow. */
function Interval({ row, days }: { row: TargetRow; days: number }) {
  if (row.mark === 'unknown') return null;
  const beyond = row.unit === 'days' ? days + 1 : null;
  const [value, low, high] = [row.value, row.low, row.high].map((one) => one ?? beyond ?? row.value ?? 0) as [
    number,
    number,
    number,
  ];
  const ends = [row.from, row.to, value].filter((one): one is number => one !== null);
  const [least, most] = [Math.min(...ends, low), Math.max(...ends, high)];
  const pad = (most - least || Math.abs(most) || 1) * 0.12;
  const x = (at: number) => ((at - least + pad) / (most - least + 2 * pad)) * WIDTH;
  const wanted = [row.from === null ? 0 : x(row.from), row.to === null ? WIDTH : x(row.to)] as const;
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden className="ml-auto shrink-0">
      <rect x={0} y={HEIGHT / 2 - 1} width={WIDTH} height={2} fill="var(--line)" />
      <rect
        x={wanted[0]}
        y={1}
        width={Math.max(2, wanted[1] - wanted[0])}
        height={HEIGHT - 2}
        fill="var(--tint-verdigris)"
        stroke="var(--verdigris)"
        strokeOpacity={0.5}
      />
      <rect x={x(low)} y={HEIGHT / 2 - 2.5} width={Math.max(2, x(high) - x(low))} height={5} fill="var(--ink-soft)" />
      <circle cx={x(value)} cy={HEIGHT / 2} r={4} fill="var(--ink)" />
    </svg>
  );
}

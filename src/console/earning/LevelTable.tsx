/** A track as a table: what each level costs and gives, written there, the sums so far, and the curve of them. */
import { unitsFormat } from '../../core/amount/index.js';
import { CELLS } from '../../core/catalog/cell.js';
import type { CellKind } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { TrackLevel } from '../../core/economy/index.js';
import { dayShown } from '../../core/simulation/report.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import { basketText, documentLabels } from '../../core/texts/amounts.js';
import { ifShown } from '../fields/leaving.js';
import { useTyped } from '../fields/useTyped.js';
import { WhyRefused } from '../parts/WhyRefused.js';
import { useEdits } from '../parts/edits.js';
import { reasonsAt } from '../parts/refused.js';
import { PlayingTimeNote } from '../parts/playtime.js';
import { fieldOperations } from '../parts/step.js';
import { Button, DataTable, Input, Problem, Sheet, Why } from '../parts/ui.js';
import type { Column } from '../parts/ui.js';
import { useDesk, useDeskAnswer } from '../simulate/useDesk.js';

/** Enough for a first look: days come at once. */
const PLAYERS = 200;
const WIDTH = 380;
const HEIGHT = 70;

export function LevelTable({ document, track }: { document: EconomyDocument; track: string }) {
  const edits = useEdits();
  const at = useDesk(document);
  const levels = useDeskAnswer(at, 'levels', track, ({ desk, document: about }) => desk.now(about, 'levels', track));
  const [scenario] = Object.keys(document.scenarios ?? {});
  const asked = { scenario: scenario ?? '', players: PLAYERS, levers: [] };
  const run = useDeskAnswer(scenario === undefined ? undefined : at, 'play', asked, ({ desk, document: about }) =>
    desk.later(about, 'play', asked),
  );
  const written = document.tracks?.[track];
  if (!written) return null;
  const { earns, attribute, levels: table = {} } = written;
  const pointer = `/tracks/${track}/levels`;
  const labels = documentLabels(document);
  const money = labels(earns)?.name ?? earns;
  const number = (units: number): string => unitsFormat(units, labels(earns)?.decimals ?? 0);
  const start = Number(document.attributes?.[attribute]?.start ?? 0);
  const last = Math.max(start, ...Object.keys(table).map(Number));
  const put = (after: typeof table): void => {
    edits.apply({ operations: fieldOperations(`/tracks/${track}`, 'levels', written.levels, after) });
  };
  const keep = (level: number, field: 'costs' | 'gives') => (value: unknown) => {
    const { [field]: _old, ...rest } = table[level] ?? { costs: 0 };
    put({ ...table, [level]: (value === undefined ? rest : { ...rest, [field]: value }) as (typeof table)[string] });
  };
  const reasons = reasonsAt(edits.refused, pointer, false);
  return (
    <Sheet
      title="Levels"
      actions={
        <Button
          onClick={() => put({ ...table, [last + 1]: { costs: table[last]?.costs ?? 100 } })}
          disabled={written.further !== undefined && written.further.to <= last}
        >
          Add level {last + 1}
        </Button>
      }
    >
      <Problem error={levels.error} />
      {reasons.length > 0 && <WhyRefused pointer={pointer} reasons={reasons} />}
      {levels.data && levels.data.length > 0 && <Curve levels={levels.data} />}
      <DataTable
        label="Levels"
        rows={levels.data ?? []}
        rowKey={({ level }) => String(level)}
        columns={[
          { head: 'level', right: true, cell: ({ level }) => level },
          {
            head: `costs, ${money}`,
            right: true,
            cell: ({ level, costs }) =>
              table[level] ? (
                <Cell
                  label={`Level ${level}: costs`}
                  kind={CELLS.amount}
                  value={table[level].costs}
                  onKeep={keep(level, 'costs')}
                />
              ) : (
                number(costs)
              ),
          },
          { head: `in all, ${money}`, right: true, cell: ({ from }) => number(from) },
          ...(run.data ? personaDays(run.data, track) : []),
          {
            head: 'gives',
            cell: ({ level, gives }) => (
              <span className="flex items-center gap-2">
                {table[level] ? (
                  <Cell
                    label={`Level ${level}: gives`}
                    kind={CELLS.basket}
                    value={table[level].gives}
                    onKeep={keep(level, 'gives')}
                  />
                ) : (
                  Object.keys(gives).length > 0 && basketText(labels, gives)
                )}
                <PlayingTimeNote units={gives} />
              </span>
            ),
          },
          {
            head: '',
            cell: ({ level }) =>
              table[level] ? (
                <Button
                  className="px-1.5 py-0"
                  aria-label={`Without level ${level}`}
                  onClick={() => {
                    const { [level]: _gone, ...rest } = table;
                    put(rest);
                  }}
                >
                  ×
                </Button>
              ) : (
                <span className="text-sm text-soft" title="By the formula under Further levels">
                  =
                </span>
              ),
          },
        ]}
      />
      <p className="mt-1 text-sm text-soft">
        What a level gives reads <code>10 shells; 2 pearls</code>. Those by formula are said beside it, under Further
        levels.{' '}
        {run.data &&
          `Days are those on which half of a persona's players have reached it, of ${PLAYERS} who play ${run.data.name} for ${run.data.days} days.`}
      </p>
    </Sheet>
  );
}

/** For each persona the day on which half of its players have reached a level. */
function personaDays({ personas, levels }: SimulationResult, track: string): Column<TrackLevel>[] {
  return personas.map(({ name }, persona) => ({
    head: `${name}, day`,
    right: true,
    cell: ({ level }) => {
      const row = levels?.level.findIndex(
        (one, at) => one === level && levels.track[at] === track && levels.persona[at] === persona,
      );
      const median = row === undefined || row < 0 ? null : levels!.reached.median[row]!;
      return median === null ? 'later' : dayShown(median);
    },
  }));
}

/** One cell, in the notation of the grid. */
function Cell({
  label,
  kind,
  value,
  onKeep,
}: {
  label: string;
  kind: CellKind;
  value: unknown;
  onKeep: (value: unknown) => void;
}) {
  const field = useTyped(kind.write(value), (typed) => {
    const read = kind.read(typed);
    if (!read.ok) return read.problem;
    onKeep(read.value);
    return undefined;
  });
  return (
    <>
      <Input
        aria-label={label}
        aria-invalid={field.problem !== undefined}
        className="w-full min-w-24 py-0"
        value={field.shown}
        onChange={({ target }) => field.type(target.value)}
        onBlur={ifShown(field.keep)}
        onKeyDown={field.onKeyDown}
      />
      <Why problem={field.problem} />
    </>
  );
}

/** What must be earned in all, by level. The table beside it says the same. */
function Curve({ levels }: { levels: readonly TrackLevel[] }) {
  const most = levels.at(-1)!.from || 1;
  const points = levels.map(({ from }, place) => {
    const x = levels.length === 1 ? WIDTH : (place / (levels.length - 1)) * WIDTH;
    return `${x.toFixed(1)},${(HEIGHT - (from / most) * (HEIGHT - 4)).toFixed(1)}`;
  });
  return (
    <svg aria-hidden viewBox={`-4 0 ${WIDTH + 8} ${HEIGHT + 4}`} className="h-20 w-full">
      <line x1="0" x2={WIDTH} y1={HEIGHT} y2={HEIGHT} stroke="var(--line)" />
      <polyline points={points.join(' ')} fill="none" stroke="var(--series-1)" strokeWidth="1.5" />
    </svg>
  );
}

/** Who reached which goal and when, and how high players came; nothing where an economy has neither. */
import { dayShown } from '../../core/simulation/report.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { Drawn } from '../charts/benchFrame.js';
import { DataTable, Sheet } from '../parts/ui.js';

/** A goal or track in one of the runs that are drawn. */
interface Row {
  id: string;
  name: string;
  run: Drawn;
}

/** "23 of 100, day 4"; "later" where half of them do not in the run. */
function reachedText({ goals }: SimulationResult, id: string, persona: number): string {
  const row = goals?.goal.findIndex((goal, at) => goal === id && goals.persona[at] === persona) ?? -1;
  if (!goals || row < 0) return '';
  const { happened, n, median } = goals.reached;
  if (happened[row] === 0) return `0 of ${n[row]}`;
  const day = median[row] === null ? 'later' : `day ${dayShown(median[row]!)}`;
  return `${happened[row]} of ${n[row]}, ${day}`;
}

/** "8 (7 to 9)": the median on the last day, and where nine of ten players are. */
function heightText({ heights, days }: SimulationResult, id: string, persona: number): string {
  const row =
    heights?.day.findIndex(
      (day, at) => day === days - 1 && heights.track[at] === id && heights.persona[at] === persona,
    ) ?? -1;
  if (!heights || row < 0 || heights.p50[row] === null) return '';
  return `${heights.p50[row]} (${heights.p5[row]} to ${heights.p95[row]})`;
}

export function GoalsReached({ drawn }: { drawn: readonly Drawn[] }) {
  const { goals, heights, personas } = drawn[0]!.result;
  const rowsOf = (ids: readonly string[] = [], names: readonly string[] = []): Row[] =>
    [...new Map(ids.map((id, at) => [id, names[at]!]))].flatMap(([id, name]) =>
      drawn.map((run) => ({ id, name, run })),
    );
  const columns = (head: string, text: (result: SimulationResult, id: string, persona: number) => string) => [
    { head, cell: ({ name, run }: Row) => (run === drawn[0] ? name : '') },
    ...(drawn.length > 1 ? [{ head: 'run', cell: ({ run }: Row) => run.name }] : []),
    ...personas.map(({ name }, persona) => ({
      head: name,
      right: true,
      cell: ({ id, run }: Row) => <span className="whitespace-nowrap">{text(run.result, id, persona)}</span>,
    })),
  ];
  const tables = [
    {
      title: 'Goals: who reached them, and the median day',
      rows: rowsOf(goals?.goal, goals?.name),
      columns: columns('goal', reachedText),
    },
    {
      title: 'Levels on the last day',
      rows: rowsOf(heights?.track, heights?.name),
      columns: columns('track', heightText),
    },
  ].filter(({ rows }) => rows.length > 0);
  if (tables.length === 0) return null;
  return (
    <div className="flex flex-col gap-2">
      {tables.map((table) => (
        <Sheet key={table.title} title={table.title}>
          <DataTable<Row>
            label={table.title}
            rows={table.rows}
            rowKey={({ id, run }) => `${id} ${drawn.indexOf(run)}`}
            columns={table.columns}
          />
        </Sheet>
      ))}
    </div>
  );
}

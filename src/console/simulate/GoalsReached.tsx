/** Who reached which goal and when, and how high players came; nothing where an economy has neither. */
import { dayShown } from '../../core/simulation/report.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import type { Drawn } from '../charts/benchFrame.js';
import { DataTable, Sheet } from '../parts/ui.js';

interface GoalRow {
  name: string;
  persona: number;
  row: number;
}

/** "23 of 100, day 4". */
function reachedText({ goals }: SimulationResult, { name, persona }: GoalRow): string {
  const row = goals?.name.findIndex((one, at) => one === name && goals.persona[at] === persona) ?? -1;
  if (!goals || row < 0) return '';
  const { happened, n, median } = goals.reached;
  const day = median[row] === null ? 'later' : `day ${dayShown(median[row]!)}`;
  return `${happened[row]} of ${n[row]}, ${day}`;
}

interface HeightRow {
  track: string;
  name: string;
  persona: number;
}

/** "8 (7 to 9)": the median on the last day, and where nine of ten players are. */
function heightText({ heights, days }: SimulationResult, { track, persona }: HeightRow): string {
  const row =
    heights?.day.findIndex(
      (day, at) => day === days - 1 && heights.track[at] === track && heights.persona[at] === persona,
    ) ?? -1;
  if (!heights || row < 0 || heights.p50[row] === null) return '';
  return `${heights.p50[row]} (${heights.p5[row]} to ${heights.p95[row]})`;
}

export function GoalsReached({ drawn }: { drawn: readonly Drawn[] }) {
  const { goals, heights, personas, days } = drawn[0]!.result;
  const goalRows = (goals?.name ?? []).map((name, row): GoalRow => ({ name, persona: goals!.persona[row]!, row }));
  const heightRows = (heights?.track ?? []).flatMap((track, row): HeightRow[] =>
    heights!.day[row] === days - 1 ? [{ track, name: heights!.name[row]!, persona: heights!.persona[row]! }] : [],
  );
  const runs = <Row,>(text: (result: SimulationResult, row: Row) => string) =>
    drawn.map(({ name, result }) => ({
      head: name,
      right: true,
      cell: (row: Row) => <span className="whitespace-nowrap">{text(result, row)}</span>,
    }));
  if (goalRows.length + heightRows.length === 0) return null;
  return (
    <div className="flex flex-wrap items-start gap-2">
      {goalRows.length > 0 && (
        <Sheet title="Goals: who reached them, and the median day" className="min-w-[420px] flex-1">
          <DataTable<GoalRow>
            label="Goals"
            rows={goalRows}
            rowKey={({ row }) => String(row)}
            columns={[
              { head: 'goal', cell: ({ name }) => name },
              { head: 'persona', cell: ({ persona }) => personas[persona]!.name },
              ...runs<GoalRow>(reachedText),
            ]}
          />
        </Sheet>
      )}
      {heightRows.length > 0 && (
        <Sheet title="Levels on the last day" className="min-w-[320px] flex-1">
          <DataTable<HeightRow>
            label="Levels on the last day"
            rows={heightRows}
            rowKey={({ track, persona }) => `${track} ${persona}`}
            columns={[
              { head: 'track', cell: ({ name }) => name },
              { head: 'persona', cell: ({ persona }) => personas[persona]!.name },
              ...runs<HeightRow>(heightText),
            ]}
          />
        </Sheet>
      )}
    </div>
  );
}

/** Runs that the service keeps, newest first: what each was of, how it stands to its targets, and which are looked at together. */
import type { RunView } from '../../contract/index.js';
import { marksText, runDiffersText } from '../../core/simulation/report.js';
import { DataTable, instantWords } from '../parts/ui.js';

/** As many can be told apart when they are drawn over each other. */
export const MOST_TOGETHER = 4;

export function SavedRuns({
  runs,
  zone,
  chosen,
  onChoose,
}: {
  runs: readonly RunView[];
  zone: string;
  /** In the order in which they were ticked: the last is in front, the others are held against the first. */
  chosen: readonly string[];
  onChoose: (chosen: readonly string[]) => void;
}) {
  return (
    <div className="max-h-72 overflow-auto" tabIndex={0} role="region" aria-label="Saved runs, as a list">
      <DataTable
        label="Saved runs"
        rows={runs}
        rowKey={({ id }) => String(id)}
        columns={[
          {
            head: 'together',
            cell: ({ id, name, status }) => {
              const isOn = chosen.includes(String(id));
              return (
                <input
                  type="checkbox"
                  aria-label={`Look at run ${id}, ${name}`}
                  checked={isOn}
                  disabled={status !== 'done' || (!isOn && chosen.length >= MOST_TOGETHER)}
                  onChange={() => onChoose(isOn ? chosen.filter((one) => one !== String(id)) : [...chosen, String(id)])}
                />
              );
            },
          },
          { head: 'run', right: true, cell: ({ id }) => id },
          {
            head: 'name',
            cell: ({ id, name, status }) =>
              status === 'done' ? (
                <button
                  type="button"
                  className="text-left font-semibold underline"
                  onClick={() => onChoose([String(id)])}
                >
                  {name}
                </button>
              ) : (
                name
              ),
          },
          { head: 'what differs', cell: ({ setup }) => runDiffersText(setup) },
          {
            head: 'targets',
            whole: true,
            cell: ({ marks, status }) => (status === 'done' ? marks && marksText(marks) : status),
          },
          { head: 'days', right: true, cell: ({ days }) => days },
          { head: 'by', cell: ({ createdBy }) => createdBy },
          { head: 'begun', whole: true, cell: ({ createdMs }) => instantWords(createdMs, zone) },
        ]}
      />
    </div>
  );
}

/** Runs that the service keeps, newest first: what each was of, how it stands to its targets, and which are looked at together. */
import type { RunView } from '../../contract/index.js';
import { placeWords } from '../../core/document/references.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { pointerSegments } from '../../core/issue/index.js';
import { marksText } from '../../core/simulation/report.js';
import { DataTable, instantWords } from '../parts/ui.js';

/** As many can be told apart when they are drawn over each other. */
export const MOST_TOGETHER = 4;

export function SavedRuns({
  runs,
  document,
  chosen,
  onChoose,
}: {
  runs: readonly RunView[];
  document: EconomyDocument;
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
          { head: 'what differs', cell: (run) => differsWords(run, document) },
          {
            head: 'targets',
            whole: true,
            cell: ({ marks, status }) => (status === 'done' ? marks && marksText(marks) : status),
          },
          { head: 'days', right: true, cell: ({ days }) => days },
          { head: 'by', cell: ({ createdBy }) => createdBy },
          { head: 'begun', whole: true, cell: ({ createdMs }) => instantWords(createdMs, document.timeZone) },
        ]}
      />
    </div>
  );
}

/** In what a run is not the scenario on the draft. */
function differsWords({ setup: { source, options } }: RunView, document: EconomyDocument): string {
  const { set = {}, players, seed } = options;
  return [
    ...(source === 'draft' ? [] : [`on ${/^\d+$/.test(source) ? `release ${source}` : source}`]),
    ...Object.entries(set).map(
      ([pointer, value]) => `${placeWords(document, pointerSegments(pointer))} ${valueWords(value)}`,
    ),
    ...(players === undefined ? [] : [`${players.toLocaleString('en')} players`]),
    ...(seed === undefined ? [] : [`seed ${seed}`]),
  ].join(', ');
}

const valueWords = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value));

/** What an edit would change, before it does. */
import type { UseQueryResult } from '@tanstack/react-query';
import type { EditAnswer } from '../../contract/index.js';
import { Empty, Problem } from '../parts/ui.js';

const MOST_SHOWN = 200;

export function Preview({ answer }: { answer: UseQueryResult<EditAnswer> }) {
  if (answer.error) return <Problem error={answer.error} />;
  if (!answer.data) return null;
  const { changes, notes } = answer.data;
  return (
    <div className="mt-3" role="region" aria-label="Preview">
      {changes.length === 0 ? (
        <Empty>Nothing would change.</Empty>
      ) : (
        <ul className="max-h-72 overflow-auto rounded-tag border border-line bg-paper px-3 py-2 text-sm" tabIndex={0}>
          {changes.slice(0, MOST_SHOWN).map(({ pointer, words }) => (
            <li key={pointer}>{words}</li>
          ))}
          {changes.length > MOST_SHOWN && <li>and {changes.length - MOST_SHOWN} more</li>}
        </ul>
      )}
      {notes.map((note) => (
        <p key={note} className="text-sm text-soft">
          {note}
        </p>
      ))}
    </div>
  );
}

/** Whether all is saved, and the way back and forth. */
import { useEdits } from './edits.js';
import { Button } from './ui.js';

/** `what` stands before "all saved to the draft", such as "60 rows". */
export function EditBar({ what }: { what?: string }) {
  const edits = useEdits();
  return (
    <span className="ml-auto flex items-center gap-2">
      <span role="status" className="text-sm text-soft">
        {edits.saving
          ? 'Saving ...'
          : edits.refused.length > 0
            ? `${edits.refused.length} not saved`
            : `${what === undefined ? '' : `${what}, `}all saved to the draft`}
      </span>
      <Button onClick={edits.undo} disabled={!edits.canUndo}>
        Undo
      </Button>
      <Button onClick={edits.redo} disabled={!edits.canRedo}>
        Redo
      </Button>
    </span>
  );
}

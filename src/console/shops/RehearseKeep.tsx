/** Keeping a rehearsal: what happened becomes a case, which every later draft must pass. */
import { useMutation } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { freeId, idFor } from '../../core/schema/ids.js';
import type { Rehearsed } from '../../contract/index.js';
import { caseLink } from '../parts/findings.js';
import { useEdits } from '../parts/edits.js';
import { useParam } from '../parts/search.js';
import { addOperations } from '../parts/step.js';
import { Button, Problem } from '../parts/ui.js';

/** `onAsk` plays it once more, and answers with the case too. */
export function Keep({ document, onAsk }: { document: EconomyDocument; onAsk: () => Promise<Rehearsed> }) {
  const { apply } = useEdits();
  const [from] = useParam('case', '');
  const old = document.cases?.[from];
  const keep = useMutation({
    mutationFn: async (replaced: string | undefined) => {
      const { case: made, differs } = (await onAsk()).kept!;
      const id = replaced ?? freeId(idFor(made.name, 'case'), (one) => one in (document.cases ?? {}));
      const { name, description } = replaced === undefined ? { name: made.name, description: undefined } : old!;
      const value = { ...made, name, ...(description === undefined ? {} : { description }) };
      apply({
        operations:
          replaced === undefined
            ? addOperations(document, 'cases', id, value)
            : [{ op: 'replace', path: `/cases/${id}`, value }],
      });
      return { id, name, differs };
    },
  });
  return (
    <div role="group" aria-label="Keep" className="flex flex-col gap-1">
      <span className="flex flex-wrap gap-1">
        {old && (
          <Button className="py-0" onClick={() => keep.mutate(from)}>
            Keep in &ldquo;{old.name}&rdquo;
          </Button>
        )}
        <Button className="py-0" onClick={() => keep.mutate(undefined)}>
          Keep as a {old && 'new '}case
        </Button>
      </span>
      <Problem error={keep.error} />
      {keep.data && (
        <p role="status" className="text-sm">
          Kept: what happened must hold from now on in{' '}
          <Link className="font-semibold underline" to={caseLink(keep.data.id)}>
            {keep.data.name}
          </Link>
          .
          {keep.data.differs.length > 0 &&
            ` Of step ${keep.data.differs.join(', ')} something else comes there: a case begins with what the player is and holds, and with no history.`}
        </p>
      )}
    </div>
  );
}

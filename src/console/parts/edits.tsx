/**
 * The draft as it is being edited: changes are shown at once and saved one after the other, each from the revision
 * that the one before gave. One history for all rooms, so that undo works wherever one has gone.
 */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { Operation } from 'fast-json-patch';
import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import type { ReactNode } from 'react';
import type { DraftSaved, DraftView, EditAnswer } from '../../contract/index.js';
import type { Edit, SheetName } from '../../core/catalog/index.js';
import { ApiProblem } from '../../client/index.js';
import { client } from '../api.js';
import { operationsApply } from './step.js';
import type { Step } from './step.js';
import { hasBegun } from './begun.js';
import { ConflictWindow } from './Conflict.js';
import type { Conflict } from './Conflict.js';
import { focusLeave } from '../fields/leaving.js';
import { News, useNews } from './news.js';
import { besides, refusedOf, touches } from './refused.js';
import type { Refused } from './refused.js';
import { Button, Problem } from './ui.js';

export interface Edits {
  apply(step: Step): void;
  /** An edit that the service works out; resolves with what it made. */
  run(edit: Edit): Promise<EditAnswer>;
  importSheet(name: SheetName, csv: string): Promise<EditAnswer>;
  undo(): void;
  redo(): void;
  canUndo: boolean;
  canRedo: boolean;
  saving: boolean;
  /** Counts what was saved, by whomever: a key for what depends on the draft. */
  saved: number;
  /** What was typed and could not be saved: the fields keep it, and say why. */
  refused: readonly Refused[];
  /** What was refused at a place, below it or around it is taken back. */
  forget(pointer: string): void;
  /** What was refused at a place, below it or around it is sent once more: something else may have mended it. */
  again(pointer: string): void;
  /** A field tells why it was refused, so that nothing else need; gives the end of that. */
  tell(): () => void;
}

/** A change that was made, and what leads back from it. */
type Done = Step & { back: Operation[] };

const again = (word: 'undo' | 'redo', { why }: Done): string => (why === undefined ? word : `${word}: ${why}`);

const Context = createContext<Edits | null>(null);

export function useEdits(): Edits {
  const edits = useContext(Context);
  if (!edits) throw new Error('useEdits is used outside EditsProvider');
  return edits;
}

const DEPENDENT = ['audit', 'changes', 'source', 'front', 'verdict', 'values', 'odds', 'uses', 'flow', 'money'];

/** Saves go one after the other. */
const DRAFT_SCOPE = 'draft';

export function EditsProvider({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const done = useRef<Done[]>([]);
  const undone = useRef<Done[]>([]);
  // How long the two are, for what is drawn.
  const [counts, setCounts] = useState({ done: 0, undone: 0 });
  const turn = useCallback(() => setCounts({ done: done.current.length, undone: undone.current.length }), []);
  /** The revision of the last answer; what is shown may be ahead of it. */
  const revision = useRef<number | null>(null);
  /** Shows a change; returns the operations that lead back. */
  const show = useCallback(
    (operations: readonly Operation[]): Operation[] => {
      const shown = queries.getQueryData<DraftView>(['draft'])!;
      const { document, back } = operationsApply(shown.document, operations);
      queries.setQueryData<DraftView>(['draft'], { ...shown, document });
      return back;
    },
    [queries],
  );
  const [savedCount, setSavedCount] = useState(0);
  const [refused, setRefused] = useState<readonly Refused[]>([]);
  const refusedNow = useRef(refused);
  useEffect(() => {
    refusedNow.current = refused;
  }, [refused]);
  const applyNow = useRef<((step: Step) => void) | null>(null);
  const forget = useCallback(
    (pointer: string) =>
      setRefused((before) =>
        before.some(({ operation: { path } }) => touches(path, pointer))
          ? before.filter(({ operation: { path } }) => !touches(path, pointer))
          : before,
      ),
    [],
  );
  /** How many fields tell of what was refused. */
  const [telling, setTelling] = useState(0);
  const tell = useCallback(() => {
    setTelling((count) => count + 1);
    return () => setTelling((count) => count - 1);
  }, []);
  const [conflict, setConflict] = useState<Conflict | null>(null);
  const saved = useCallback(
    (answer: DraftSaved) => {
      revision.current = answer.revision;
      setSavedCount((count) => count + 1);
      queries.setQueryData<DraftView>(
        ['draft'],
        (shown) => shown && { ...shown, revision: answer.revision, savedMs: answer.savedMs, savedBy: answer.savedBy },
      );
    },
    [queries],
  );
  const from = useCallback(() => revision.current ?? queries.getQueryData<DraftView>(['draft'])!.revision, [queries]);
  const failed = useCallback(() => {
    // What is shown may not be true any more: read it again, and forget a history that no longer fits.
    revision.current = null;
    done.current = [];
    undone.current = [];
    turn();
    return queries.invalidateQueries({ queryKey: ['draft'] });
  }, [queries, turn]);
  const settled = useCallback(() => {
    // No save waits until cases are played.
    void queries.invalidateQueries({ queryKey: ['cases'] });
    return Promise.all(DEPENDENT.map((key) => queries.invalidateQueries({ queryKey: [key] })));
  }, [queries]);
  /** How many were answered, and only wait until what depends on the draft is read again. */
  const answered = useRef(0);
  const answeredThen = useCallback(async () => {
    answered.current++;
    await settled().finally(() => answered.current--);
  }, [settled]);
  /** How many are on their way: known in the very render that shows what they change. */
  const [underway, setUnderway] = useState(0);
  const save = useMutation<DraftSaved, Error, Step & { done?: Done }>({
    scope: { id: DRAFT_SCOPE },
    mutationFn: ({ operations, why }) =>
      client.call('PATCH /draft', { body: operations, revision: from(), query: why === undefined ? {} : { why } }),
    onSuccess: (answer, step) => {
      // What undoing it will be called.
      if (step.done) step.done.why = answer.why;
      saved(answer);
      // With a neighbour mended, what was refused may be right.
      const again = besides(refusedNow.current, step.operations);
      if (again.length > 0) applyNow.current?.({ operations: again });
    },
    onError: (refusal, { operations, why, done: typed }) => {
      const stale = refusal instanceof ApiProblem ? refusal.more('stale') : undefined;
      if (stale?.mine)
        setConflict((before) => ({ stale, operations: [...(before?.operations ?? []), ...operations], why }));
      else if (typed) setRefused((before) => [...before, ...refusedOf(operations, refusal)]);
      return failed();
    },
    onSettled: () => {
      setUnderway((count) => count - 1);
      return answeredThen();
    },
  });
  const ask = useMutation<EditAnswer, Error, (revision: number) => Promise<EditAnswer>>({
    scope: { id: DRAFT_SCOPE },
    mutationFn: (asked) => asked(from()),
    onSuccess: (answer) => {
      if (!answer.saved) return;
      saved(answer.saved);
      show(answer.operations);
      // The service knows the order of shops, shelves and offers, which a patch worked out here would lose.
      done.current.push({ operations: answer.operations, back: answer.undo, why: answer.saved.why });
      undone.current = [];
      turn();
    },
    onError: (refusal) => (refusal instanceof ApiProblem && refusal.kind === 'stale' ? failed() : undefined),
    onSettled: answeredThen,
  });
  const { mutate: send, error, reset } = save;
  const mutate = useCallback(
    (step: Step & { done?: Done }) => {
      setUnderway((count) => count + 1);
      send(step);
    },
    [send],
  );
  const { mutateAsync, isPending: asking } = ask;
  const edits = useMemo<Edits>(() => {
    const apply = (step: Step): void => {
      const made: Done = { ...step, back: show(step.operations) };
      undone.current = [];
      done.current.push(made);
      for (const { path } of step.operations) forget(path);
      mutate({ ...step, done: made });
      turn();
    };
    return {
      apply,
      run: (edit) => mutateAsync((at) => client.call('POST /draft/edits', { body: edit, revision: at })),
      importSheet: (name, csv) =>
        mutateAsync((at) =>
          client.call('POST /draft/sheets/{sheet}', {
            params: { sheet: name },
            type: 'text/csv',
            body: csv,
            revision: at,
          }),
        ),
      undo: () => {
        const step = done.current.pop();
        if (!step) return;
        undone.current.push(step);
        show(step.back);
        mutate({ operations: step.back, why: again('undo', step) });
        turn();
      },
      redo: () => {
        const step = undone.current.pop();
        if (!step) return;
        done.current.push(step);
        show(step.operations);
        mutate({ operations: step.operations, why: again('redo', step) });
        turn();
      },
      canUndo: counts.done > 0,
      canRedo: counts.undone > 0,
      saving: underway > 0 || asking,
      saved: savedCount,
      refused,
      forget,
      again: (pointer) => {
        const operations = refused.map(({ operation }) => operation).filter(({ path }) => touches(path, pointer));
        if (operations.length > 0) apply({ operations });
      },
      tell,
    };
  }, [show, mutate, mutateAsync, turn, underway, asking, counts, savedCount, refused, forget, tell]);
  const { apply } = edits;
  useEffect(() => {
    applyNow.current = apply;
  }, [apply]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input, textarea, [contenteditable]');
      if (typing || !(event.ctrlKey || event.metaKey)) return;
      const key = event.key.toLowerCase();
      if (key === 'z' && !event.shiftKey) edits.undo();
      else if (key === 'y' || (key === 'z' && event.shiftKey)) edits.redo();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [edits]);
  useEffect(() => {
    // All is saved as it is typed; whoever presses it means what is in the field, and not the page as a file.
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== 's' || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      const field = document.activeElement;
      focusLeave();
      if (field instanceof HTMLElement) field.focus();
    };
    window.addEventListener('keydown', onKey, { capture: true });
    return () => window.removeEventListener('keydown', onKey, { capture: true });
  }, []);
  useEffect(() => {
    const onUnload = (event: BeforeUnloadEvent) => {
      focusLeave();
      const sent = queries.isMutating({ predicate: ({ options: { scope } }) => scope?.id === DRAFT_SCOPE });
      const saving = sent - answered.current;
      // What cannot be read stays in its field, marked.
      const isWrong = document.querySelector('[aria-invalid="true"]') !== null;
      if (saving > 0 || isWrong || refused.length > 0 || conflict || hasBegun()) event.preventDefault();
    };
    window.addEventListener('beforeunload', onUnload);
    return () => window.removeEventListener('beforeunload', onUnload);
  }, [queries, refused, conflict]);
  const news = useNews(
    useCallback(
      (saved) => {
        // One's own saves are told too; what is newer than the last answer is another's.
        if (saved <= (revision.current ?? queries.getQueryData<DraftView>(['draft'])?.revision ?? 0)) return false;
        revision.current = null;
        void queries.invalidateQueries({ queryKey: ['draft'] }).then(settled);
        setSavedCount((count) => count + 1);
        return true;
      },
      [queries, settled],
    ),
    underway > 0 || asking,
  );
  return (
    <Context.Provider value={edits}>
      {children}
      <News {...news} />
      {error && telling === 0 && !conflict && (
        <div className="fixed bottom-4 left-1/2 z-40 w-[min(40rem,90vw)] -translate-x-1/2 shadow-sheet">
          <Problem error={error}>
            <Button
              className="absolute top-2 right-2 py-0 text-sm"
              aria-label="Close what was refused"
              onClick={() => {
                reset();
                setRefused([]);
              }}
            >
              ×
            </Button>
          </Problem>
        </div>
      )}
      {conflict && (
        <ConflictWindow
          conflict={conflict}
          onTheirs={() => setConflict(null)}
          onMine={() => {
            const { operations, why } = conflict;
            setConflict(null);
            save.reset();
            void queries.refetchQueries({ queryKey: ['draft'] }).then(() => edits.apply({ operations, why }));
          }}
        />
      )}
    </Context.Provider>
  );
}

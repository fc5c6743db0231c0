/** What is being typed into a field, until it is kept or dropped; what cannot be kept stays, with the reason. */
import { useState } from 'react';
import type { KeyboardEvent } from 'react';

/**
 * `text` is what the field holds; `onKeep` gives a problem where what is typed cannot be kept; `onTyping` hears what is
 * typed, and undefined once that is kept or dropped.
 */
export function useTyped(
  text: string,
  onKeep: (typed: string) => string | undefined,
  onTyping?: (typed: string | undefined) => void,
) {
  const [typed, putTyped] = useState<string | null>(null);
  const setTyped = (next: string | null): void => {
    putTyped(next);
    onTyping?.(next ?? undefined);
  };
  const [problem, setProblem] = useState<string | undefined>();
  const drop = (): void => {
    setTyped(null);
    setProblem(undefined);
  };
  const keep = (): void => {
    if (typed === null) return;
    const wrong = typed === text ? undefined : onKeep(typed);
    setProblem(wrong);
    if (wrong === undefined) setTyped(null);
  };
  return {
    shown: typed ?? text,
    isTyping: typed !== null,
    problem,
    type: setTyped,
    keep,
    drop,
    onKeyDown: (event: KeyboardEvent): void => {
      if (event.key === 'Enter' && !(event.target instanceof HTMLTextAreaElement)) keep();
      if (event.key !== 'Escape' || (typed === null && problem === undefined)) return;
      // What drops what is typed does not leave the panel too.
      event.stopPropagation();
      drop();
    },
  };
}

/** What was just made is open with its name to be typed over, until something else is open. */
import { useState } from 'react';

/** `open` is what is shown and `setOpen` how to show another. `mark` says that what is shown next was just made. */
export function useJustMade(
  open: string,
  setOpen: (one: string) => void,
): { fresh: boolean; made: (one: string) => void; mark: (one: string) => void } {
  const [last, mark] = useState('');
  // Coming back to it later is no making.
  if (last !== '' && last !== open) mark('');
  return {
    fresh: last !== '' && last === open,
    made: (one) => {
      mark(one);
      setOpen(one);
    },
    mark,
  };
}

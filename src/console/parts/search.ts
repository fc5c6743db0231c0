/** The state of a view lives in its address, so that any view can be shared by its URL. */
import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/** Sets several at once: the address takes one change at a time, so two calls would lose the first. */
export function useSetParams(): (values: Record<string, string>, kept?: { back: boolean }) => void {
  const [, setParams] = useSearchParams();
  return useCallback(
    (values, kept) =>
      setParams(
        (before) => {
          const after = new URLSearchParams(before);
          for (const [name, value] of Object.entries(values)) {
            if (value === '') after.delete(name);
            else after.set(name, value);
          }
          return after;
        },
        // Where there is a way back to, the address before stays in the history.
        { replace: kept?.back !== true },
      ),
    [setParams],
  );
}

/** One of them; it is left out of the address while it has its usual value. */
export function useParam(name: string, otherwise: string): [string, (value: string) => void] {
  const [params] = useSearchParams();
  const setParams = useSetParams();
  const set = useCallback(
    (value: string) => setParams({ [name]: value === otherwise ? '' : value }),
    [name, otherwise, setParams],
  );
  return [params.get(name) ?? otherwise, set];
}

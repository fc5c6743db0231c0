/** The state of a view lives in its address, so that any view can be shared by its URL. */
import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

export function useParam(name: string, otherwise: string): [string, (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (value: string) =>
      setParams(
        (before) => {
          const after = new URLSearchParams(before);
          if (value === otherwise) after.delete(name);
          else after.set(name, value);
          return after;
        },
        { replace: true },
      ),
    [name, otherwise, setParams],
  );
  return [params.get(name) ?? otherwise, set];
}

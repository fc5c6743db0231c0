/** The state of a view lives in its address, so that any view can be shared by its URL. */
import { useCallback } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';

/**
 * Sets several at once, beside what the address has by then: whoever sets something later, when a search is over or a
 * field is left, may not have seen it yet. What was asked from a room that was left meanwhile is no part of the address
 * any more.
 */
export function useSetParams(): (values: Record<string, string>, kept?: { back: boolean }) => void {
  const navigate = useNavigate();
  const { pathname } = useLocation();
  return useCallback(
    (values, kept) => {
      if (window.location.pathname !== pathname) return;
      const after = new URLSearchParams(window.location.search);
      for (const [name, value] of Object.entries(values)) {
        if (value === '') after.delete(name);
        else after.set(name, value);
      }
      // Where there is a way back to, the address before stays in the history.
      void navigate(`?${after}`, { replace: kept?.back !== true });
    },
    [navigate, pathname],
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

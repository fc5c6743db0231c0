/** Forms of several fields that were begun: they stay as typed, whatever is looked at meanwhile, until they are kept or dropped. */
import { useState } from 'react';
import { pointerOf } from '../../core/issue/index.js';

const begun = new Map<string, unknown>();

/** What was begun at a place of the document; null where nothing is. */
export function useBegun<T>(path: readonly string[]): [T | null, (next: T | null) => void] {
  const place = pointerOf(path);
  const [value, setValue] = useState<T | null>((begun.get(place) as T | undefined) ?? null);
  const put = (next: T | null): void => {
    if (next === null) begun.delete(place);
    else begun.set(place, next);
    setValue(next);
  };
  return [value, put];
}

/** Whether something would be lost with the page. */
export const hasBegun = (): boolean => [...begun.values()].some((one) => Object.keys(one as object).length > 0);

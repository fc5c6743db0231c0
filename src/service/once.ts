/** What is done once per key, however often it is asked for. */
import { Problem } from './problem.js';

/** `repeated`: the same request was answered before, and nothing was done this time. */
export interface Once<T> {
  answer: T;
  repeated: boolean;
}

/** What is kept of something that was done: its number, the request that it was, and the answer as JSON. */
export interface Kept {
  id: number;
  request: string;
  answer: string;
}

/**
 * Inside the writer only. Gives what was answered before to the same request (`asked`, its words) under a key, or does
 * it now. The number of what was done stands under `name` in the answer; it is 0 where nothing was. Throws where the
 * key belongs to another request.
 */
export function oncePerKey<N extends string, A extends object>(
  name: N,
  { key, asked, before }: { key: string; asked: string; before: Kept | undefined },
  work: () => { id: number; answer: A },
): Once<Record<N, number> & A> {
  if (before && before.request !== asked) throw keyReused(key);
  const { id, answer } = before ? { id: before.id, answer: JSON.parse(before.answer) as A } : work();
  return { answer: { [name]: id, ...answer } as Record<N, number> & A, repeated: before !== undefined };
}

export const keyReused = (key: string): Problem =>
  new Problem(
    'key-reused',
    `The key "${key}" was used for another request. Use a new key for each thing that a player does.`,
  );

/** What is done once per key, however often it is asked for. */
import { Problem } from '../problem.js';
import type { HandledKind, KeyStore } from '../store/handledStore.js';

/** `repeated`: it was asked for before and answered, and nothing was done this time. */
export interface Once<T> {
  answer: T;
  repeated: boolean;
}

/** A request under a key. `asked` are its words, to tell a repeat from another request under the same key. */
export interface Keyed {
  player: string;
  key: string;
  asked: string;
}

/** What came of it. A refusal keeps no key, so that it can be tried again. */
export type Done<A> = { kept: true; atMs: number; answer: A } | { kept: false; answer: A };

/** `number` counts what was done of this kind, from 1; 0 where a refusal did nothing. */
interface Numbered<A> {
  number: number;
  answer: A;
  repeated: boolean;
}

/** The words of a request: what it asks for, and where it is not about the usual channel, of which. */
export const requestWords = (parts: readonly unknown[], channel = USUAL_CHANNEL): string =>
  JSON.stringify(channel === USUAL_CHANNEL ? parts : [...parts, { channel }]);

const USUAL_CHANNEL = 'live';

export class OncePerKey {
  constructor(private readonly store: KeyStore) {}

  /**
   * Inside the writer only. Gives what was answered before to the same request under this key, or does it now. Throws
   * where the key belongs to another request.
   */
  run<A extends object>(kind: HandledKind, { player, key, asked }: Keyed, work: () => Done<A>): Numbered<A> {
    const before = this.store.find(kind, player, key);
    if (before && before.request !== asked) throw keyReused(key);
    if (before) return { number: before.number, answer: JSON.parse(before.answer) as A, repeated: true };
    const done = work();
    if (!done.kept) return { number: 0, answer: done.answer, repeated: false };
    const { atMs, answer } = done;
    const number = this.store.add(kind, { player, key, request: asked, atMs, answer: JSON.stringify(answer) });
    return { number, answer, repeated: false };
  }

  /** Throws where a key of a batch was used for another request, before or within the batch. */
  keysFree(kind: HandledKind, batch: readonly Keyed[]): void {
    const first = new Map<string, string>();
    for (const { player, key, asked } of batch) {
      const request = first.get(key) ?? this.store.find(kind, player, key)?.request;
      if (request !== undefined && request !== asked) throw keyReused(key);
      first.set(key, asked);
    }
  }
}

const keyReused = (key: string): Problem =>
  new Problem(
    'key-reused',
    `The key "${key}" was used for another request. Use a new key for each thing that a player does.`,
  );

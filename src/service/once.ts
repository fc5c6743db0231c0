/** What is done once per key, however often it is asked for. */
import type { Reply } from './handler.js';

/** `repeated`: the same request was answered before, and nothing was done this time. */
export interface Once<T> {
  answer: T;
  repeated: boolean;
}

/** 201 for what was done now, 200 for what had been. */
export const onceReply = <T>({ answer, repeated }: Once<T>): Reply<T> => ({
  status: repeated ? 200 : 201,
  body: answer,
  headers: repeated ? { 'Idempotency-Replayed': 'true' } : {},
});

/** What the service refused to save: what was typed and where, and why, until it is mended or taken back. */
import type { Operation } from 'fast-json-patch';
import { ApiProblem } from '../../client/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { operationsApply } from './step.js';

export interface Refused {
  operation: Operation;
  /** The places below it that are wrong, and why. */
  reasons: readonly { pointer: string; words: string }[];
}

export const isWithin = (pointer: string, outer: string): boolean =>
  pointer === outer || pointer.startsWith(`${outer}/`);

/** One of the two is within the other. */
export const touches = (a: string, b: string): boolean => isWithin(a, b) || isWithin(b, a);

/** The section and id of what a place lies in: its fields are neighbours. */
const thingOf = (pointer: string): string => pointer.split('/', 3).join('/');

/** What was refused of the things that a step changed: with a neighbour mended it may be right now. */
export const besides = (refused: readonly Refused[], step: readonly Operation[]): Operation[] =>
  refused
    .map(({ operation }) => operation)
    .filter(({ path }) => step.some((one) => thingOf(one.path) === thingOf(path) && !touches(one.path, path)));

/** What of a step was wrong; where the service did not say (it was not there, say), all of it. */
export function refusedOf(operations: readonly Operation[], error: unknown): Refused[] {
  const errors = error instanceof ApiProblem ? (error.body.errors ?? []) : [];
  const found = operations.map((operation): Refused => {
    const reasons = errors
      .filter(({ pointer }) => isWithin(pointer, operation.path))
      .map(({ pointer, detail, fix }) => ({ pointer, words: `${detail}. ${fix}` }));
    return { operation, reasons };
  });
  if (found.some(({ reasons }) => reasons.length > 0)) return found;
  // What is wrong may stand elsewhere: an end that lies before the new beginning.
  const elsewhere = errors.map(({ pointer, detail, fix }) => `${pointer.split('/').at(-1)!}: ${detail}. ${fix}`);
  const words = elsewhere.length > 0 ? elsewhere.join(' ') : error instanceof Error ? error.message : String(error);
  return operations.map((operation) => ({ operation, reasons: [{ pointer: operation.path, words }] }));
}

/** The document as it would be with what was refused: what the fields show. */
export function withRefused(document: EconomyDocument, refused: readonly Refused[]): EconomyDocument {
  let after = document;
  for (const { operation } of refused) {
    try {
      after = operationsApply(after, [operation]).document;
    } catch {
      // What it belonged to is gone.
    }
  }
  return after;
}

/** Why what stands at a place was refused; with `below`, or in one of its parts. */
export function reasonsAt(refused: readonly Refused[], pointer: string, below: boolean): string[] {
  return refused
    .flatMap(({ reasons }) => reasons)
    .filter((reason) => (below ? isWithin(reason.pointer, pointer) : reason.pointer === pointer))
    .map(({ words }) => words);
}

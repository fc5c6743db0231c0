/** Holds what goes out against the contract. For tests of the service: it costs a walk through every answer. */
import { COMMON_PROBLEMS, CONTRACT, isMedia, problemSchemas } from '../contract/index.js';
import type { Key, Operation, ProblemBody, ProblemKind, Status } from '../contract/index.js';
import { schemaIssues } from '../core/schema/index.js';
import type { Shape } from '../core/schema/index.js';

/** The service was about to say what the contract does not promise. */
export class Misfit extends Error {}

/** Throws when an answer's status or body is none of those that the operation promises. */
export function answerMustFit(key: Key, status: number, body: unknown): void {
  const { answers } = CONTRACT[key] as Operation;
  const promised = answers[status as Status];
  if (promised === undefined) throw new Misfit(`${key} answered ${status}, which its contract does not promise`);
  if (!isMedia(promised)) mustFit(`${key} answered ${status}`, promised, body);
}

export function eventMustFit(key: Key, data: unknown): void {
  mustFit(`${key} told`, (CONTRACT[key] as Operation).events!, data);
}

/** Throws when a problem is none of those that the operation may answer with, or does not fit its kind. */
export function problemMustFit(key: Key, kind: ProblemKind, body: ProblemBody): void {
  const { problems = [] } = CONTRACT[key] as Operation;
  if (![...COMMON_PROBLEMS, ...problems].includes(kind))
    throw new Misfit(`${key} answered with the problem ${kind}, which its contract does not name`);
  mustFit(`${key} answered ${kind}`, problemSchemas[kind], body);
}

function mustFit(what: string, schema: Shape<unknown>, value: unknown): void {
  // As it will be read: what JSON leaves out is not there.
  const issues = schemaIssues(schema, JSON.parse(JSON.stringify(value ?? null)));
  if (issues.length > 0)
    throw new Misfit(
      `${what}: ${issues
        .slice(0, 5)
        .map(({ pointer, message }) => `${pointer || 'it'}: ${message}`)
        .join('; ')}`,
    );
}

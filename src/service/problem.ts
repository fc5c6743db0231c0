/** Errors that a caller can cause, thrown by whoever finds them; the application turns them into problem details. */
import { PROBLEMS } from '../contract/index.js';
import type { ProblemBody, ProblemKind, ProblemMore } from '../contract/index.js';
import { issuesTold, nearestName } from '../core/issue/index.js';
import type { Issue } from '../core/issue/index.js';

export class Problem<K extends ProblemKind = ProblemKind> extends Error {
  constructor(
    readonly kind: K,
    detail: string,
    readonly more: Partial<Pick<ProblemBody, 'errors'>> & Partial<ProblemMore<K>> = {},
    /** After how many seconds it is worth trying again, where that is known. */
    readonly retryS?: number,
  ) {
    super(detail);
  }

  get status(): number {
    return PROBLEMS[this.kind][0];
  }

  get body(): ProblemBody {
    const [status, title] = PROBLEMS[this.kind];
    return { type: `urn:dimestall:${this.kind}`, title, status, detail: this.message, ...this.more };
  }
}

/** Whoever asked is not there any more, so that what takes long was given up. */
export class CallerGone extends Error {}

/** The first issues as problem details tell them, and how many more there are. */
export const errorsOf = (issues: readonly Issue[]): NonNullable<ProblemBody['errors']> =>
  issuesTold([...issues]).map(({ pointer, code, message, fix, place }) => ({
    pointer,
    code,
    detail: message,
    fix,
    ...(place ? { place } : {}),
  }));

/** All issues of a body or document at once. */
export const invalid = (detail: string, issues: readonly Issue[]): Problem =>
  new Problem('invalid', detail, { errors: errorsOf(issues) });

/** `known`: the ids that there are, of which one may have been meant. */
export function notFound(what: string, id: string, known: Iterable<string> = []): Problem {
  const near = nearestName(id, known);
  return new Problem(
    'not-found',
    `There is no ${what} "${id}".${near === undefined ? '' : ` Did you mean "${near}"?`}`,
  );
}

/** Of what counts up: no name may have been meant, but a number that there is. `latest` is 0 where there are none. */
export const numberNotFound = (what: string, number: number, latest: number): Problem =>
  new Problem(
    'not-found',
    `There is no ${what} ${number}. ${latest === 0 ? 'There are none yet.' : `The latest is ${latest}.`}`,
  );

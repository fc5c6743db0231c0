/** Reads a request as its operation in the contract says, and refuses what does not fit before a handler sees it. */
import type { Request } from 'express';
import { isMedia } from '../contract/index.js';
import type { Operation } from '../contract/index.js';
import { blockOf, isDeeperThan, schemaIssues } from '../core/schema/index.js';
import type { AnySchema, Shape } from '../core/schema/index.js';
import { Problem, invalid } from './problem.js';

/** Levels of nesting that a body may have: more is refused before anything walks through it. */
const MOST_DEPTH = 200;

export interface Read {
  params: Record<string, unknown>;
  query: Record<string, unknown>;
  body: unknown;
  revision: number | undefined;
  key: string | undefined;
}

export function requestRead(operation: Operation, request: Request): Read {
  const body = bodyRead(operation, request);
  const query = queryRead(operation, request.query);
  const wanted = (when: Operation['key']) => when === 'always' || (when === 'unless-preview' && !query['preview']);
  return {
    params: paramsRead(operation, request.params as Record<string, string>),
    query,
    body,
    revision: wanted(operation.revision) ? revisionRead(request) : undefined,
    key: wanted(operation.key) ? keyRead(request) : undefined,
  };
}

function bodyRead({ body: wanted, bodyCheckedLater }: Operation, request: Request): unknown {
  const { body } = request as { body: unknown };
  if (wanted === undefined) return undefined;
  if (isMedia(wanted)) {
    if (Buffer.isBuffer(body)) return body;
    const example = wanted.media === 'image/*' ? 'image/png' : wanted.media;
    throw new Problem('bad-request', `Send the content as the body, with its type: Content-Type: ${example}.`);
  }
  if (isDeeperThan(body, MOST_DEPTH))
    throw new Problem('bad-request', `The body is nested too deeply: ${MOST_DEPTH} levels are the most.`);
  if (bodyCheckedLater) return body;
  const issues = schemaIssues((wanted as unknown as AnySchema).required(), body ?? undefined);
  if (issues.length > 0) throw invalid('The body does not fit.', issues);
  return body;
}

function queryRead({ query: known = {} }: Operation, written: Request['query']): Record<string, unknown> {
  const query: Record<string, unknown> = {};
  for (const [name, text] of Object.entries(written)) {
    if (!Object.hasOwn(known, name))
      throw new Problem(
        'bad-request',
        `There is no query parameter "${name}" here. Known: ${Object.keys(known).join(', ') || 'none'}.`,
      );
    if (typeof text !== 'string') throw new Problem('bad-request', `"${name}" must be given once.`);
    query[name] = valueRead(known[name]!, text, (fault) => {
      throw new Problem('bad-request', `"${name}": ${fault}`);
    });
  }
  return query;
}

function paramsRead({ params: known = {} }: Operation, written: Record<string, string>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(written).map(([name, text]) => [
      name,
      Object.hasOwn(known, name)
        ? valueRead(known[name]!, text, (_, way) => {
            throw new Problem('not-found', `There is no ${name} "${text}". ${way}`);
          })
        : text,
    ]),
  );
}

const TRUTHS: Readonly<Record<string, boolean>> = { 1: true, true: true, 0: false, false: false };

/** What a text in an address stands for, by what its schema holds; `refuse` must throw. */
function valueRead(schema: Shape<unknown>, text: string, refuse: (fault: string, way: string) => never): unknown {
  const value = textRead(schema, text, refuse);
  const [issue] = schemaIssues(schema, value);
  return issue ? refuse(`${issue.message}. ${issue.fix}`, issue.fix) : value;
}

function textRead(schema: Shape<unknown>, text: string, refuse: (fault: string, way: string) => never): unknown {
  const block = blockOf(schema);
  if (block.kind !== 'value') {
    try {
      return JSON.parse(text) as unknown;
    } catch {
      return refuse('it must be JSON', 'Write JSON.');
    }
  }
  const { type } = block.json as { type?: string };
  if (type === 'boolean') return TRUTHS[text] ?? text;
  if ((type === 'integer' || type === 'number') && /^-?\d+(\.\d+)?$/.test(text)) return Number(text);
  return text;
}

/** The revision in an If-Match header such as `"3"`. */
function revisionRead(request: Request): number {
  const match = /^(?:W\/)?"?(\d{1,15})"?$/.exec(request.get('if-match') ?? '');
  if (!match)
    throw new Problem('revision-needed', 'Send the revision that you started from in If-Match, such as If-Match: "3".');
  return Number(match[1]);
}

/** The key under which a player's press is done once. */
function keyRead(request: Request): string {
  const key = request.get('idempotency-key');
  if (!key || key.length > 200)
    throw new Problem(
      'key-needed',
      'Send an Idempotency-Key header of up to 200 characters, new for each thing that a player does, the same when you repeat a request.',
    );
  return key;
}

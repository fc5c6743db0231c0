/** Reads a request as its operation in the contract says, and refuses what does not fit before a handler sees it. */
import { isAside, isMedia } from '../contract/index.js';
import type { Operation } from '../contract/index.js';
import { blockOf, schemaIssues } from '../core/schema/index.js';
import type { AnySchema, Shape } from '../core/schema/index.js';
import { Problem, invalid } from './problem.js';
import type { Sent } from './sent.js';

/** Levels of nesting that a body may have: more is refused before anything walks through it. */
const MOST_DEPTH = 200;

const tooDeep = (): Problem =>
  new Problem('bad-request', `The body is nested too deeply: ${MOST_DEPTH} levels are the most.`);
const tooMany = (): Problem =>
  new Problem('bad-request', `The body has too many values: ${MOST_PARTS} are the most here. Send it in parts.`);

/** Values that a body may have which is read on the thread that serves players. */
const MOST_PARTS = 20_000;

const BYTE = {
  quote: 0x22,
  comma: 0x2c,
  backslash: 0x5c,
  list: 0x5b,
  group: 0x7b,
  listEnd: 0x5d,
  groupEnd: 0x7d,
} as const;

/**
 * Throws where brackets outside of texts are open too often at once, or there are too many commas. Looked at in the bytes,
 * JSON or not: to parse what is nested a million times takes seconds, what has many parts some ten milliseconds.
 */
function sizeFits(bytes: Uint8Array, mostParts: number): void {
  let depth = 0;
  let parts = 1;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at];
    if (byte === BYTE.quote) {
      for (at++; at < bytes.length && bytes[at] !== BYTE.quote; at++) if (bytes[at] === BYTE.backslash) at++;
    } else if (byte === BYTE.list || byte === BYTE.group) {
      if (++depth > MOST_DEPTH) throw tooDeep();
    } else if (byte === BYTE.listEnd || byte === BYTE.groupEnd) depth--;
    else if (byte === BYTE.comma && ++parts > mostParts) throw tooMany();
  }
}

export interface Read {
  params: Record<string, unknown>;
  query: Record<string, unknown>;
  body: unknown;
  revision: number | undefined;
  key: string | undefined;
}

export function requestRead(operation: Operation, sent: Sent): Read {
  const body = bodyRead(operation, sent.body);
  const query = queryRead(operation, sent.query);
  const wanted = (when: Operation['key']) => when === 'always' || (when === 'unless-preview' && !query['preview']);
  return {
    params: paramsRead(operation, sent.params),
    query,
    body,
    revision: wanted(operation.revision) ? revisionRead(sent) : undefined,
    key: wanted(operation.key) ? keyRead(sent) : undefined,
  };
}

function bodyRead(operation: Operation, bytes: Uint8Array | undefined): unknown {
  const { body: wanted, bodyCheckedLater } = operation;
  if (wanted === undefined) return undefined;
  if (isMedia(wanted)) {
    if (bytes) return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const example = wanted.media === 'image/*' ? 'image/png' : wanted.media;
    throw new Problem('bad-request', `Send the content as the body, with its type: Content-Type: ${example}.`);
  }
  const body = bytes && bytes.length > 0 ? jsonRead(bytes, isAside(operation) ? Infinity : MOST_PARTS) : undefined;
  if (bodyCheckedLater) return body;
  const issues = schemaIssues((wanted as unknown as AnySchema).required(), body);
  if (issues.length > 0) throw invalid('The body does not fit.', issues);
  return body;
}

function jsonRead(bytes: Uint8Array, mostParts: number): unknown {
  sizeFits(bytes, mostParts);
  try {
    return JSON.parse(new TextDecoder().decode(bytes)) as unknown;
  } catch (error) {
    throw new Problem('bad-request', `The body is not JSON: ${(error as Error).message}.`);
  }
}

function queryRead({ query: known = {} }: Operation, written: Sent['query']): Record<string, unknown> {
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
function revisionRead({ headers }: Sent): number {
  const match = /^(?:W\/)?"?(\d{1,15})"?$/.exec(headers['if-match'] ?? '');
  if (!match)
    throw new Problem('revision-needed', 'Send the revision that you started from in If-Match, such as If-Match: "3".');
  return Number(match[1]);
}

/** The key under which a player's press is done once. */
function keyRead({ headers }: Sent): string {
  const key = headers['idempotency-key'];
  if (!key || key.length > 200)
    throw new Problem(
      'key-needed',
      'Send an Idempotency-Key header of up to 200 characters, new for each thing that a player does, the same when you repeat a request.',
    );
  return key;
}

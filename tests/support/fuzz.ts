/** Requests to every operation of the contract: right, wrong in one or two places, or anything at all; the same for a seed. */
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { CONTRACT, KEYS, isMedia, methodOf, pathOf } from '../../src/contract/index.js';
import type { Key, Operation } from '../../src/contract/index.js';
import type { AnySchema } from '../../src/core/schema/index.js';
import { arbitraryOf } from './arbitrary.js';
import { Served } from './served.js';
import { POINT_PNG } from './stall.js';

export interface Shot {
  key: Key;
  path: string;
  headers: Record<string, string>;
  body: string | Uint8Array<ArrayBuffer> | undefined;
}

/** What stands in paths and names things of the demo; anything else may stand there too. */
const NAMES = [
  'mateo',
  'pier_stall',
  'lantern_wagon',
  'tonight',
  'test',
  'draft',
  '1',
  '2',
  'items',
  'item',
  'storm_frame',
  'shells',
];

const odd = fc.oneof(
  fc.jsonValue(),
  fc.double(),
  fc.bigInt({ min: -(2n ** 60n), max: 2n ** 60n }).map(Number),
  fc.constantFrom(
    '',
    '__proto__',
    'constructor',
    '=1/0',
    '9'.repeat(400),
    '2027-02-30',
    '9999-12-31',
    '../..',
    '\u0000',
    '\ud800',
    '🪁'.repeat(50),
  ),
  // As long, as many and as deep as anything may be, and a little more.
  fc.constantFrom(1000, 1001, 20_000).map((length) => Array.from({ length }, (_, n) => n)),
  fc.constantFrom(1000, 20_000).map((length) => Object.fromEntries(Array.from({ length }, (_, n) => [`k${n}`, n]))),
  fc.constantFrom(60, 64, 199, 201, 1000).map((depth) => deep(depth)),
  fc.constant('x'.repeat(30_000)),
);

function deep(depth: number): unknown {
  let value: unknown = 1;
  for (let level = 0; level < depth; level++) value = level % 2 === 0 ? [value] : { a: value };
  return value;
}

/** The value with one of its parts, however deep, made into something else. */
const spoilt = (value: unknown, which: number, other: unknown): unknown => {
  const places: { holder: Record<string, unknown>; key: string }[] = [];
  const changed = structuredClone({ value });
  const visit = (holder: Record<string, unknown>): void => {
    for (const key of Object.keys(holder)) {
      places.push({ holder, key });
      const inner = holder[key];
      if (typeof inner === 'object' && inner !== null) visit(inner as Record<string, unknown>);
    }
  };
  visit(changed);
  const { holder, key } = places[which % places.length]!;
  Object.defineProperty(holder, key, { value: other, enumerable: true, configurable: true, writable: true });
  return changed.value;
};

/** Values of a schema; anything where none can be made up. */
function fitting(schema: unknown): fc.Arbitrary<unknown> {
  try {
    return arbitraryOf(schema as AnySchema);
  } catch {
    return odd;
  }
}

/** Right, wrong in one place, wrong in two, or anything. */
const nearly = (right: fc.Arbitrary<unknown>): fc.Arbitrary<unknown> =>
  fc.oneof(
    { weight: 3, arbitrary: right },
    {
      weight: 3,
      arbitrary: fc.tuple(right, fc.nat(40), odd).map(([value, which, other]) => spoilt(value, which, other)),
    },
    {
      weight: 1,
      arbitrary: fc
        .tuple(right, fc.nat(40), odd, fc.nat(40), odd)
        .map(([value, one, other, two, another]) => spoilt(spoilt(value, one, other), two, another)),
    },
    { weight: 1, arbitrary: odd },
  );

const asText = (value: unknown): string => (typeof value === 'string' ? value : (JSON.stringify(value) ?? ''));

/** Half of a surrogate pair cannot stand in an address. */
const wellFormed = (text: string): string => Buffer.from(text).toString();

const queryOf = ({ query = {} }: Operation): fc.Arbitrary<string> =>
  fc
    .record(
      Object.fromEntries(
        Object.entries(query).map(([name, schema]) => [
          name,
          fc.oneof(
            { weight: 4, arbitrary: fitting(schema) },
            { weight: 1, arbitrary: fc.constantFrom(...NAMES) },
            { weight: 1, arbitrary: odd },
          ),
        ]),
      ),
      { requiredKeys: [] },
    )
    .map((values) =>
      Object.entries(values)
        .map(([name, value]) => `${name}=${encodeURIComponent(wellFormed(asText(value).slice(0, 2000)))}`)
        .join('&'),
    );

const SHEET = 'id,name,kind\nkite_a,Kite A,durable\n"kite,b",=1+1,durable\n';
const bodyOf = ({ body }: Operation): fc.Arbitrary<Shot['body']> => {
  if (body === undefined) return fc.constant(undefined);
  const bytes = fc.uint8Array({ maxLength: 200 }).map((some) => new Uint8Array(some));
  if (isMedia(body)) {
    const example = body.media === 'text/csv' ? Buffer.from(SHEET) : POINT_PNG;
    return fc.oneof(
      bytes,
      fc.nat(example.length).map((length) => new Uint8Array(example.subarray(0, length))),
      fc
        .tuple(fc.nat(example.length - 1), fc.nat(255))
        .map(([at, byte]) => new Uint8Array(example).fill(byte, at, at + 1)),
    );
  }
  const text = nearly(fitting(body)).map((value) => asText(JSON.stringify(value)));
  return fc.oneof(
    { weight: 12, arbitrary: text },
    { weight: 1, arbitrary: text.map((whole) => whole.slice(0, whole.length / 2)) },
    { weight: 1, arbitrary: bytes },
  );
};

const headersOf = (operation: Operation): fc.Arbitrary<Record<string, string>> =>
  fc
    .record({
      type: fc.oneof(
        {
          weight: 9,
          arbitrary: fc.constant(
            operation.body && isMedia(operation.body) ? operation.body.media.replace('*', 'png') : 'application/json',
          ),
        },
        { weight: 1, arbitrary: fc.constantFrom('text/plain', 'application/json; charset=utf-16', '') },
      ),
      encoding: fc.oneof(
        { weight: 12, arbitrary: fc.constant('') },
        { weight: 1, arbitrary: fc.constantFrom('gzip', 'br', 'deflate', 'kite') },
      ),
      match: fc.oneof(
        { weight: 9, arbitrary: fc.constant('now') },
        { weight: 1, arbitrary: fc.constantFrom('"0"', '*', 'x', '"999999999999999"') },
      ),
      press: fc.oneof(
        fc.nat(1e6).map((n) => `k${n}`),
        fc.constantFrom('', 'k'.repeat(200), 'k'.repeat(201)),
      ),
    })
    .map(({ type, encoding, match, press }) => ({
      ...(type ? { 'Content-Type': type } : {}),
      ...(encoding ? { 'Content-Encoding': encoding } : {}),
      'If-Match': match,
      'Idempotency-Key': press,
    }));

/** Saving and asking aside takes longest, so it is asked for less often. */
const weightOf = (operation: Operation): number => (operation.saves ? 1 : operation.aside === true ? 2 : 6);

const shot = fc.oneof(
  ...KEYS.filter((key) => !('events' in CONTRACT[key])).map((key) => {
    const operation: Operation = CONTRACT[key];
    const names = [...pathOf(key).matchAll(/\{(\w+)\}/g)].map(() =>
      fc.oneof(
        { weight: 4, arbitrary: fc.constantFrom(...NAMES) },
        { weight: 1, arbitrary: fc.string({ minLength: 1, maxLength: 80, unit: 'grapheme' }) },
      ),
    );
    return {
      weight: weightOf(operation),
      arbitrary: fc
        .tuple(fc.tuple(...names), queryOf(operation), bodyOf(operation), headersOf(operation))
        .map(([filled, query, body, headers]): Shot => {
          let at = 0;
          const path = pathOf(key).replace(/\{\w+\}/g, () => encodeURIComponent(wellFormed(filled[at++]!)));
          return {
            key,
            path: `${path}${query ? `?${query}` : ''}`,
            headers,
            body: body === undefined ? undefined : packed(body, headers),
          };
        }),
    };
  }),
) as fc.Arbitrary<Shot>;

/** One in two that says that it is packed is. */
const packed = (
  body: string | Uint8Array<ArrayBuffer>,
  headers: Record<string, string>,
): string | Uint8Array<ArrayBuffer> =>
  headers['Content-Encoding'] === 'gzip' && body.length % 2 === 0 ? new Uint8Array(gzipSync(body)) : body;

export const shots = (count: number, seed: number): Shot[] => fc.sample(shot, { numRuns: count, seed });

/** What live players meet stays as it is, so that there is something to shoot at. */
const spares = ({ key, path, body }: Shot): boolean =>
  (key === 'POST /releases' && !String(body).includes('"test"')) ||
  (/^\/channels\/live/.test(path) && methodOf(key) !== 'GET');

const MOST_MS = 250;
const MOST_MB = 100;
const WARM_UP = 300;

export interface Hit {
  what: string;
  number: number;
  shot: Shot;
}
/** Shoots at a service, one after the other. Gives what went wrong, with the shot; nothing where all was well. */
export async function fuzz(
  count: number,
  seed: number,
  onShot?: (number: number, ms: number, shot: Shot) => void,
): Promise<Hit[]> {
  const served = await Served.demo('--work-per-second', '1000000');
  const hits: Hit[] = [];
  let memoryMb = Infinity;
  try {
    for (const [number, one] of shots(count, seed).entries()) {
      if (spares(one)) continue;
      const { key, path, headers, body } = one;
      const [before, start] = [served.mainThreadMs(), performance.now()];
      const revision =
        headers['If-Match'] === 'now' && CONTRACT[key] && 'revision' in CONTRACT[key] ? await revisionOf(served) : 0;
      const method = methodOf(key);
      const response = await fetch(`${served.url}/api/v1${path}`, {
        method,
        headers: {
          Authorization: `Bearer ${served.token}`,
          ...headers,
          ...(headers['If-Match'] === 'now' ? { 'If-Match': `"${revision}"` } : {}),
        },
        ...(body === undefined || method === 'GET' ? {} : { body }),
      });
      const text = await response.text();
      const busyMs = served.mainThreadMs() - before;
      onShot?.(number, performance.now() - start, one);
      const wrong = (what: string) => hits.push({ what, number, shot: one });
      if (response.status >= 500) wrong(`answered ${response.status}: ${text.slice(0, 300)}`);
      if (/node_modules|\.[tj]s:\d/.test(text)) wrong(`a stack trace: ${text.slice(0, 300)}`);
      if (busyMs > MOST_MS) wrong(`kept everybody waiting for ${busyMs} ms`);
      if (key === 'POST /runs' && response.status === 202)
        await served.client.call('DELETE /runs/{run}', { params: { run: (JSON.parse(text) as { id: number }).id } });
      if (number === WARM_UP) memoryMb = served.memoryMb();
    }
    const grownMb = served.memoryMb() - memoryMb;
    if (grownMb > MOST_MB)
      hits.push({ what: `grew by ${Math.round(grownMb)} MB`, number: count, shot: shots(1, seed)[0]! });
    if (!served.runs) throw new Error(`it ended: ${served.told}`);
    return hits;
  } finally {
    await served.end();
  }
}

const revisionOf = async (served: Served): Promise<number> => {
  const response = await fetch(`${served.url}/api/v1/draft/revisions?limit=1`, {
    headers: { Authorization: `Bearer ${served.token}` },
  });
  return ((await response.json()) as { items: { revision: number }[] }).items[0]!.revision;
};

/** Requests to every operation of the contract: right, wrong in one or two places, or anything at all; the same for a seed. */
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { CONTRACT, KEYS, isMedia, methodOf, pathOf } from '../../src/contract/index.js';
import type { Key, Operation } from '../../src/contract/index.js';
import type { AnySchema } from '../../src/core/schema/index.js';
import { arbitraryOf } from './arbitrary.js';
import { ApiProblem, Client } from '../../src/client/index.js';
import { ASKS } from './asks.js';
import { Book, DEEDS, Disagreement, begin, laneOf } from './deeds.js';
import { demoDocument } from './economy.js';
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
  // Words that mean something somewhere.
  {
    weight: 2,
    arbitrary: fc.constantFrom(
      'copy',
      'move',
      'remove',
      'add',
      'durable',
      'box',
      'live',
      'draft',
      'P1D',
      'day',
      '=level',
      '/items',
    ),
  },
  fc.constant(undefined),
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
/** Rounds after which everything that is kept in memory is there. */
const WARM_ROUNDS = 3;

export interface Hit {
  what: string;
  number: number;
  shot: Pick<Shot, 'key' | 'path' | 'body'>;
}

export interface Fuzzed {
  /** What went wrong, with the shot. */
  hits: Hit[];
  /** How often each operation was answered well. */
  well: ReadonlyMap<Key, number>;
}

/** A service that is shot at, and what came of it. */
class Range {
  readonly hits: Hit[] = [];
  readonly well = new Map<Key, number>();
  private number = 0;
  private memoryMb = Infinity;

  constructor(readonly served: Served) {}

  /** Sends one request, and looks at what comes back. */
  async shoot(key: Key, url: string, init: RequestInit): Promise<Response> {
    const number = this.number++;
    const before = this.served.mainThreadMs();
    const response = await fetch(url, init);
    const isStream = response.headers.get('Content-Type')?.startsWith('text/event-stream');
    const text = isStream ? '' : await response.clone().text();
    const busyMs = this.served.mainThreadMs() - before;
    const path = url.slice(this.served.url.length);
    const wrong = (what: string) =>
      this.hits.push({ what, number, shot: { key, path, body: init.body as Shot['body'] } });
    if (response.status >= 500) wrong(`answered ${response.status}: ${text.slice(0, 300)}`);
    if (/node_modules|\.[tj]s:\d/.test(text)) wrong(`a stack trace: ${text.slice(0, 300)}`);
    if (busyMs > MOST_MS) wrong(`kept everybody waiting for ${busyMs} ms`);
    if (response.ok) this.well.set(key, (this.well.get(key) ?? 0) + 1);
    return response;
  }

  /** From here on it may not grow much. */
  warm(): void {
    this.memoryMb = this.served.memoryMb();
  }

  end(): void {
    const grownMb = this.served.memoryMb() - this.memoryMb;
    const shot = { key: KEYS[0]!, path: '', body: undefined };
    if (grownMb > MOST_MB) this.hits.push({ what: `grew by ${Math.round(grownMb)} MB`, number: this.number, shot });
    if (!this.served.runs) throw new Error(`it ended: ${this.served.told}`);
  }
}

/**
 * Shoots `count` made-up requests at a service, one after the other, and after them `rounds` times each operation as it
 * is meant, each with a copy before it in which one part is spoilt.
 */
export async function fuzz(count: number, rounds: number, seed: number): Promise<Fuzzed> {
  const served = await Served.demo('--work-per-second', '1000000');
  try {
    const range = new Range(served);
    for (const one of shots(count, seed)) {
      if (spares(one)) continue;
      const { key, path, headers, body } = one;
      const revision = headers['If-Match'] === 'now' && 'revision' in CONTRACT[key] ? await revisionOf(served) : 0;
      const method = methodOf(key);
      const response = await range.shoot(key, `${served.url}/api/v1${path}`, {
        method,
        headers: {
          Authorization: `Bearer ${served.token}`,
          ...headers,
          ...(headers['If-Match'] === 'now' ? { 'If-Match': `"${revision}"` } : {}),
        },
        ...(body === undefined || method === 'GET' ? {} : { body }),
      });
      if (key === 'POST /runs' && response.status === 202)
        await served.client.call('DELETE /runs/{run}', {
          params: { run: ((await response.json()) as { id: number }).id },
        });
    }
    await meant(range, rounds, seed);
    range.end();
    return { hits: range.hits, well: range.well };
  } finally {
    await served.end();
  }
}

/** Spoilt copies for each one that is right, where there is much to spoil. */
const COPIES: Partial<Record<Key, number>> = { 'PATCH /draft': 4, 'POST /draft/edits': 2, 'POST /rehearsals': 2 };

/** What each operation of a patch needs (RFC 6902, 4). */
const PATCH_NEEDS = {
  add: { path: '/items/new_one', value: { name: 'New one', kind: 'durable' } },
  remove: { path: '/items/storm_frame/name' },
  replace: { path: '/items/storm_frame/name', value: 'Storm' },
  move: { from: '/items/storm_frame', path: '/items/moved' },
  copy: { from: '/items/storm_frame', path: '/items/copied' },
  test: { path: '/name', value: 'Saltwind Cove' },
};
/** Each without one of the parts that it needs. */
const PATCHES_LACKING = Object.entries(PATCH_NEEDS).flatMap(([op, needs]) => {
  const whole: Record<string, unknown> = { op, ...needs };
  return Object.keys(whole).map((part) => Object.fromEntries(Object.entries(whole).filter(([key]) => key !== part)));
});

/** Each operation as it is meant, and spoilt. */
async function meant(range: Range, rounds: number, seed: number): Promise<void> {
  const { served } = range;
  const spoils = fc.sample(fc.tuple(fc.nat(1000), odd), { numRuns: 2000, seed });
  let spoil = 0;
  const client = new Client({
    url: served.url,
    token: served.token,
    fetch: async (url, init) => {
      const address = String(url);
      const key = keyOf(init!.method!, address.slice(`${served.url}/api/v1`.length));
      // A stream that is right is read to its end.
      const copies = 'events' in CONTRACT[key] ? 0 : (COPIES[key] ?? 1);
      for (let copy = 0; copy < copies; copy++) {
        const [which, other] = spoils[spoil++ % spoils.length]!;
        await range.shoot(key, ...spoiltRequest(address, init!, which, other));
      }
      return range.shoot(key, address, init!);
    },
  });
  const { document, revision } = await served.client.call('GET /draft');
  await begin(served.client, new Book(), { ...demoDocument(), name: document.name }, revision);
  await served.client.call('PUT /pictures/{picture}', {
    params: { picture: 'kept.png' },
    type: 'image/png',
    body: new Uint8Array(POINT_PNG).buffer,
  });
  for (const operation of PATCHES_LACKING)
    await range.shoot('PATCH /draft', `${served.url}/api/v1/draft`, {
      method: 'PATCH',
      headers: {
        Authorization: `Bearer ${served.token}`,
        'Content-Type': 'application/json',
        'If-Match': `"${await revisionOf(served)}"`,
      },
      body: JSON.stringify([operation]),
    });
  for (let round = 0; round < rounds; round++) {
    if (round === WARM_ROUNDS) range.warm();
    for (const [key, { only, do: deed }] of Object.entries(DEEDS)) {
      const lane = laneOf(only ?? 1, `l${only ?? 1} ${key.replace(/\W/g, '')} ${round}`, served, () => client);
      await tolerated(deed({ ...lane, book: new Book() }));
    }
    for (const ask of Object.values(ASKS)) await tolerated(ask(client));
  }
}

/** What a spoilt request has changed may stand in the way of the right one: then that is refused, and no more. */
async function tolerated(work: Promise<unknown>): Promise<void> {
  try {
    await work;
  } catch (error) {
    if (!(error instanceof ApiProblem || error instanceof Disagreement)) throw error;
  }
}

const PATTERNS = KEYS.map((key) => ({
  key,
  pattern: new RegExp(
    `^${pathOf(key)
      .replace(/[.]/g, '\\.')
      .replace(/\{\w+\}/g, '[^/]+')}$`,
  ),
}));

/** The operation that a request is for; a fixed path goes before one with a name in it. */
function keyOf(method: string, path: string): Key {
  const [place] = path.split('?') as [string];
  const found = PATTERNS.filter(({ key, pattern }) => methodOf(key) === method && pattern.test(place)).sort(
    (a, b) => a.key.split('{').length - b.key.split('{').length,
  )[0];
  if (!found) throw new Error(`${method} ${place} is no operation`);
  return found.key;
}

/** The request with one part of its address, its body or its headers made into something else. */
function spoiltRequest(address: string, init: RequestInit, which: number, other: unknown): [string, RequestInit] {
  const url = new URL(address);
  const text = wellFormed(asText(other).slice(0, 2000));
  const json =
    typeof init.body === 'string' && /^[[{]/.test(init.body) ? (JSON.parse(init.body) as unknown) : undefined;
  const names = [...url.searchParams.keys()];
  const ways = [
    ...(json === undefined
      ? []
      : [1, 2, 3].map(() => () => void (init = { ...init, body: asText(spoilt(json, which, other)) }))),
    ...names.map((name) => () => url.searchParams.set(name, text)),
    () => url.searchParams.set('kite', text),
    () => {
      const parts = url.pathname.split('/');
      const at = 3 + (which % (parts.length - 3));
      url.pathname = parts
        .map((part, index) => (index === at ? encodeURIComponent(text.slice(0, 90)) : part))
        .join('/');
    },
    ...['If-Match', 'Idempotency-Key', 'Content-Type'].map((name) => () => {
      init = {
        ...init,
        headers: {
          ...init.headers,
          [name]: text
            .replace(/[^\x20-\x7e]/g, '')
            .slice(0, 300)
            .trim(),
        },
      };
    }),
  ];
  ways[which % ways.length]!();
  return [url.href, init];
}

const revisionOf = async (served: Served): Promise<number> => {
  const response = await fetch(`${served.url}/api/v1/draft/revisions?limit=1`, {
    headers: { Authorization: `Bearer ${served.token}` },
  });
  return ((await response.json()) as { items: { revision: number }[] }).items[0]!.revision;
};

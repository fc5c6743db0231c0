import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { arbitraryOf } from '../../../tests/support/arbitrary.js';
import { demoDocument } from '../../../tests/support/economy.js';
import { pointerSegments } from '../issue/index.js';
import { documentValidate, economyJsonSchema, valueAt } from './index.js';
import { economySchema } from './schema.js';

const ajv = new Ajv2020({
  strict: true,
  allowUnionTypes: true,
  keywords: ['x-cell', 'x-form', 'x-names', 'x-options'],
});
const accepts = ajv.compile(economyJsonSchema());

test('the published schema accepts the demo economy', () => {
  expect([accepts(demoDocument()), accepts.errors]).toEqual([true, null]);
});

/** Bad documents on which the schema and the service's own check must agree. */
test.each([
  { timeZone: 'UTC' },
  { name: 'X', timeZone: 'UTC', itmes: {} },
  { name: 'X', timeZone: 'UTC', items: { Kite: { name: 'K', kind: 'durable' } } },
  { name: 'X', timeZone: 'UTC', items: { kite: { name: 'K', kind: 'odd' } } },
  { name: 'X', timeZone: 'UTC', items: { kite: { name: 'K', kind: 'durable', worth: { shells: -1 } } } },
  { name: 'X', timeZone: 'UTC', items: { kite: { name: 'K', kind: 'durable', worth: { shells: 2 ** 53 } } } },
  { name: 'X', timeZone: 'UTC', items: { kite: { name: 'K', kind: 'durable', carry: 1.5 } } },
  { name: 'X', timeZone: 'UTC', currencies: { shells: { name: 'S', refill: { amount: 1, every: 'daily', upTo: 3 } } } },
  { name: 'X', timeZone: 'UTC', shops: { a: { name: 'A' } } },
  {
    name: 'X',
    timeZone: 'UTC',
    shops: { a: { name: 'A', shelves: { m: { name: 'M', offers: { o: { price: 'free' } } } } } },
  },
  { name: 'X', timeZone: 'UTC', earning: { r: { name: 'R', on: 'race', chance: 2 } } },
])('both refuse %j', (document) => {
  expect(accepts(document)).toBe(false);
  expect(documentValidate(document).ok).toBe(false);
});

/** What no JSON Schema can say, so that only our own check refuses it. */
const BEYOND = [
  /is not a time zone$/,
  /is not a recurrence rule: /,
  /"from":-?[\d.e]+,"to":/,
  /levels deep$/,
  // Bounds the wrong way round.
  /^a lever cannot go from .* up to /,
  /^nothing is .* or more and .* or less$/,
];

/** Values that are wrong in most places, and right in some. */
const ODD = [
  null,
  '',
  ' ',
  'Kite',
  'constructor',
  '=',
  -1,
  0,
  0.5,
  1e16,
  true,
  [],
  {},
  [1],
  { from: 3, to: 1 },
  'P0D',
  '2027-02-30',
  '24:00',
  'x'.repeat(1001),
  '\u{1F4A8}'.repeat(120),
];

/** Every pointer of a document. */
function pointers(value: unknown, at = ''): string[] {
  if (typeof value !== 'object' || value === null) return [at];
  return [
    at,
    ...Object.entries(value).flatMap(([key, one]) =>
      pointers(one, `${at}/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`),
    ),
  ];
}

const mutated = arbitraryOf(economySchema).chain((document) => {
  const places = pointers(document).slice(1);
  return fc.tuple(
    fc.constant(document),
    fc.constantFrom(...places),
    fc.constantFrom(...ODD),
    fc.constantFrom('put', 'add', 'cut'),
  );
});

test('JSON Schema and the check of files accept the same documents', () => {
  fc.assert(
    fc.property(arbitraryOf(economySchema), (document) => {
      expect([accepts(document), accepts.errors]).toEqual([true, null]);
    }),
    { numRuns: 150, endOnFailure: true },
  );
  let refused = 0;
  fc.assert(
    fc.property(mutated, ([original, pointer, odd, how]) => {
      const document = structuredClone(original) as Record<string, unknown>;
      const segments = pointerSegments(pointer);
      const parent = valueAt(document, segments.slice(0, -1)) as Record<string, unknown>;
      if (how === 'cut' && !Array.isArray(parent)) Reflect.deleteProperty(parent, segments.at(-1)!);
      else parent[how === 'add' && !Array.isArray(parent) ? 'oddity' : segments.at(-1)!] = odd;
      const ours = documentValidate(document);
      const theirs = accepts(document);
      if (!ours.ok) refused++;
      const beyond = !ours.ok && theirs && ours.issues.every(({ message }) => BEYOND.some((one) => one.test(message)));
      if (!beyond && ours.ok !== theirs)
        throw new Error(
          `${how} ${JSON.stringify(odd)} at ${pointer}: ours ${JSON.stringify(ours.ok ? 'fine' : ours.issues)}, theirs ${JSON.stringify(accepts.errors)}`,
        );
    }),
    { numRuns: 800, endOnFailure: true },
  );
  expect(refused).toBeGreaterThan(300);
});

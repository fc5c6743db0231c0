/** Any value that a schema accepts, made from the schema itself. */
import fc from 'fast-check';
import { blockOf, fieldsOf, isOptional } from '../../src/core/schema/index.js';
import type { AnySchema } from '../../src/core/schema/index.js';

/** Texts of the forms that the blocks know; a block takes those that it accepts. */
const FORMS = [
  'wax',
  'storm_frame',
  'a',
  'free',
  'Dusk Tail, 2; (kept)',
  '12',
  '=level >= 3',
  '=max(1, owned(wax))',
  'P3D',
  'PT6H',
  'P1W',
  'day',
  'week',
  'month',
  'lifetime',
  'rotation',
  '2027-03-01',
  '2027-03-01T09:00',
  '2028-02-29T23:59:59Z',
  '2027-10-31T01:30+01:00',
  '09:00',
  '23:59',
  'Europe/Lisbon',
  'UTC',
  'FREQ=WEEKLY;BYDAY=SA,SU',
  'FREQ=DAILY',
  'pt',
  'pt-BR',
  'EUR',
  'JPY',
  'item.wax.name',
  'ask-free',
  '/items/wax/worth/shells',
  'missing-text /items/wax',
];

/** Short texts of letters that cells and files must not trip over. */
const FREE = fc
  .array(
    fc.constantFrom('a', 'Z', '7', ' ', 'é', '\u{1F4A8}', ',', ';', '|', '(', ')', '"', "'", '=', '-', ':', '\n'),
    {
      minLength: 1,
      maxLength: 8,
    },
  )
  .map((letters) => letters.join(''))
  .filter((text) => text.trim() !== '');

const fits = (schema: AnySchema, value: unknown): boolean => schema.isValidSync(value, { strict: true });

function valueOf(schema: AnySchema, json: Record<string, unknown>): fc.Arbitrary<unknown> {
  if (json['const'] !== undefined) return fc.constant(json['const']);
  if (Array.isArray(json['enum'])) return fc.constantFrom(...(json['enum'] as unknown[]));
  const number = (whole: boolean): fc.Arbitrary<number> => {
    const min = (json['minimum'] ?? json['exclusiveMinimum'] ?? -1e6) as number;
    const max = (json['maximum'] ?? 1e6) as number;
    const near = [min, max, 0, 1, 2, 3, 250].filter((one) => fits(schema, one));
    return fc
      .oneof(
        fc.constantFrom(...near),
        whole
          ? fc.integer({ min: Math.max(min, -1e9), max: Math.min(max, 1e9) })
          : fc
              .integer({ min: Math.ceil(min * 100), max: Math.floor(Math.min(max, 1e9) * 100) })
              .map((one) => one / 100),
      )
      .filter((one) => fits(schema, one));
  };
  const types = [json['type'] ?? ['string', 'number', 'boolean', 'null']].flat() as string[];
  const options = types.flatMap((type): fc.Arbitrary<unknown>[] => {
    if (type === 'integer' || type === 'number') return [number(type === 'integer')];
    if (type === 'boolean') return [fc.boolean()];
    if (type === 'null') return fits(schema, null) ? [fc.constant(null)] : [];
    if (type === 'array') return [fc.tuple(fc.integer({ min: -9, max: 9 }), fc.integer({ min: 0, max: 9 }))];
    if (type === 'object')
      return [fc.dictionary(fc.constantFrom('1', 'wild'), fc.integer({ min: 1, max: 5 }), { minKeys: 1 })];
    const known = FORMS.filter((form) => fits(schema, form));
    return [json['pattern'] === '\\S' ? fc.oneof(fc.constantFrom(...known), FREE) : fc.constantFrom(...known)];
  });
  return fc.oneof(...options);
}

const made = new WeakMap<AnySchema, fc.Arbitrary<unknown>>();

/** Values of `schema`, small ones first. */
export function arbitraryOf(schema: AnySchema): fc.Arbitrary<unknown> {
  const known = made.get(schema) ?? make(schema);
  made.set(schema, known);
  return known;
}

function make(schema: AnySchema): fc.Arbitrary<unknown> {
  const block = blockOf(schema);
  switch (block.kind) {
    case 'value':
      return valueOf(schema, block.json as Record<string, unknown>);
    case 'either':
      return fc.oneof(
        ...block.options.map((option) =>
          arbitraryOf(option.schema).filter((value) => block.options.find((one) => one.fits(value)) === option),
        ),
      );
    case 'list':
      return fc.array(arbitraryOf(block.inner), { minLength: block.least, maxLength: Math.min(block.most, 3) });
    case 'map': {
      const keys = FORMS.filter((form) => block.keys.test(form));
      return fc.dictionary(fc.constantFrom(...keys), arbitraryOf(block.inner), { maxKeys: 2, noNullPrototype: true });
    }
    case 'fields': {
      const inner = Object.entries(fieldsOf(schema));
      return fc
        .record(Object.fromEntries(inner.map(([name, field]) => [name, arbitraryOf(field)])), {
          requiredKeys: inner.filter(([, field]) => !isOptional(field)).map(([name]) => name),
          noNullPrototype: true,
        })
        .map(inOrder);
    }
  }
}

/** Ranges go upwards. */
function inOrder(value: object): object {
  const { from, to } = value as { from?: unknown; to?: unknown };
  return typeof from === 'number' && typeof to === 'number' && from > to ? { ...value, from: to, to: from } : value;
}

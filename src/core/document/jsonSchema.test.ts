import { Ajv2020 } from 'ajv/dist/2020.js';
import { demoDocument } from '../../../tests/support/economy.js';
import { documentValidate, economyJsonSchema } from './index.js';

const ajv = new Ajv2020({ strict: true, allowUnionTypes: true });
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

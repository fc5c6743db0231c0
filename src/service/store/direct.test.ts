import { sql } from 'drizzle-orm';
import { databaseOpen } from './database.js';
import { direct } from './direct.js';
import { tills } from './tables.js';

const database = databaseOpen(':memory:');
afterAll(() => database.close());
const at = (name: string) => sql.placeholder(name);
const insert = database.db
  .insert(tills)
  .values({ shop: at('shop'), asset: at('asset'), units: at('units'), sinceMs: at('sinceMs') });

test('values land in the columns whose placeholders have their names', () => {
  const save = direct<[shop: string, asset: string, units: number, sinceMs: number | null]>(
    database,
    ['shop', 'asset', 'units', 'sinceMs'],
    insert,
  );
  save.run('pier', 'shells', 5, null);
  expect(database.raw.prepare('SELECT * FROM tills').all()).toEqual([
    { shop: 'pier', asset: 'shells', units: 5, since_ms: null },
  ]);
});

test('names in another order, too few of them, and values that are written down are refused before anything runs', () => {
  const names = (...all: string[]) => direct(database, all as unknown as [string, string], insert);
  expect(() => names('asset', 'shop', 'units', 'sinceMs')).toThrow(/are shop, asset, units, sinceMs, in this order/);
  expect(() => names('shop', 'asset', 'units')).toThrow(/in this order, and not shop, asset, units$/);
  expect(() =>
    direct<[shop: string, asset: string]>(
      database,
      ['shop', 'asset'],
      database.db.insert(tills).values({ shop: at('shop'), asset: at('asset'), units: 5 }),
    ),
  ).toThrow(/the value 5/);
});

/** Opening balances and the check of sums, held against the rules of core. */
import fc from 'fast-check';
import { ledgerBalances, ledgerVerify } from '../../core/ledger/index.js';
import type { Account } from '../../core/ledger/index.js';
import { openingBalances } from './archiveStore.js';
import type { MovementRecord } from './archiveStore.js';
import { databaseOpen } from './database.js';
import { integrityCheck } from './integrity.js';

const accounts = fc.constantFrom<Account>(
  'player:ana',
  'player:ben',
  'team:gulls',
  'till:pier',
  'shop:pier',
  'world:play',
);
const movements = fc.array(
  fc
    .record({
      player: fc.constantFrom('ana', 'ben'),
      asset: fc.constantFrom('shells', 'wax'),
      units: fc.oneof(fc.integer({ min: 1, max: 50 }), fc.constant(Number.MAX_SAFE_INTEGER)),
      from: accounts,
      to: accounts,
    })
    .filter(({ from, to }) => from !== to),
  { maxLength: 30 },
);

test('opening balances leave every account on record as it was, and there are no more of them than movements', () => {
  fc.assert(
    fc.property(movements, (list) => {
      const rows = list.map((one, index) => ({ ...one, id: index + 1, cause: 'x', release: 1, atMs: 0 }));
      const opened = openingBalances(rows).map((one) => ({ ...one, cause: 'opening:2026-01' }));
      const held = (all: Pick<MovementRecord, 'asset' | 'units' | 'from' | 'to' | 'cause'>[]) =>
        [...ledgerBalances(all)]
          .filter(([account]) => !/^(world|shop):/.test(account))
          .flatMap(([account, assets]) => [...assets].map(([asset, units]) => `${account} ${asset} ${units}`))
          .filter((line) => !line.endsWith(' 0'))
          .sort();
      expect(held(opened)).toEqual(held(rows));
      const used = opened.map(({ id }) => id);
      expect(new Set(used).size).toBe(used.length);
      for (const { id, units } of opened) {
        expect(Number.isSafeInteger(units) && units > 0).toBe(true);
        expect(id).toBeLessThanOrEqual(rows.length);
      }
    }),
    { numRuns: 2000 },
  );
});

test('verify says what core says of any movements and holdings, however large', () => {
  const database = databaseOpen(':memory:');
  const { raw } = database;
  const add = raw.prepare(
    "INSERT INTO movements (player, asset, units, from_account, to_account, cause, release, at_ms) VALUES (@player, @asset, @units, @from, @to, 'x', 1, 0)",
  );
  const holdings = fc.array(
    fc.record({
      shop: fc.constantFrom('pier', 'booth'),
      asset: fc.constantFrom('shells', 'wax'),
      units: fc.integer({ min: -3, max: 60 }),
    }),
    { maxLength: 4 },
  );
  fc.assert(
    fc.property(movements, holdings, (list, held) => {
      raw.exec('DELETE FROM movements; DELETE FROM tills');
      for (const one of list) add.run(one);
      const tills = new Map(held.map(({ shop, asset, units }) => [`${shop} ${asset}`, units]));
      // Where it can be, what is held is what moved, so that both answers come.
      for (const [account, assets] of ledgerBalances(list.map((one) => ({ ...one, cause: 'x' }))))
        for (const [asset, units] of assets)
          if (account === 'till:pier' && units >= 0n && units <= BigInt(Number.MAX_SAFE_INTEGER))
            tills.set(`pier ${asset}`, Number(units));
      const wanted = new Map<string, Map<string, number>>();
      for (const [key, units] of tills) {
        const [shop, asset] = key.split(' ') as [string, string];
        raw.prepare('INSERT INTO tills (shop, asset, units) VALUES (?, ?, ?)').run(shop, asset, units);
        wanted.set(`till:${shop}`, new Map([...(wanted.get(`till:${shop}`) ?? []), [asset, units]]));
      }
      const expected = ledgerVerify(
        list.map((one) => ({ ...one, cause: 'x' })),
        wanted,
      )
        .filter(({ held: has, moved }) => has !== moved)
        .map(({ message }) => message);
      const below = [...tills.values()].filter((units) => units < 0).length;
      expect(integrityCheck(database).faults.sort()).toEqual(
        [...expected, ...(below > 0 ? [`${below} amounts are below zero`] : [])].sort(),
      );
    }),
    { numRuns: 300 },
  );
  database.close();
});

import fc from 'fast-check';
import { HOUR, NOW, demoEconomy, holdingsOf } from '../../../tests/support/economy.js';
import { ledgerVerify } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerCreate, playerHolds, playerReceive } from '../player/index.js';
import { UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from './index.js';
import type { Shared } from './index.js';

const economy = demoEconomy();
const offers = [...economy.offers.keys()];

const step = fc.record({
  offer: fc.constantFrom(...offers),
  times: fc.integer({ min: 1, max: 4 }),
  waitMs: fc.integer({ min: 0, max: 20 * HOUR }),
  pay: fc.constantFrom(undefined, 'shells', 'pearls'),
});

test('over any shopping spree no balance falls below zero, no bound is passed, and the ledger explains all', () => {
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), fc.integer({ min: 0, max: 4000 }), (steps, wallet) => {
      const created = playerCreate(economy, 'yuna', 'Yuna', NOW, { level: 3 });
      const gift = playerReceive(
        economy,
        created.player,
        { shells: wallet, pearls: 20 },
        'world:test',
        'test:gift',
        NOW,
      );
      let player = gift.player;
      const movements: Movement[] = [...created.movements, ...gift.movements];
      let shared: Shared = UNTOUCHED;
      let nowMs = NOW;
      for (const { offer, times, waitMs, pay } of steps) {
        nowMs += waitMs;
        const verdict = purchaseCheck(economy, player, shared, { offer, times, ...(pay ? { pay } : {}) }, nowMs);
        if (!verdict.allowed) continue;
        const bought = purchaseApply(economy, player, shared, verdict);
        // The verdict tells of the purchase alone; what goals give for it comes on top.
        const rewards = bought.progress.flatMap((one) => ('given' in one ? [one.given] : []));
        for (const asset in verdict.after)
          expect(playerHolds(economy, bought.player, asset)).toBe(
            rewards.reduce((sum, given) => sum + (given[asset] ?? 0), verdict.after[asset]!),
          );
        player = bought.player;
        movements.push(...bought.movements);
        shared = sharedWith(shared, bought.shared);
      }
      const held = holdingsOf(economy, player, shared);
      expect(ledgerVerify(movements, held)).toEqual([]);
      for (const [asset, units] of held.get('player:yuna')!) {
        expect(units).toBeGreaterThanOrEqual(0);
        const item = economy.items.get(asset);
        if (item?.carry !== undefined) expect(units).toBeLessThanOrEqual(item.carry);
      }
    }),
    { numRuns: 150 },
  );
});

import { HOUR, NOW, economyOf, holdingsOf, playerWith } from '../../../tests/support/economy.js';
import { MAX_UNITS } from '../amount/index.js';
import { ledgerVerify } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerHolds } from '../player/index.js';
import { ACTS, UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from './index.js';

const economy = economyOf(`
currencies:
  shells: {name: Shells}
  pearls: {name: Pearls}
groups: {tails: {name: Tails}}
items:
  tail: {name: Tail, kind: durable, group: tails, worth: {shells: 10}}
shops:
  stall:
    name: Stall
    till: {holds: {shells: ${MAX_UNITS - 15}}, refill: {gives: {shells: 4}, every: PT1H}}
    buyback: {groups: [tails], rate: 1, pays: shells, resell: true}
    shelves:
      main:
        name: Main
        offers:
          tail: {gives: tail, price: {shells: 10, pearls: 1}, stock: {units: 5, scope: shared, restock: {amount: 1, every: PT1H}}}
`);

test('what a till and a stock begin with, get back, take in, give and have no room for is in the ledger, step by step', () => {
  let player = playerWith(economy, { shells: 100, pearls: 20 });
  let shared = UNTOUCHED;
  const told: string[] = [];
  const opening = new Map([['player:profile', holdingsOf(economy, player, shared).get('player:profile')!]]);
  const movements: Movement[] = [...opening.get('player:profile')!].flatMap(([asset, units]) =>
    units > 0 ? [{ asset, units, from: 'world:test' as const, to: 'player:profile' as const, cause: 'test' }] : [],
  );
  const step = (act: 'buy' | 'sell', times: number, nowMs: number) => {
    const done =
      act === 'buy'
        ? purchaseApply(
            economy,
            player,
            shared,
            purchaseCheck(economy, player, shared, { offer: 'tail', times }, nowMs),
          )
        : ACTS.sell.apply(
            economy,
            player,
            shared,
            ACTS.sell.check(economy, player, shared, { item: 'tail', times, shop: 'stall' }, nowMs),
          );
    player = done.player;
    shared = sharedWith(shared, done.shared);
    movements.push(...done.movements);
    told.push(done.movements.map(({ asset, units, from, to }) => `${units} ${asset} ${from} > ${to}`).join(', '));
    expect(ledgerVerify(movements, holdingsOf(economy, player, shared))).toEqual([]);
  };
  step('buy', 3, NOW);
  step('buy', 1, NOW + 2 * HOUR);
  step('sell', 2, NOW + 2 * HOUR);
  step('sell', 1, NOW + 3 * HOUR);
  step('buy', 1, NOW + 20 * HOUR);
  expect(told).toEqual([
    // The till has room for 15 of the 30: it is full to the ceiling.
    `${MAX_UNITS - 15} shells world:till > till:stall, 15 shells till:stall > world:over-cap, 30 shells player:profile > till:stall, 3 pearls player:profile > shop:stall, 5 offer:tail world:stock > stock:tail, 3 offer:tail stock:tail > world:sold, 3 tail shop:stall > player:profile`,
    '10 shells till:stall > world:over-cap, 10 shells player:profile > till:stall, 1 pearls player:profile > shop:stall, 2 offer:tail world:restock > stock:tail, 1 offer:tail stock:tail > world:sold, 1 tail shop:stall > player:profile',
    '2 tail player:profile > shop:stall, 2 offer:tail world:sold > stock:tail, 20 shells till:stall > player:profile',
    '4 shells world:refill > till:stall, 1 tail player:profile > shop:stall, 1 offer:tail world:sold > stock:tail, 10 shells till:stall > player:profile',
    '11 shells world:refill > till:stall, 10 shells player:profile > till:stall, 1 pearls player:profile > shop:stall, 1 offer:tail stock:tail > world:sold, 1 tail shop:stall > player:profile',
  ]);
  expect(playerHolds(economy, player, 'tail')).toBe(2);
});

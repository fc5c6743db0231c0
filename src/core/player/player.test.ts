import fc from 'fast-check';
import { HOUR, NOW, economyOf, playerWith } from '../../../tests/support/economy.js';
import { ledgerBalances, ledgerVerify, worldAccount } from '../ledger/index.js';
import { playerCreate, playerHolds, playerPay, playerReceive, playerScope, playerSettle } from './index.js';
import type { Player } from './index.js';

const economy = economyOf(`
attributes: {level: {start: 1}}
currencies:
  shells: {name: Shells, start: 60, cap: 100}
  pearls: {name: Pearls, decimals: 2}
  breeze: {name: Breeze, start: 2, refill: {amount: 1, every: PT1H, upTo: 4}}
items:
  frame: {name: Frame, kind: durable, carry: 1}
  wax: {name: Wax, kind: consumable, carry: 12, stack: 5}
  kit: {name: Kit, kind: bundle, gives: {frame: 1, wax: 2, shells: 10}}
  chest: {name: Chest, kind: bundle, gives: {kit: 2}}
`);
const giver = worldAccount('test');
const receive = (player: Player, basket: Record<string, number>) =>
  playerReceive(economy, player, basket, giver, 'test:gift', NOW);

test('a new player has the start balances, and movements that say where they came from', () => {
  const { player, movements } = playerCreate(economy, 'ines', 'Inês', NOW);
  expect(playerHolds(economy, player, 'shells')).toBe(60);
  expect(player.attributes).toEqual({ level: 1 });
  expect(movements.map(({ asset, units, cause }) => [asset, units, cause])).toEqual([
    ['shells', 60, 'start:new_player'],
    ['breeze', 2, 'start:new_player'],
  ]);
});

const whole = { usesLeft: null, expiresMs: null, paid: null };

test('units are summed over all stacks in all places', () => {
  const player: Player = {
    ...playerWith(economy, {}),
    stacks: [
      { slot: 1, item: 'wax', units: 2, place: 'bag', cause: 'a', ...whole },
      { slot: 2, item: 'wax', units: 3, place: 'stash', cause: 'b', ...whole },
      { slot: 3, item: 'wax', units: 1, place: 'worn', cause: 'a', ...whole },
    ],
  };
  expect(playerHolds(economy, player, 'wax')).toBe(6);
  const paid = playerPay(economy, player, { wax: 4 }, giver, 'test:pay', NOW);
  expect(paid.player.stacks).toEqual([
    { slot: 2, item: 'wax', units: 1, place: 'stash', cause: 'b', ...whole },
    player.stacks[2],
  ]);
});

test('the last unit paid removes the entry', () => {
  const player = playerWith(economy, { frame: 1 });
  expect(playerPay(economy, player, { frame: 1 }, giver, 'test:pay', NOW).player.stacks).toEqual([]);
});

test('things fill stacks up to their size before a new slot is opened', () => {
  const once = receive(playerWith(economy, {}), { wax: 7 }).player;
  expect(once.stacks.map(({ units }) => units)).toEqual([5, 2]);
  expect(receive(once, { wax: 4 }).player.stacks.map(({ units }) => units)).toEqual([5, 5, 1]);
});

test('what passes a cap or carry is dropped, and the ledger says so', () => {
  const { player, given, dropped, movements } = receive(playerWith(economy, { shells: 90, wax: 10 }), {
    shells: 30,
    wax: 5,
  });
  expect(given).toEqual({ shells: 10, wax: 2 });
  expect(dropped).toEqual({ shells: 20, wax: 3 });
  expect(playerHolds(economy, player, 'shells')).toBe(100);
  expect(movements).toContainEqual({
    asset: 'shells',
    units: 20,
    from: 'player:profile',
    to: 'world:over-cap',
    cause: 'test:gift',
  });
  expect(ledgerBalances(movements).get('player:profile')).toEqual(
    new Map([
      ['shells', 10n],
      ['wax', 2n],
    ]),
  );
});

test('a currency that refuses what passes its cap takes all of it or nothing', () => {
  const strict = economyOf('currencies: {tickets: {name: Tickets, cap: 10, overCap: refuse}}');
  const arrive = (units: number) =>
    playerReceive(strict, playerWith(strict, { tickets: 7 }), { tickets: units }, giver, 'test:gift', NOW);
  expect(arrive(3)).toMatchObject({ given: { tickets: 3 }, dropped: {} });
  const refused = arrive(4);
  expect(refused).toMatchObject({ given: {}, dropped: { tickets: 4 } });
  expect(playerHolds(strict, refused.player, 'tickets')).toBe(7);
});

test('bundles unpack on arrival, however deep, and leave nothing of themselves', () => {
  const { given, dropped, movements } = receive(playerWith(economy, {}), { chest: 1 });
  expect(given).toEqual({ frame: 1, wax: 4, shells: 20 });
  expect(dropped).toEqual({ frame: 1 });
  const player = ledgerBalances(movements).get('player:profile')!;
  expect([player.get('chest'), player.get('frame'), player.get('wax')]).toEqual([0n, 1n, 4n]);
});

test('paying more than there is is a bug, never a balance below zero', () => {
  expect(() => playerPay(economy, playerWith(economy, { shells: 5 }), { shells: 6 }, giver, 'test:pay', NOW)).toThrow(
    /holds less/,
  );
});

test('refills settle when asked, with a movement for what came', () => {
  const { player } = playerCreate(economy, 'ines', 'Inês', NOW);
  const settled = playerSettle(economy, player, NOW + 5 * HOUR);
  expect(playerHolds(economy, settled.player, 'breeze')).toBe(4);
  expect(settled.movements).toEqual([
    { asset: 'breeze', units: 2, from: 'world:refill', to: 'player:ines', cause: 'refill:breeze' },
  ]);
  expect(playerSettle(economy, settled.player, NOW + 9 * HOUR).movements).toEqual([]);
});

test('a currency that a release adds later begins at nothing and refills', () => {
  const old: Player = { ...playerCreate(economy, 'ines', 'Inês', NOW).player, balances: {} };
  const { player } = playerSettle(economy, old, NOW);
  expect(playerHolds(economy, player, 'breeze')).toBe(0);
  expect(playerHolds(economy, playerSettle(economy, player, NOW + HOUR).player, 'breeze')).toBe(1);
});

test('formulas see balances as people write them, and days by the calendar', () => {
  const scope = playerScope(economy, playerWith(economy, { pearls: 250, wax: 3 }), NOW + 16 * HOUR);
  expect([scope.balance('pearls'), scope.owned('wax'), scope.name('day'), scope.name('level')]).toEqual([2.5, 3, 1, 1]);
});

test('whatever is given and taken, every holding is the sum of its movements', () => {
  const step = fc.record({
    give: fc.boolean(),
    asset: fc.constantFrom('shells', 'pearls', 'frame', 'wax', 'kit', 'chest', 'breeze'),
    units: fc.integer({ min: 1, max: 40 }),
  });
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
      let { player, movements } = playerCreate(economy, 'ines', 'Inês', NOW);
      for (const [index, { give, asset, units }] of steps.entries()) {
        const settled = playerSettle(economy, player, NOW + index * HOUR);
        const most = playerHolds(economy, settled.player, asset);
        const changed = give
          ? playerReceive(economy, settled.player, { [asset]: units }, giver, 'test:gift', NOW + index * HOUR)
          : playerPay(
              economy,
              settled.player,
              { [asset]: Math.min(units, most) },
              giver,
              'test:pay',
              NOW + index * HOUR,
            );
        movements = [...movements, ...settled.movements, ...changed.movements];
        player = changed.player;
      }
      const held = new Map(
        [...economy.currencies.keys(), ...economy.items.keys()].map((asset) => [
          asset,
          playerHolds(economy, player, asset),
        ]),
      );
      expect(ledgerVerify(movements, new Map([['player:ines', held]]))).toEqual([]);
      for (const sums of [...ledgerBalances(movements).values()].flatMap((assets) => [...assets]))
        expect(Number.isSafeInteger(Number(sums[1]))).toBe(true);
    }),
  );
});

test('a holding that its movements do not explain is a fault', () => {
  const { movements } = playerCreate(economy, 'ines', 'Inês', NOW);
  expect(
    ledgerVerify(
      movements,
      new Map([
        [
          'player:ines',
          new Map([
            ['shells', 61],
            ['breeze', 2],
          ]),
        ],
      ]),
    ),
  ).toEqual([
    {
      account: 'player:ines',
      asset: 'shells',
      held: 61n,
      moved: 60n,
      message: 'player:ines holds 61 shells; its movements sum to 60',
    },
  ]);
});

/** What time does is done in the order of time: it never matters when or how often a player acts. */
import fc from 'fast-check';
import { DAY, HOUR, NOW, economyOf, playerWith } from '../../../tests/support/economy.js';
import { ledgerBalances, playerAccount, worldAccount } from '../ledger/index.js';
import { playerCreate, playerHolds, playerPay, playerReceive, playerSettle, yieldTake } from './index.js';
import type { Player } from './index.js';

const economy = economyOf(`
currencies:
  coins: {name: Coins, cap: 60}
  breeze: {name: Breeze, start: 2, refill: {amount: 2, every: PT5H, upTo: 9}}
  tokens: {name: Tokens, ends: {at: "2027-03-04T12:00", into: coins, rate: 0.5}}
  gusts: {name: Gusts, refill: {amount: 3, every: PT7H, upTo: 40}, ends: {at: "2027-03-03T10:30", into: breeze, rate: 0.25}}
  tickets: {name: Tickets, cap: 10, overCap: refuse}
  stubs: {name: Stubs, ends: {at: "2027-03-02T09:00", into: tickets, rate: 1}}
items:
  lamp: {name: Lamp, kind: timed, lasts: P2D, yields: {gives: {coins: 1}, every: PT1H, upTo: 200}}
  vane: {name: Vane, kind: durable, yields: {gives: {coins: 2}, every: PT3H, upTo: 4}}
  pass: {name: Pass, kind: timed, lasts: PT30H, carry: 3}
`);
const giver = worldAccount('test');
const give = (player: Player, basket: Record<string, number>, atMs: number) =>
  playerReceive(economy, playerSettle(economy, player, atMs).player, basket, giver, 'test:gift', atMs).player;

test('a thing that has expired yields no more, whenever it is collected', () => {
  const player = give(playerWith(economy, {}), { lamp: 1 }, NOW);
  for (const days of [2, 3, 10]) {
    const settled = playerSettle(economy, player, NOW + days * DAY).player;
    expect(yieldTake(economy, settled, economy.items.get('lamp')!, NOW + days * DAY).times).toBe(48);
  }
});

test('a conversion into a currency that refuses above its cap gives what fits, and the ledger tells the rest', () => {
  const player = playerWith(economy, { tickets: 7, stubs: 5 });
  const { player: after, movements } = playerSettle(economy, player, NOW + 2 * DAY);
  expect([playerHolds(economy, after, 'tickets'), playerHolds(economy, after, 'stubs')]).toEqual([10, 0]);
  const told = movements.filter(({ asset }) => asset === 'stubs' || asset === 'tickets');
  expect(told.map(({ asset, units, to }) => [asset, units, to])).toEqual([
    ['stubs', 5, 'world:ended'],
    ['tickets', 5, 'player:profile'],
    ['tickets', 2, 'world:over-cap'],
  ]);
  const huge = {
    ...player,
    balances: { ...player.balances, stubs: { units: Number.MAX_SAFE_INTEGER, sinceMs: null } },
  };
  expect(playerHolds(economy, playerSettle(economy, huge, NOW + 2 * DAY).player, 'tickets')).toBe(10);
});

test('what a currency that ended brings counts from the instant at which it ended', () => {
  // Four gusts are one breeze at 10:30 on the third, which brings breeze to what stops its refill.
  const start = { ...playerWith(economy, { gusts: 40, breeze: 8 }) };
  const late = playerSettle(economy, start, NOW + 9 * DAY).player;
  const early = playerSettle(
    economy,
    playerSettle(economy, start, NOW + 2 * DAY + 2 * HOUR).player,
    NOW + 9 * DAY,
  ).player;
  expect(late.balances).toEqual(early.balances);
  expect(late.balances['gusts']).toEqual({ units: 0, sinceMs: null });
});

test('to settle often is to settle once: holdings, yields and the ledger are the same', () => {
  const deed = fc.record({
    afterHours: fc.integer({ min: 0, max: 40 }),
    asset: fc.constantFrom('lamp', 'vane', 'pass', 'tokens', 'gusts', 'breeze', 'stubs', 'coins'),
    units: fc.integer({ min: 1, max: 3 }),
    gives: fc.boolean(),
  });
  const looks = fc.array(fc.integer({ min: 0, max: 9 * 24 * 60 }), { maxLength: 12 });
  fc.assert(
    fc.property(fc.array(deed, { maxLength: 8 }), looks, (deeds, minutes) => {
      const first = playerCreate(economy, 'ines', 'Inês', NOW);
      const endMs = NOW + 9 * DAY;
      const played = (looking: readonly number[]) => {
        let { player, movements } = first;
        let nowMs = NOW;
        const settle = (toMs: number) => {
          for (const lookMs of [...looking.filter((ms) => ms > nowMs && ms < toMs), toMs]) {
            const settled = playerSettle(economy, player, lookMs);
            player = settled.player;
            movements = [...movements, ...settled.movements];
          }
          nowMs = toMs;
        };
        for (const { afterHours, asset, units, gives } of deeds) {
          settle(nowMs + afterHours * HOUR);
          const changed = gives
            ? playerReceive(economy, player, { [asset]: units }, giver, 'test:gift', nowMs)
            : playerPay(
                economy,
                player,
                { [asset]: Math.min(units, playerHolds(economy, player, asset)) },
                giver,
                'test:pay',
                nowMs,
              );
          player = changed.player;
          movements = [...movements, ...changed.movements];
        }
        settle(Math.max(nowMs, endMs));
        const yielded = ['lamp', 'vane'].map((id) => yieldTake(economy, player, economy.items.get(id)!, nowMs));
        return {
          balances: player.balances,
          stacks: player.stacks,
          yielded: yielded.map(({ times, player: { counters } }) => [times, counters]),
          ledger: ledgerBalances(movements).get(playerAccount('ines')),
        };
      };
      const often = minutes.map((minute) => NOW + minute * 60_000).sort((a, b) => a - b);
      expect(played(often)).toEqual(played([]));
    }),
    { numRuns: 400, seed: 31 },
  );
});

test('what expires soonest is paid first', () => {
  const player = give(give(playerWith(economy, {}), { pass: 1 }, NOW), { pass: 1 }, NOW - HOUR);
  const paid = playerPay(economy, player, { pass: 1 }, giver, 'test:pay', NOW);
  expect(paid.player.stacks.map(({ expiresMs }) => expiresMs)).toEqual([NOW + 30 * HOUR]);
});

import fc from 'fast-check';
import { economyOf, playerWith } from '../../../tests/support/economy.js';
import { MAX_UNITS, fractionOf } from '../amount/index.js';
import { teamPay, teamReceive, teamShare } from './index.js';
import type { Team } from './index.js';

const economy = economyOf(`
currencies: {shells: {name: Shells}, pearls: {name: Pearls, decimals: 2}}
items: {tail: {name: Tail, kind: durable, worth: {shells: 1}}}
teams: {crew: {name: Crew, most: 5}, side: {name: Side, most: 5}}
`);
const team = (kind: string, holdings = {}): Team => ({
  id: `${kind}_1`,
  kind,
  name: kind,
  startedMs: 0,
  holdings,
  counters: {},
});
const member = (...teams: Team[]) => ({
  ...playerWith(economy, {}),
  teams: Object.fromEntries(teams.map((one) => [one.kind, one])),
});

test('what is shared and what is left are all that there was; each part is the exact one, rounded down', () => {
  const units = fc.oneof(fc.nat(100), fc.nat(MAX_UNITS));
  fc.assert(
    fc.property(units, units, fc.nat(100), fc.nat(100), (shells, tail, crew, side) => {
      // Hundredths, of which both together are one at most.
      const parts = [crew, Math.min(side, 100 - crew)] as const;
      const share = new Map([
        ['crew', fractionOf(parts[0] / 100)],
        ['side', fractionOf(parts[1] / 100)],
      ]);
      const before = member(team('crew'), team('side'));
      const { own, shared, player, movements } = teamShare(economy, before, share, { shells, tail }, 'world:a', 'a:b');
      const got = ['crew_1', 'side_1'].map((id) => shared[id]?.['shells'] ?? 0);
      expect(got).toEqual(parts.map((part) => Number((BigInt(shells) * BigInt(part)) / 100n)));
      expect(BigInt(own['shells']!) + BigInt(got[0]!) + BigInt(got[1]!)).toBe(BigInt(shells));
      expect([own['tail'], own['shells']! >= 0]).toEqual([tail, true]);
      expect(Object.values(player.teams).map(({ holdings }) => holdings['shells'] ?? 0)).toEqual(got);
      expect(movements.map(({ to, units: moved }) => [to, moved])).toEqual(
        ['crew_1', 'side_1'].flatMap((id, at) => (got[at]! > 0 ? [[`team:${id}`, got[at]]] : [])),
      );
      // Who is in no such team keeps it all.
      expect(teamShare(economy, member(), share, { shells, tail }, 'world:a', 'a:b').own).toEqual({ shells, tail });
    }),
    { numRuns: 500, seed: 15 },
  );
});

test('the ceiling of an amount is not passed, and nothing is taken that is not there', () => {
  const full = team('crew', { shells: MAX_UNITS - 3 });
  expect(teamReceive(full, { shells: 5, tail: 1 }, 'world:a', 'a:b')).toMatchObject({
    given: { shells: 3, tail: 1 },
    dropped: { shells: 2 },
    team: { holdings: { shells: MAX_UNITS, tail: 1 } },
  });
  expect(teamReceive(team('crew', { shells: MAX_UNITS }), { shells: 1 }, 'world:a', 'a:b')).toMatchObject({
    given: {},
    dropped: { shells: 1 },
    movements: [],
  });
  expect(teamPay(team('crew', { shells: 3 }), { shells: 5, tail: 1 }, 'world:a', 'a:b')).toMatchObject({
    taken: { shells: 3 },
    missed: { shells: 2, tail: 1 },
    team: { holdings: { shells: 0 } },
  });
  // What does not fit into the team stays with the player, and is nobody's loss.
  const share = new Map([['crew', fractionOf(0.5)]]);
  expect(teamShare(economy, member(full), share, { shells: 100 }, 'world:a', 'a:b')).toMatchObject({
    own: { shells: 97 },
    shared: { crew_1: { shells: 3 } },
  });
});

import { NOW, economyOf, playerWith } from '../../../tests/support/economy.js';
import { playerHolds } from '../player/index.js';
import type { Player } from '../player/index.js';
import { UNTOUCHED, purchaseApply, purchaseCheck } from '../trade/index.js';
import type { Offer, Persona } from '../economy/index.js';
import { POLICIES, byChecking, verdictAnswer, waysToPay } from './policy.js';
import type { VerdictAnswer } from './policy.js';

const economy = economyOf(`
currencies: {shells: {name: Shells}, pearls: {name: Pearls}}
items:
  frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 100}}
  sail: {name: Sail, kind: durable, carry: 1, worth: {shells: 50}}
  wax: {name: Wax, kind: consumable, worth: {shells: 5}}
shops:
  stall: {name: Stall, shelves: {m: {name: M, offers: {frame: {gives: frame}, frame_pearls: {gives: frame, price: {pearls: 10}}, sail: {gives: sail}, wax: {gives: wax}}}}}
`);

/** One visit of a player with a policy: what was bought, in order, and what was wanted and refused. */
function visit(
  policy: keyof typeof POLICIES,
  holds: Record<string, number>,
  parameters: Partial<Persona['spending']>,
  options: { luck?: number; income?: number } = {},
) {
  let player: Player = playerWith(economy, holds);
  const bought: string[] = [];
  const refused: string[] = [];
  const keeps = parameters.keeps ?? {};
  const check = (offer: Offer, pay: string): VerdictAnswer =>
    verdictAnswer(purchaseCheck(economy, player, UNTOUCHED, { offer: offer.id, pay }, NOW), keeps);
  POLICIES[policy]<Offer, string, VerdictAnswer, string>({
    wishes: parameters.wishes ?? [],
    delayDays: parameters.delayDays ?? 0,
    holds: (item) => playerHolds(economy, player, item),
    giving: (item) => [...economy.offers.values()].filter(({ gives }) => gives.some(({ asset }) => asset === item)),
    ...byChecking({
      offers: [...economy.offers.values()],
      chance: parameters.chance ?? 1,
      luck: () => options.luck ?? 0,
      ways: waysToPay,
      check,
    }),
    buy: ({ verdict }) => {
      player = purchaseApply(economy, player, UNTOUCHED, verdict).player;
      bought.push(verdict.offer);
      return true;
    },
    refused: ({ verdict }) => refused.push(verdict.offer),
    incomePerDay: () => options.income ?? 10,
  });
  return { bought, refused, left: playerHolds(economy, player, 'shells') };
}

describe('wishlist', () => {
  test('it buys wish after wish while the wallet lasts, and then saves', () => {
    expect(visit('wishlist', { shells: 160 }, { wishes: ['frame', 'sail'], chance: 0 })).toEqual({
      bought: ['frame', 'sail'],
      refused: [],
      left: 10,
    });
    expect(visit('wishlist', { shells: 120 }, { wishes: ['frame', 'sail'], chance: 0 })).toEqual({
      bought: ['frame'],
      refused: ['sail'],
      left: 20,
    });
  });

  test('it takes the way to pay that it can afford', () => {
    expect(visit('wishlist', { shells: 20, pearls: 10 }, { wishes: ['frame'], chance: 0 }).bought).toEqual([
      'frame_pearls',
    ]);
  });

  test('while it saves, it buys nothing that delays the wish by more than it may', () => {
    const saving = (delayDays: number, income: number) =>
      visit('wishlist', { shells: 60 }, { wishes: ['frame'], delayDays }, { income }).bought;
    expect(saving(0, 10)).toEqual([]);
    expect(saving(0.5, 10)).toEqual(['wax']);
    expect(saving(0.5, 9)).toEqual([]);
    expect(saving(5, 10)).toEqual(['wax', 'sail']);
  });

  test('what it owns already is no wish any more', () => {
    expect(visit('wishlist', { shells: 50, frame: 1 }, { wishes: ['frame', 'sail'], chance: 0 }).bought).toEqual([
      'sail',
    ]);
  });

  test('a reserve is not touched, not even for a wish', () => {
    expect(visit('wishlist', { shells: 109 }, { wishes: ['frame'], keeps: { shells: 10 }, chance: 0 })).toMatchObject({
      bought: [],
      left: 109,
    });
    expect(visit('wishlist', { shells: 110 }, { wishes: ['frame'], keeps: { shells: 10 }, chance: 0 })).toMatchObject({
      bought: ['frame'],
      left: 10,
    });
  });
});

describe('impulse', () => {
  test('cheapest first, while luck says so and the wallet lasts', () => {
    expect(visit('impulse', { shells: 160 }, {})).toEqual({ bought: ['wax', 'sail', 'frame'], refused: [], left: 5 });
    expect(visit('impulse', { shells: 154 }, {}).bought).toEqual(['wax', 'sail']);
  });

  test('luck at the chance or above it buys nothing', () => {
    expect(visit('impulse', { shells: 160 }, { chance: 0.5 }, { luck: 0.5 }).bought).toEqual([]);
    expect(visit('impulse', { shells: 160 }, { chance: 0.5 }, { luck: 0.49 }).bought).toHaveLength(3);
  });
});

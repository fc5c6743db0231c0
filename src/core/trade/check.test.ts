import { DAY, HOUR, MINUTE, NOW, demoEconomy, economyOf, playerWith } from '../../../tests/support/economy.js';
import { playerHolds } from '../player/index.js';
import type { Player } from '../player/index.js';
import { ACTS, MAX_TIMES, REASON_CODES, UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from './index.js';
import { reasonSentence } from '../texts/index.js';
import type { PurchaseRequest, Reason, Shared } from './index.js';

const economy = economyOf(`
attributes: {level: {start: 1}}
currencies:
  shells: {name: Shells}
  pearls: {name: Pearls, decimals: 2, rounding: up}
  tickets: {name: Tickets, cap: 10, overCap: refuse}
  clipped: {name: Clipped, cap: 10, overCap: clip}
  breeze: {name: Breeze, refill: {amount: 1, every: PT20M, upTo: 8}}
items:
  frame: {name: Frame, kind: durable, carry: 1, worth: {shells: 100}}
  wax: {name: Wax, kind: consumable, carry: 30, stack: 5}
  chime: {name: Chime, kind: durable, carry: 50}
  kit: {name: Kit, kind: bundle, gives: {frame: 1, wax: 3}}
shops:
  stall:
    name: Stall
    shelves:
      main:
        name: Main
        offers:
          frame: {gives: frame}
          two_frames: {gives: frame, count: 2, price: free}
          wax: {gives: wax, price: {shells: 3}}
          either: {gives: wax, price: [{shells: 10}, {pearls: 0.5}]}
          with_wax: {gives: chime, price: {wax: 7}}
          swap_wax: {gives: {wax: 4}, price: {wax: 2}}
          chime: {gives: chime, price: {shells: "=40 * 1.15 ^ owned(chime)"}}
          bought: {gives: wax, price: {shells: "=10 + bought(bought)"}}
          sinking: {gives: wax, price: {shells: "=max(0, 3 - bought(sinking))"}}
          nothing: {gives: wax, price: {shells: 0}}
          rounded: {gives: wax, price: {pearls: "=0.333"}}
          kit: {gives: kit, price: {shells: 50}}
          tickets: {gives: {tickets: 4}, price: {shells: 1}}
          clipped: {gives: {clipped: 4}, price: {shells: 1}}
          breeze_trade: {gives: wax, price: {breeze: 6}}
          levelled: {gives: wax, price: {shells: 1}, when: "=level >= 3"}
          daily: {gives: wax, price: {shells: 1}, limits: {day: 3, lifetime: 5}}
          stocked: {gives: wax, price: {shells: 1}, stock: {units: 3, restock: {amount: 1, every: PT2H}}}
          mine: {gives: wax, price: {shells: 1}, stock: {units: 2, scope: player}}
          later: {gives: wax, price: {shells: 1}, from: "2027-03-02T09:00", until: "2027-03-03T09:00"}
          gone: {gives: wax, price: {shells: 1}, hidden: true}
          priceless: {gives: chime}
          broken: {gives: wax, price: {shells: "=5 - 10 * level"}}
          for_money: {gives: wax, price: {money: {EUR: 0.99}}}
          pearls: {gives: {pearls: 2.50}, price: {shells: 1}}
          hollow: {gives: {wax: "=level - 1"}, price: {shells: 1}}
          huge: {gives: wax, price: {shells: 9007199254740991}}
      hidden: {name: Hidden, hidden: true, offers: {shelved: {gives: wax, price: {shells: 1}}}}
  club: {name: Club, when: "=level >= 5", shelves: {main: {name: Main, offers: {club: {gives: wax, price: {shells: 1}}}}}}
  closed: {name: Closed, from: "2027-04-01", shelves: {main: {name: Main, offers: {closed: {gives: wax, price: {shells: 1}}}}}}
`);

const check = (
  holds: Record<string, number>,
  request: PurchaseRequest,
  more: { nowMs?: number; level?: number; shared?: Shared } = {},
) =>
  purchaseCheck(
    economy,
    playerWith(economy, holds, { level: more.level ?? 1 }),
    more.shared ?? UNTOUCHED,
    request,
    more.nowMs ?? NOW,
  );
const codes = (...args: Parameters<typeof check>) => check(...args).reasons.map(({ code }) => code);

/** Buys `times` and gives the player after, and the stock that all share. */
function buy(player: Player, request: PurchaseRequest, shared: Shared = UNTOUCHED, nowMs = NOW) {
  const bought = purchaseApply(economy, player, shared, purchaseCheck(economy, player, shared, request, nowMs));
  return { player: bought.player, shared: sharedWith(shared, bought.shared) };
}

describe('exactly enough is enough', () => {
  test('a balance that equals the price buys and ends at exactly 0', () => {
    const verdict = check({ shells: 100 }, { offer: 'frame' });
    expect(verdict).toMatchObject({
      allowed: true,
      reasons: [],
      price: { total: { shells: 100 } },
      before: { shells: 100, frame: 0 },
      after: { shells: 0, frame: 1 },
    });
  });

  test('one unit short is refused, with the numbers', () => {
    expect(check({ shells: 99 }, { offer: 'frame' })).toMatchObject({
      allowed: false,
      reasons: [{ code: 'short-of', asset: 'shells', needed: 100, held: 99, short: 1, refilledMs: null }],
    });
  });

  test('the means of payment may lie in several stacks', () => {
    const player = playerWith(economy, { wax: 7 });
    expect(player.stacks).toHaveLength(2);
    expect(purchaseCheck(economy, player, UNTOUCHED, { offer: 'with_wax' }, NOW).allowed).toBe(true);
    expect(codes({ wax: 6 }, { offer: 'with_wax' })).toEqual(['short-of']);
  });

  test('the last unit of a limit, of stock and of carry can be had', () => {
    expect(codes({ shells: 9 }, { offer: 'daily', times: 3 })).toEqual([]);
    expect(codes({ shells: 9 }, { offer: 'daily', times: 4 })).toEqual(['limit-reached']);
    expect(codes({ shells: 9 }, { offer: 'stocked', times: 3 })).toEqual([]);
    expect(codes({ shells: 9 }, { offer: 'stocked', times: 4 })).toEqual(['out-of-stock']);
    expect(codes({ shells: 3, wax: 29 }, { offer: 'wax' })).toEqual([]);
    expect(codes({ shells: 3, wax: 30 }, { offer: 'wax' })).toEqual(['carry-full']);
  });

  test('a window holds its first instant and not its last', () => {
    const from = NOW + DAY;
    expect(codes({ shells: 1 }, { offer: 'later' }, { nowMs: from - 1 })).toEqual(['not-on-show']);
    expect(codes({ shells: 1 }, { offer: 'later' }, { nowMs: from })).toEqual([]);
    expect(codes({ shells: 1 }, { offer: 'later' }, { nowMs: from + DAY - 1 })).toEqual([]);
    expect(codes({ shells: 1 }, { offer: 'later' }, { nowMs: from + DAY })).toEqual(['not-on-show']);
  });
});

/** One case for each code that the present parts can cause; the list is compared with the codes there are. */
const CASES: Partial<Record<Reason['code'], [Record<string, number>, PurchaseRequest, object?]>> = {
  'unknown-offer': [{}, { offer: 'frme' }],
  'shop-closed': [{ shells: 1 }, { offer: 'closed' }],
  'not-for-this-player': [{ shells: 1 }, { offer: 'club' }],
  'not-on-show': [{ shells: 1 }, { offer: 'gone' }],
  'no-price': [{ shells: 1 }, { offer: 'priceless' }],
  'zero-price': [{ shells: 1 }, { offer: 'sinking', times: 4 }],
  'gives-nothing': [{ shells: 1 }, { offer: 'hollow' }],
  'bad-formula': [{ shells: 1 }, { offer: 'broken' }],
  'requirement-unmet': [{ shells: 1 }, { offer: 'levelled' }],
  'short-of': [{ shells: 2 }, { offer: 'wax' }],
  'limit-reached': [{ shells: 9 }, { offer: 'daily', times: 4 }],
  'out-of-stock': [{ shells: 9 }, { offer: 'mine', times: 3 }],
  'carry-full': [{ shells: 100, frame: 1 }, { offer: 'frame' }],
  'over-cap': [{ shells: 1, tickets: 7 }, { offer: 'tickets' }],
  'price-changed': [{ shells: 100 }, { offer: 'frame', expect: { shells: 90 } }],
  'pay-choice-needed': [{ shells: 10 }, { offer: 'either' }],
  'receipt-needed': [{ shells: 1 }, { offer: 'for_money' }],
  'too-large': [{ shells: 3 }, { offer: 'wax', times: MAX_TIMES + 1 }],
};

test('there is a case for every code that a purchase can be refused with', () => {
  const purchases = REASON_CODES.slice(0, REASON_CODES.indexOf('too-large') + 1);
  expect(Object.keys(CASES).sort()).toEqual([...purchases].sort());
});

test.each(Object.entries(CASES))('%s is the one reason, with a sentence', (code, [holds, request, more]) => {
  const { reasons, allowed } = check(holds, request, more);
  expect(allowed).toBe(false);
  expect(reasons.map((reason) => reason.code)).toEqual([code]);
  const sentence = reasonSentence(economy, reasons[0]!);
  expect(sentence).toMatch(/^[A-Z0-9].*[.?]$/);
  expect(sentence).not.toMatch(/undefined|NaN|\[object/);
});

test('sentences say the numbers, the inputs and when', () => {
  const say = (...args: Parameters<typeof check>) =>
    check(...args).reasons.map((reason) => reasonSentence(economy, reason));
  expect(say({ shells: 99 }, { offer: 'frame' })).toEqual(['Shells: short by 1. It costs 100 and the player has 99.']);
  expect(say({ pearls: 25 }, { offer: 'either', pay: 'pearls' })).toEqual([
    'Pearls: short by 0.25. It costs 0.50 and the player has 0.25.',
  ]);
  expect(say({ shells: 1 }, { offer: 'levelled' })).toEqual(['It needs level >= 3 (level is 1).']);
  expect(say({ breeze: 4 }, { offer: 'breeze_trade' })).toEqual([
    'Breeze: short by 2. It costs 6 and the player has 4. There will be enough at 2027-03-01 09:40 WET.',
  ]);
  expect(say({ shells: 1 }, { offer: 'later' })).toEqual(['It is not on show before 2027-03-02 09:00 WET.']);
  expect(say({}, { offer: 'frme' })).toEqual(['There is no offer "frme". Did you mean "frame"?']);
});

test('all reasons are told, not the first', () => {
  expect(codes({ frame: 1 }, { offer: 'frame', expect: { shells: 1 } })).toEqual([
    'short-of',
    'carry-full',
    'price-changed',
  ]);
  expect(codes({}, { offer: 'club', times: MAX_TIMES + 1 })).toEqual(['not-for-this-player', 'too-large', 'short-of']);
});

test.each([0, -1, 1.5, NaN, Infinity, MAX_TIMES + 1])('%d times is not possible', (times) => {
  expect(codes({ shells: 1e6 }, { offer: 'wax', times })).toContain('too-large');
});

test('a total past the ceiling is too large, not wrapped', () => {
  expect(codes({ shells: Number.MAX_SAFE_INTEGER }, { offer: 'huge' })).toEqual([]);
  const { reasons } = check({ shells: Number.MAX_SAFE_INTEGER }, { offer: 'huge', times: 2 });
  expect(reasons).toEqual([
    { code: 'too-large', times: 2, most: MAX_TIMES, over: { shells: Number.MAX_SAFE_INTEGER } },
  ]);
});

test('what would pass the ceiling is named with by how much, exactly', () => {
  const [reason] = check({ shells: 10, pearls: Number.MAX_SAFE_INTEGER - 249 }, { offer: 'pearls' }).reasons;
  expect(reason).toMatchObject({ code: 'too-large', over: { pearls: 1 } });
  expect(reasonSentence(economy, reason!)).toBe(
    'It would pass the most that any amount may be, 90071992547409.91 Pearls, by 0.01 Pearls.',
  );
  expect(codes({ shells: 10, pearls: Number.MAX_SAFE_INTEGER - 250 }, { offer: 'pearls' })).toEqual([]);
});

test('a missing price never makes an item free; a price that says free does', () => {
  expect(check({}, { offer: 'priceless' })).toMatchObject({ allowed: false, price: null });
  expect(check({}, { offer: 'two_frames' }).price).toMatchObject({ total: {} });
});

test('a price that comes to 0 is no gift, at whichever of the times it does', () => {
  expect(check({ shells: 6 }, { offer: 'sinking', times: 3 })).toMatchObject({
    allowed: true,
    price: { total: { shells: 6 } },
  });
  expect(check({ shells: 6 }, { offer: 'sinking', times: 4 }).reasons).toEqual([
    { code: 'zero-price', offer: 'sinking', time: 4 },
  ]);
  const { player } = buy(playerWith(economy, { shells: 6 }), { offer: 'sinking', times: 3 });
  expect(purchaseCheck(economy, player, UNTOUCHED, { offer: 'sinking' }, NOW)).toMatchObject({
    allowed: false,
    reasons: [{ code: 'zero-price', time: 1 }],
    price: null,
  });
  expect(codes({}, { offer: 'nothing' })).toEqual(['zero-price']);
});

test('a lower price than the one shown is charged and told; a higher one, or another asset, is refused', () => {
  const asked = (expect: Record<string, number>) => check({ shells: 100 }, { offer: 'frame', expect });
  expect(asked({ shells: 101 })).toMatchObject({
    allowed: true,
    price: { total: { shells: 100 }, expected: { shells: 101 } },
  });
  expect(asked({ shells: 100, pearls: 1 }).allowed).toBe(true);
  expect(asked({ shells: 100 }).price).not.toHaveProperty('expected');
  for (const shown of [{ shells: 99 }, { pearls: 500 }, {}] as Record<string, number>[])
    expect(asked(shown).reasons.map(({ code }) => code)).toEqual(['price-changed']);
});

describe('alternative prices', () => {
  test('each has its own total, and the chosen one is charged', () => {
    expect(check({ shells: 10, pearls: 50 }, { offer: 'either' }).choices).toEqual([
      { pay: 'shells', total: { shells: 10 } },
      { pay: 'pearls', total: { pearls: 50 } },
    ]);
    expect(check({ shells: 10, pearls: 50 }, { offer: 'either', pay: 'pearls' })).toMatchObject({
      allowed: true,
      after: { pearls: 0 },
    });
  });

  test('an alternative that is not there asks for a choice again', () => {
    expect(codes({ shells: 10 }, { offer: 'either', pay: 'gold' })).toEqual(['pay-choice-needed']);
  });
});

describe('formulas in prices', () => {
  test('buying several at once costs what one after the other costs', () => {
    for (const offer of ['chime', 'bought']) {
      const rich = playerWith(economy, { shells: 100_000, chime: 3 });
      const at_once = purchaseCheck(economy, rich, UNTOUCHED, { offer, times: 6 }, NOW);
      let player = rich;
      for (let time = 0; time < 6; time++) player = buy(player, { offer }).player;
      expect(at_once.price!.total['shells']).toBe(100_000 - playerHolds(economy, player, 'shells'));
    }
  });

  test('the breakdown says what the formula read', () => {
    expect(check({ shells: 100, chime: 2 }, { offer: 'chime' }).price).toEqual({
      pay: 'shells',
      base: { shells: 52 },
      total: { shells: 52 },
      inputs: [{ name: 'owned(chime)', value: 2 }],
    });
  });

  test("a result is rounded once, by the currency's own rounding", () => {
    expect(check({ pearls: 1000 }, { offer: 'rounded' }).price!.total).toEqual({ pearls: 34 });
    expect(check({ pearls: 1000 }, { offer: 'rounded', times: 3 }).price!.total).toEqual({ pearls: 102 });
  });
});

describe('giving and taking are one act', () => {
  test('what would not fit is refused, and takes nothing', () => {
    expect(codes({ shells: 50, frame: 1 }, { offer: 'kit' })).toEqual(['carry-full']);
    expect(codes({ shells: 1, clipped: 7 }, { offer: 'clipped' })).toEqual(['over-cap']);
    expect(() =>
      purchaseApply(
        economy,
        playerWith(economy, { shells: 50, frame: 1 }),
        UNTOUCHED,
        check({ shells: 50, frame: 1 }, { offer: 'kit' }),
      ),
    ).toThrow(/not allowed/);
  });

  test('what is paid makes room for what arrives', () => {
    expect(codes({ wax: 28 }, { offer: 'swap_wax' })).toEqual([]);
    expect(codes({ wax: 29 }, { offer: 'swap_wax' })).toEqual(['carry-full']);
  });

  test('an own-once item can be bought again after it was lost', () => {
    const owner = buy(playerWith(economy, { shells: 300 }), { offer: 'frame' }).player;
    expect(purchaseCheck(economy, owner, UNTOUCHED, { offer: 'frame' }, NOW).reasons.map(({ code }) => code)).toEqual([
      'carry-full',
    ]);
    expect(purchaseCheck(economy, { ...owner, stacks: [] }, UNTOUCHED, { offer: 'frame' }, NOW).allowed).toBe(true);
  });
});

describe('limits and stock over time', () => {
  test('each period counts on its own, and the verdict says what is left', () => {
    let player = playerWith(economy, { shells: 100 });
    player = buy(player, { offer: 'daily', times: 3 }).player;
    const today = purchaseCheck(economy, player, UNTOUCHED, { offer: 'daily' }, NOW);
    expect(today.reasons).toMatchObject([
      { code: 'limit-reached', period: 'day', most: 3, left: 0, resetsMs: Date.UTC(2027, 2, 2) },
    ]);
    player = buy(player, { offer: 'daily', times: 2 }, UNTOUCHED, NOW + DAY).player;
    const tomorrow = purchaseCheck(economy, player, UNTOUCHED, { offer: 'daily' }, NOW + DAY);
    expect(tomorrow.limits.map(({ period, used, left }) => [period, used, left])).toEqual([
      ['day', 2, 1],
      ['lifetime', 5, 0],
    ]);
    expect(tomorrow.reasons.map((reason) => reason.code === 'limit-reached' && reason.period)).toEqual(['lifetime']);
  });

  test('shared stock runs down for everyone and comes back by its rule', () => {
    const rich = playerWith(economy, { shells: 100 });
    const { shared } = buy(rich, { offer: 'stocked', times: 3 });
    const other = playerWith(economy, { shells: 100 });
    expect(purchaseCheck(economy, other, shared, { offer: 'stocked' }, NOW + HOUR)).toMatchObject({
      stock: { left: 0, restocksMs: NOW + 2 * HOUR },
      reasons: [{ code: 'out-of-stock' }],
    });
    expect(purchaseCheck(economy, other, shared, { offer: 'stocked' }, NOW + 2 * HOUR).allowed).toBe(true);
    expect(purchaseCheck(economy, other, shared, { offer: 'stocked', times: 3 }, NOW + 2 * HOUR).reasons).toMatchObject(
      [{ left: 1, wanted: 3 }],
    );
  });

  test("stock of one's own is nobody else's", () => {
    const { player, shared } = buy(playerWith(economy, { shells: 100 }), { offer: 'mine', times: 2 });
    expect(shared).toEqual(UNTOUCHED);
    expect(purchaseCheck(economy, player, shared, { offer: 'mine' }, NOW).reasons).toMatchObject([
      { code: 'out-of-stock' },
    ]);
    expect(purchaseCheck(economy, playerWith(economy, { shells: 100 }), shared, { offer: 'mine' }, NOW).allowed).toBe(
      true,
    );
  });
});

test('a refill that has come in the meantime counts', () => {
  const player = playerWith(economy, { breeze: 4 });
  expect(purchaseCheck(economy, player, UNTOUCHED, { offer: 'breeze_trade' }, NOW + 40 * MINUTE - 1).allowed).toBe(
    false,
  );
  expect(purchaseCheck(economy, player, UNTOUCHED, { offer: 'breeze_trade' }, NOW + 40 * MINUTE).allowed).toBe(true);
});

test('the check changes nothing it was given', () => {
  const player = playerWith(economy, { shells: 100 });
  const shared: Shared = { ...UNTOUCHED, stocks: { stocked: { units: 1, sinceMs: NOW } } };
  const before = JSON.stringify([player, shared]);
  const verdict = purchaseCheck(economy, player, shared, { offer: 'stocked' }, NOW + HOUR);
  purchaseApply(economy, player, shared, verdict);
  expect(JSON.stringify([player, shared])).toBe(before);
});

test('in the demo, a wallet at the price and one below it decide the Storm Frame', () => {
  const demo = demoEconomy();
  const ask = (shells: number) =>
    purchaseCheck(demo, playerWith(demo, { shells }, { level: 3 }), UNTOUCHED, { offer: 'storm_frame' }, NOW).allowed;
  expect([ask(1399), ask(1400), ask(1401)]).toEqual([false, true, true]);
});

describe('what is promised holds by the same check at that instant', () => {
  const market = economyOf(
    `
currencies: {breeze: {name: Breeze, refill: {amount: 1, every: PT1H, upTo: 20}}, shells: {name: Shells}}
items:
  wax: {name: Wax, kind: consumable, group: care, worth: {shells: 4}}
  lamp: {name: Lamp, kind: timed, lasts: PT5H, yields: {gives: {shells: 1}, every: PT3H, upTo: 9}}
groups: {care: {name: Care}}
sales: {s: {name: S, offers: [dear], percent: 50, until: "2027-03-01T13:00"}}
shops:
  pier:
    name: Pier
    until: "2027-03-02T06:00"
    till: {holds: {shells: 4}, refill: {gives: {shells: 1}, every: PT12H}}
    buyback: {groups: [care], rate: 1}
    shelves:
      main:
        name: Main
        offers:
          dear: {gives: wax, price: {breeze: 10}}
          brief: {gives: wax, price: {breeze: 3}, until: "2027-03-01T11:30"}
          limited: {gives: wax, price: {breeze: 1}, limits: {day: 1, week: 1, PT2H: 1}}
          stocked: {gives: wax, price: {shells: 1}, stock: {units: 1, restock: {amount: 1, every: PT30H}}}
          free: {gives: wax, price: free, limits: {day: 1}}
`.replace('0.0001', '1'),
  );
  const told = (offer: string, player: Player, shared: Shared = UNTOUCHED) =>
    purchaseCheck(market, player, shared, { offer }, NOW).reasons;

  test('enough only while a sale runs, an offer that ends, a shop that closes', () => {
    // Breeze 5 is enough in the sale, which ends before the fourth comes; ten takes until 19:00.
    expect(told('dear', playerWith(market, { breeze: 3 }))).toMatchObject([
      { code: 'short-of', needed: 5, refilledMs: NOW + 2 * HOUR },
    ]);
    expect(told('dear', playerWith(market, { breeze: 0 }))).toMatchObject([
      { code: 'short-of', needed: 5, refilledMs: null },
    ]);
    expect(told('brief', playerWith(market, { breeze: 0 }))).toMatchObject([{ code: 'short-of', refilledMs: null }]);
    expect(told('brief', playerWith(market, { breeze: 2 }))).toMatchObject([{ refilledMs: NOW + HOUR }]);
    const bought = (offer: string, player: Player) =>
      purchaseApply(market, player, UNTOUCHED, purchaseCheck(market, player, UNTOUCHED, { offer }, NOW));
    const { player } = bought('limited', playerWith(market, { breeze: 9 }));
    // The day and the week start again when the shop is closed for good; the two hours do not.
    expect(told('limited', player)).toMatchObject([
      { period: 'day', resetsMs: Date.UTC(2027, 2, 2) },
      { period: 'week', resetsMs: null },
      { period: 'PT2H', resetsMs: NOW + 2 * HOUR },
    ]);
    const sold = bought('stocked', playerWith(market, { shells: 9 }));
    expect(told('stocked', sold.player, sold.shared)).toMatchObject([{ code: 'out-of-stock', restocksMs: null }]);
  });

  test('a till that fills while the shop is open, a yield of what lasts that long', () => {
    const sell = (shells: number) =>
      ACTS.sell.check(
        market,
        playerWith(market, { wax: 1 }),
        { ...UNTOUCHED, tills: { pier: { shells: { units: shells, sinceMs: NOW } } } },
        { item: 'wax', shop: 'pier' },
        NOW,
      ).reasons;
    expect(sell(3)).toMatchObject([{ code: 'till-short', refilledMs: NOW + 12 * HOUR }]);
    expect(sell(2)).toMatchObject([{ code: 'till-short', refilledMs: null }]);
    const collect = (nowMs: number) =>
      ACTS.collect.check(market, playerWith(market, { lamp: 1 }), UNTOUCHED, { item: 'lamp' }, nowMs).reasons;
    expect(collect(NOW)).toMatchObject([{ code: 'nothing-to-collect', nextMs: NOW + 3 * HOUR }]);
  });
});

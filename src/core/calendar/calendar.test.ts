/** The calendar as data: what it lists, what it warns of, and where it stops. */
import { DAY, HOUR, economyOf } from '../../../tests/support/economy.js';
import { calendarIcs, calendarMake, offerShownIn } from './index.js';

const FROM = Date.parse('2027-03-01T00:00Z');
const ECONOMY = (shop: string, sales = '{}') => `
currencies: {shells: {name: Shells}, tokens: {name: Tokens, ends: {at: "2027-03-05T12:00", into: shells, rate: 2}}}
items: {sail: {name: Sail, kind: durable, worth: {shells: 9}}, tail: {name: Tail, kind: durable, worth: {shells: 9}}}
shops: {s: {name: Stall, ${shop}}}
sales: ${sales}
`;
const OFFERS = 'offers: {sail: {gives: sail}, tail: {gives: tail}}';
const listed = (yaml: string, days = 7) =>
  calendarMake(economyOf(yaml), { fromMs: FROM, toMs: FROM + days * DAY }).lanes.map(({ name, closed, entries }) => [
    name,
    closed,
    entries.map(({ kind, name: what, startMs, endMs, warnings }) => [
      kind,
      what,
      (startMs - FROM) / HOUR,
      (endMs - FROM) / HOUR,
      ...warnings,
    ]),
  ]);

test('a shop that is open all the time and sells the same has nothing to list; a currency ends where it ends', () => {
  expect(listed(ECONOMY(`shelves: {a: {name: A, ${OFFERS}}}`))).toEqual([
    ['Stall', false, []],
    ['Test cove', false, [['end', 'End of Tokens', 108, 108]]],
  ]);
});

test('rotations are listed while their shop is open, by whole periods', () => {
  const shop = `open: {tuesdays: {starts: "2027-03-02T10:00", repeats: "FREQ=WEEKLY;BYDAY=TU", lasts: PT4H}}, shelves: {a: {name: A, rotation: {show: 1, every: day, at: "12:00"}, ${OFFERS}}}`;
  expect(listed(ECONOMY(shop))[0]).toEqual([
    'Stall',
    false,
    [
      ['open', 'Stall is open', 34, 38],
      ['rotation', 'A', 12, 36],
      ['rotation', 'A', 36, 60],
    ],
  ]);
});

test('a sale is warned of where its shop is closed, or what it names is not on show', () => {
  const sales = '{s: {name: S, percent: 10, offers: [sail], from: "2027-03-02", until: "2027-03-03"}}';
  const warnings = (shop: string) =>
    calendarMake(economyOf(ECONOMY(shop, sales)), { fromMs: FROM, toMs: FROM + 7 * DAY })
      .lanes[0]!.entries.filter(({ kind }) => kind === 'sale')
      .flatMap(({ warnings: told }) => told);
  expect(warnings(`shelves: {a: {name: A, ${OFFERS}}}`)).toEqual([]);
  expect(warnings(`from: "2027-03-03", shelves: {a: {name: A, ${OFFERS}}}`)).toEqual(['Stall is closed']);
  expect(warnings('shelves: {a: {name: A, offers: {sail: {gives: sail, until: "2027-03-02"}}}}')).toEqual([
    'none of its offers is on show',
  ]);
});

test('an offer outside the hours of its shop is warned of, and a period without an offer too', () => {
  const shop =
    'until: "2027-03-02", shelves: {a: {name: A, offers: {sail: {gives: sail, from: "2027-03-03", until: "2027-03-04"}}}}';
  expect(listed(ECONOMY(shop))[0]![2]).toContainEqual(['offer', 'Sail', 48, 72, 'Stall is closed']);
  const empty =
    'shelves: {a: {name: A, rotation: {show: 1, every: week}, offers: {sail: {gives: sail, until: "2027-02-01"}}}}';
  expect(listed(ECONOMY(empty))[0]![2]).toEqual([['rotation', 'A', 0, 168, 'nothing is on show']]);
});

test('when an offer can be seen: its shop, its window and its turn', () => {
  const economy = economyOf(
    ECONOMY(
      'from: "2027-03-02", shelves: {a: {name: A, rotation: {show: 1, every: day, avoid: 1}, offers: {sail: {gives: sail}, tail: {gives: tail}}}}',
    ),
  );
  const days = (id: string) =>
    offerShownIn(economy, economy.offers.get(id)!, FROM, FROM + 7 * DAY).map(({ startMs }) => (startMs - FROM) / DAY);
  const [sail, tail] = [days('sail'), days('tail')];
  expect([...sail, ...tail].sort()).toEqual([1, 2, 3, 4, 5, 6]);
  expect(sail.map((day, index) => (index === 0 ? 2 : day - sail[index - 1]!))).toEqual([2, 2, 2]);
});

test('a season of turns every ten minutes is cut, and says so', () => {
  const economy = economyOf(ECONOMY(`shelves: {a: {name: A, rotation: {show: 1, every: PT10M}, ${OFFERS}}}`));
  const calendar = calendarMake(economy, { fromMs: FROM, toMs: FROM + 90 * DAY });
  expect(calendar.cut).toBe(true);
  expect(calendar.lanes[0]!.entries).toHaveLength(500);
});

test('texts with every awkward character go into iCalendar and stay in one property', () => {
  const economy = economyOf(
    ECONOMY(
      `shelves: {a: {name: A, ${OFFERS}}}`,
      '{s: {name: "One; two, three\\\\ and \\"four\\" ☂", percent: 10, shops: [s], from: "2027-03-02", until: "2027-03-03"}}',
    ),
  );
  const calendar = calendarMake(economy, { fromMs: FROM, toMs: FROM + 7 * DAY });
  const text = calendarIcs(calendar, 'Cove', FROM);
  expect(text).toContain('SUMMARY:Sale: One\\; two\\, three\\\\ and "four" ☂\r\n');
  expect(calendarIcs(calendar, 'Cove', FROM)).toBe(text);
});

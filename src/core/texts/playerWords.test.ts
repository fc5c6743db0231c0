/** What players read: in their language, with fallback, always with the amounts that are charged. */
import { NOW, demoEconomy, economyOf, issuesOf, playerWith } from '../../../tests/support/economy.js';
import { BUILT_IN, textArguments } from '../document/index.js';
import type { BuiltInKey } from '../document/index.js';
import { builtInMessage } from '../economy/index.js';
import { REASON_CODES, UNTOUCHED, purchaseCheck } from '../trade/index.js';
import { amountWords, askText, offerWords, refusalText, textFind, thanksText } from './index.js';

const demo = demoEconomy();
const check = (offer: string, shells: number, attributes = {}) =>
  purchaseCheck(demo, playerWith(demo, { shells }, attributes), UNTOUCHED, { offer }, NOW);

test('the question states the price that is charged, and thanks say what came', () => {
  const verdict = check('gull_frame', 450);
  expect(askText(demo, 'en', verdict)).toBe('Buy Gull Frame for 450 shells?');
  expect(askText(demo, 'pt', verdict)).toBe('Comprar Armação Gaivota por 450 conchas?');
  expect(thanksText(demo, 'pt', verdict)).toBe('Obrigado! Tens agora 1 Armação Gaivota.');
});

test('one is one and many are many, in every language, with its own separators', () => {
  expect(['en', 'pt'].flatMap((tag) => [1, 2, 12345].map((units) => amountWords(demo, tag, 'pearls', units)))).toEqual([
    '1 pearl',
    '2 pearls',
    '12,345 pearls',
    '1 pérola',
    '2 pérolas',
    '12.345 pérolas',
  ]);
});

test('a refusal says why and when, in words of the player', () => {
  const [reason] = check('gull_frame', 449).reasons;
  expect(refusalText(demo, 'en', reason!, 'gull_frame')).toBe(
    'You are 1 shell short: it costs 450 shells, and you have 449 shells.',
  );
  expect(refusalText(demo, 'pt-BR', reason!, 'gull_frame')).toBe(
    'Faltam-te 1 concha: custa 450 conchas e tens 449 conchas.',
  );
  const [level] = check('storm_frame', 9000, { level: 1 }).reasons;
  expect(refusalText(demo, 'en', level!, 'storm_frame')).toBe('Reach flyer level 3 to fly it.');
  const closed = check('festival_crate', 0).reasons.find(({ code }) => code === 'shop-closed');
  expect(refusalText(demo, 'en', closed!, 'festival_crate')).toBe(
    'Festival Booth is closed until April 26 at 10:00 AM GMT+1.',
  );
});

test('a language that lacks a text falls back: to a wider one, then to the economy', () => {
  const economy = economyOf(`
language: en
currencies: {shells: {name: Shells}}
items: {sail: {name: Sail, kind: durable, worth: {shells: 1}, description: Plain.}}
shops: {s: {name: Stall, shelves: {a: {name: A, offers: {sail: {gives: sail}}}}}}
texts: {pt: {item.sail.name: Vela}, pt-BR: {currency.shells.name: Conchas}, en: {shop.s.name: The Stall}}
`);
  expect(offerWords(economy, 'pt-BR', 'sail')).toEqual({ name: 'Vela', description: 'Plain.', badge: undefined });
  expect(amountWords(economy, 'pt-BR', 'shells', 2)).toBe('2 Conchas');
  expect(amountWords(economy, 'pt', 'shells', 2)).toBe('2 Shells');
  expect(textFind(economy, 'fr', 'shop.s.name', 'Stall')).toBe('The Stall');
  expect(textFind(economy, 'fr', 'ask', undefined)).toBeUndefined();
});

test('every text of the engine can be read, and fills in only what it is given', () => {
  for (const key of Object.keys(BUILT_IN) as BuiltInKey[]) {
    const given = Object.fromEntries(textArguments(key).map((name) => [name, 2]));
    expect({ key, said: String(builtInMessage(key).format(given)) }).toEqual({
      key,
      said: expect.stringMatching(/\w/),
    });
  }
});

test('there are words of the engine for every reason, so no text is ever missing', () => {
  for (const code of REASON_CODES) expect(BUILT_IN).toHaveProperty([`refused.${code}`]);
  for (const key of Object.keys(BUILT_IN).filter((one) => one.startsWith('refused.')))
    expect(REASON_CODES).toContain(key.slice('refused.'.length));
});

test.each([
  ['{pt: {item.sial.name: Vela}}', 'dangling-reference'],
  ['{pt: {item.sail.name: "{open"}}', 'bad-text'],
  ['{pt: {item.sail.name: "Vela {prise}"}}', 'bad-text'],
  ['{pt: {ask: "Comprar por {prise}?"}}', 'bad-text'],
  ['{portuguese: {ask: Comprar}}', 'malformed-id'],
])('the texts %s are told as %s', (texts, code) => {
  const yaml = `items: {sail: {name: Sail, kind: durable}}\ntexts: ${texts}`;
  expect(issuesOf(yaml).map((issue) => issue.code)).toEqual([code]);
});

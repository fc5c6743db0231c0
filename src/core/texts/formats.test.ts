import { amountFormat, languageChain, listFormat, moneyFormat, numberFormat } from './formats.js';

test('each is what the language has, and is made once', () => {
  expect(amountFormat('pt', 2).format(1234.5)).toMatch(/^1.?234,50$/);
  expect(amountFormat('pt', 0).format(12345)).toMatch(/^12.345$/);
  expect(amountFormat('en', 2).format(1234.5)).toBe('1,234.50');
  expect(numberFormat('en', 3).format(2.5)).toBe('2.5');
  expect(moneyFormat('en', 'EUR').format(4.99)).toBe('€4.99');
  expect(moneyFormat('en', 'JPY').format(499)).toBe('¥499');
  expect(listFormat('en', 'conjunction').format(['a', 'b'])).toBe('a and b');
  expect(listFormat('en', 'disjunction').format(['a', 'b'])).toBe('a or b');
  expect(amountFormat('pt', 2)).toBe(amountFormat('pt', 2));
});

test('texts are looked for in the language, its wider ones, and the economy’s own, each once', () => {
  expect(languageChain('pt-BR-x-cove', 'en')).toEqual(['pt-BR-x-cove', 'pt-BR-x', 'pt-BR', 'pt', 'en']);
  expect(languageChain('en-GB', 'en')).toEqual(['en-GB', 'en']);
  expect(languageChain('en', 'pt')).toEqual(['en', 'pt']);
});

test('whatever languages are asked for, answers stay right when the first are made again', () => {
  const before = amountFormat('de', 1);
  for (let n = 0; n < 500; n++) amountFormat(`en-x-l${n}`, 1);
  expect(amountFormat('de', 1)).not.toBe(before);
  expect(amountFormat('de', 1).format(1.5)).toBe('1,5');
});

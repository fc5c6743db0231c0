/**
 * Cells as text and back. A basket is written `900 shells; 2 pearls`, alternatives are parted by `|`, and an
 * amount may be a formula: `=60 * 1.15 ^ owned(wind_chime) shells`.
 */
export type CellValue = { ok: true; value: unknown } | { ok: false; problem: string };

type WrittenBasket = Record<string, number | string>;

export function basketToCell(basket: WrittenBasket | undefined): string {
  return Object.entries(basket ?? {})
    .map(([asset, amount]) => `${amount} ${asset}`)
    .join('; ');
}

export function cellToBasket(text: string): CellValue {
  const basket: WrittenBasket = {};
  for (const part of text.split(';')) {
    const match = /^\s*(=.+?|\d+(?:\.\d+)?)\s+([a-z][a-z0-9_]*)\s*$/.exec(part);
    if (!match) return { ok: false, problem: `"${part.trim()}" should be an amount and an id, such as 900 shells` };
    if (Object.hasOwn(basket, match[2]!)) return { ok: false, problem: `"${match[2]}" stands twice` };
    basket[match[2]!] = match[1]!.startsWith('=') ? match[1]! : Number(match[1]);
  }
  return { ok: true, value: basket };
}

type WrittenPrice = 'free' | WrittenBasket | WrittenBasket[] | undefined;

export function priceToCell(price: WrittenPrice): string {
  if (price === undefined || price === 'free') return price ?? '';
  return (Array.isArray(price) ? price : [price]).map(basketToCell).join(' | ');
}

/** An empty cell takes the price away: the item's worth holds then. */
export function cellToPrice(text: string): CellValue {
  if (text.trim() === '') return { ok: true, value: undefined };
  if (text.trim() === 'free') return { ok: true, value: 'free' };
  const choices = text.split('|').map(cellToBasket);
  const wrong = choices.find((choice) => !choice.ok);
  if (wrong) return wrong;
  const values = choices.map((choice) => (choice as { value: unknown }).value);
  return { ok: true, value: values.length === 1 ? values[0] : values };
}

export function cellToNumber(text: string): CellValue {
  if (text.trim() === '') return { ok: true, value: undefined };
  return /^\d+(\.\d+)?$/.test(text.trim())
    ? { ok: true, value: Number(text) }
    : { ok: false, problem: `"${text}" should be a number` };
}

export const cellToText = (text: string): CellValue => ({
  ok: true,
  value: text.trim() === '' ? undefined : text.trim(),
});

export const cellToList = (text: string): CellValue => {
  const parts = text
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '');
  return { ok: true, value: parts.length === 0 ? undefined : parts };
};

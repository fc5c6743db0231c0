/**
 * Cells as text and back, for grids and CSV alike. Nothing is lost on the way: a value that its notation has no words
 * for is written as JSON, which every cell reads. A basket is written `900 shells; 2 pearls`, alternatives are
 * parted by `|`, an amount may be a formula: `=60 * 1.15 ^ owned(wind_chime) shells`, and of a loot entry a range:
 * `1-3 glide_wax`. Real money is `4.99 EUR; 5.49 USD [harbour_store=pearls_500]`.
 */
import { durationRead, durationWords } from '../schedule/index.js';

export type CellValue = { ok: true; value: unknown } | { ok: false; problem: string };

/** How one kind of value is written into a cell and read back. `decimalComma`: 2,50 is two and a half. */
export interface CellKind {
  write(value: unknown): string;
  read(text: string, decimalComma?: boolean): CellValue;
}

type WrittenBasket = Record<string, number | string>;
interface WrittenMoney {
  money: Record<string, number>;
  products?: Record<string, string>;
}
type Ranged = number | { from: number; to: number };

const fine = (value: unknown): CellValue => ({ ok: true, value });
const wrong = (problem: string): CellValue => ({ ok: false, problem });

/** The parts of a text between separators that stand outside brackets, blanks around them taken off. */
function parts(text: string, separator: string): string[] {
  const result = [''];
  let depth = 0;
  for (const letter of text) {
    if ('(['.includes(letter)) depth++;
    if (')]'.includes(letter)) depth--;
    if (letter === separator && depth === 0) result.push('');
    else result[result.length - 1] += letter;
  }
  return result.map((part) => part.trim());
}

/** Digits as a number; undefined when they are none. With `decimalComma` a point would be ambiguous, so it is none. */
function numberOf(text: string, decimalComma: boolean): number | undefined {
  const pattern = decimalComma ? /^\d+(,\d+)?(e[+-]?\d+)?$/ : /^\d+(\.\d+)?(e[+-]?\d+)?$/;
  return pattern.test(text) ? Number(text.replace(',', '.')) : undefined;
}

export function basketToCell(basket: WrittenBasket | undefined): string {
  return Object.entries(basket ?? {})
    .map(([asset, amount]) => `${amount} ${asset}`)
    .join('; ');
}

export function cellToBasket(text: string, decimalComma = false): CellValue {
  const basket: WrittenBasket = {};
  for (const part of parts(text, ';')) {
    const match = /^(=.+?|[\d.,]+)\s+([a-z][a-z0-9_]*)$/.exec(part);
    const amount = match?.[1]!.startsWith('=') ? match[1] : numberOf(match?.[1] ?? '', decimalComma);
    if (!match || amount === undefined)
      return wrong(
        `"${part}" should be an amount and an id, such as 900 shells or 2${decimalComma ? ',' : '.'}50 pearls`,
      );
    if (Object.hasOwn(basket, match[2]!)) return wrong(`"${match[2]}" stands twice`);
    basket[match[2]!] = amount;
  }
  return fine(basket);
}

type WrittenPrice = 'free' | WrittenBasket | WrittenMoney | (WrittenBasket | WrittenMoney)[] | undefined;
const isMoneyPrice = (price: WrittenBasket | WrittenMoney): price is WrittenMoney => typeof price['money'] === 'object';

export function priceToCell(price: WrittenPrice): string {
  if (price === undefined || price === 'free') return price ?? '';
  return (Array.isArray(price) ? price : [price])
    .map((one) => (isMoneyPrice(one) ? moneyToCell(one) : basketToCell(one)))
    .join(' | ');
}

function moneyToCell({ money, products }: WrittenMoney): string {
  const listed = Object.entries(products ?? {}).map(([store, product]) => `${store}=${product}`);
  const amounts = Object.entries(money).map(([code, amount]) => `${amount} ${code}`);
  return `${amounts.join('; ')}${listed.length > 0 ? ` [${listed.join('; ')}]` : ''}`;
}

/** An empty cell takes the price away: the item's worth holds then. */
export function cellToPrice(text: string, decimalComma = false): CellValue {
  if (text.trim() === '') return fine(undefined);
  if (text.trim() === 'free') return fine('free');
  const choices = parts(text, '|').map((choice) =>
    /^[\d.,]+\s+[A-Z]{3}\b/.test(choice) ? cellToMoney(choice, decimalComma) : cellToBasket(choice, decimalComma),
  );
  const bad = choices.find((choice) => !choice.ok);
  if (bad) return bad;
  const values = choices.map((choice) => (choice as { value: unknown }).value);
  return fine(values.length === 1 ? values[0] : values);
}

function cellToMoney(text: string, decimalComma: boolean): CellValue {
  const [, amounts = '', listed] = /^([^[]*)(?:\[(.*)\])?$/.exec(text) ?? [];
  const money: Record<string, number> = {};
  for (const part of parts(amounts, ';')) {
    const match = /^([\d.,]+)\s+([A-Z]{3})$/.exec(part);
    const amount = numberOf(match?.[1] ?? '', decimalComma);
    if (!match || amount === undefined) return wrong(`"${part}" should be money, such as 4.99 EUR`);
    money[match[2]!] = amount;
  }
  if (listed === undefined) return fine({ money });
  const products: Record<string, string> = {};
  for (const part of parts(listed, ';')) {
    const match = /^([a-z][a-z0-9_]*)\s*=\s*(\S.*)$/.exec(part);
    if (!match) return wrong(`"${part}" should be a store and its product, such as harbour_store=pearls_500`);
    products[match[1]!] = match[2]!;
  }
  return fine({ money, products });
}

export function cellToNumber(text: string, decimalComma = false): CellValue {
  if (text.trim() === '') return fine(undefined);
  const minus = text.trim().startsWith('-');
  const value = numberOf(text.trim().replace(/^-/, ''), decimalComma);
  return value === undefined
    ? wrong(`"${text}" should be a number${decimalComma ? ', such as 2,50' : ''}`)
    : fine(minus ? -value : value);
}

export const cellToText = (text: string): CellValue => fine(text.trim() === '' ? undefined : text.trim());

export const cellToList = (text: string): CellValue => {
  const list = parts(text, ',').filter((part) => part !== '');
  return fine(list.length === 0 ? undefined : list);
};

const textOf = (value: unknown): string => (value === undefined || value === null ? '' : String(value));
function yesNoRead(text: string): CellValue {
  const word = text.trim().toLowerCase();
  return word === 'yes' || word === 'true'
    ? fine(true)
    : word === 'no' || word === 'false'
      ? fine(false)
      : wrong(`"${text}" should be yes or no`);
}

function jsonRead(text: string): CellValue {
  try {
    return fine(JSON.parse(text));
  } catch (error) {
    return wrong(`"${text}" should be JSON: ${(error as Error).message}`);
  }
}

/** `20 min`, `1 day 12 h`. */
function durationCell(text: string): CellValue {
  const written = durationRead(text);
  return written === undefined ? wrong(`"${text}" should be a duration, such as 20 min or 1 day`) : fine(written);
}

/** A calendar word, or a duration. */
const periodRead = (text: string): string | undefined =>
  /^[a-z]+$/.test(text.trim()) ? text.trim() : durationRead(text);

/** `1 per lifetime; 4 per day; 1 per 3 days`. */
function limitsRead(text: string): CellValue {
  const limits: Record<string, number> = {};
  for (const part of parts(text, ';')) {
    const match = /^(\d+)\s+per\s+(\S.*)$/.exec(part);
    const period = match ? periodRead(match[2]!) : undefined;
    if (period === undefined) return wrong(`"${part}" should be a limit, such as 3 per day or 1 per 3 days`);
    limits[period] = Number(match![1]);
  }
  return fine(limits);
}

interface WrittenStock {
  units: number;
  scope?: string;
  restock?: { amount: number; every: string; at?: string };
}
/** `40 shared, 2 every 12 h`, `40, 2 every day at 09:00`. */
function stockRead(text: string): CellValue {
  const match = /^(\d+)(?:\s+(shared|player))?(?:\s*,\s*(\d+)\s+every\s+(\S.*?)(?:\s+at\s+(\S+))?)?$/.exec(text.trim());
  const every = match?.[4] === undefined ? undefined : periodRead(match[4]);
  if (!match || (match[4] !== undefined && every === undefined))
    return wrong(`"${text}" should be stock, such as 40, 3 player, or 40 shared, 2 every day at 09:00`);
  const [, units, scope, amount, , at] = match;
  return fine({
    units: Number(units),
    ...(scope ? { scope } : {}),
    ...(amount ? { restock: { amount: Number(amount), every, ...(at ? { at } : {}) } } : {}),
  });
}
const stockWrite = ({ units, scope, restock }: WrittenStock): string =>
  `${units}${scope ? ` ${scope}` : ''}${restock ? `, ${restock.amount} every ${durationWords(restock.every)}${restock.at ? ` at ${restock.at}` : ''}` : ''}`;

/** `1-3 glide_wax; 1 linen_sail`. */
function lootRead(text: string, decimalComma = false): CellValue {
  const basket: Record<string, Ranged> = {};
  for (const part of parts(text, ';')) {
    const match = /^([\d.,]+)(?:\s*-\s*([\d.,]+))?\s+([a-z][a-z0-9_]*)$/.exec(part);
    const [from, to] = [match?.[1], match?.[2]].map((one) => numberOf(one ?? '', decimalComma));
    if (!match || from === undefined || (match[2] !== undefined && to === undefined))
      return wrong(`"${part}" should be an amount or a range and an id, such as 1-3 glide_wax`);
    basket[match[3]!] = to === undefined ? from : { from, to };
  }
  return fine(basket);
}
const lootWrite = (basket: Record<string, Ranged>): string =>
  Object.entries(basket)
    .map(([asset, amount]) => `${typeof amount === 'number' ? amount : `${amount.from}-${amount.to}`} ${asset}`)
    .join('; ');

function rangeRead(text: string): CellValue {
  const match = /^(\d+)(?:\s*-\s*(\d+))?$/.exec(text.trim());
  if (!match) return wrong(`"${text}" should be a whole number, or a range such as 2-3`);
  return fine(match[2] === undefined ? Number(match[1]) : { from: Number(match[1]), to: Number(match[2]) });
}

/** `350`, `300-400`, `300 or more`, `400 or less`. */
function boundRead(text: string, decimalComma = false): CellValue {
  const bare = text.trim();
  const open = /^([\d.,]+)\s+or\s+(more|less)$/.exec(bare);
  const [, from, to] = /^([\d.,]+)(?:\s*-\s*([\d.,]+))?$/.exec(bare) ?? [undefined, open?.[1], undefined];
  const [least, most] = [from, to].map((one) => numberOf(one ?? '', decimalComma));
  if (least === undefined || (to !== undefined && most === undefined))
    return wrong(`"${text}" should be a number or a range, such as 350, 300-400, or 300 or more`);
  if (open) return fine(open[2] === 'more' ? { from: least } : { to: least });
  return fine(most === undefined ? least : { from: least, to: most });
}
type Bound = number | { from?: number; to?: number };
function boundWrite(bound: Bound): string {
  if (typeof bound === 'number') return String(bound);
  const { from, to } = bound;
  if (from !== undefined && to !== undefined) return `${from}-${to}`;
  return from === undefined ? `${to} or less` : `${from} or more`;
}

/** `allowed`, or the codes of a refusal: `refused for short-of and carry-full`, or `short-of, carry-full`. */
function verdictRead(text: string): CellValue {
  const bare = text.trim().toLowerCase();
  if (bare === 'allowed') return fine(bare);
  const codes = bare
    .replace(/^refused for /, '')
    .split(/\s*,\s*|\s+and\s+|\s+/)
    .filter((code) => code !== '');
  return codes.every((code) => /^[a-z]+(-[a-z]+)*$/.test(code))
    ? fine(codes)
    : wrong(`"${text}" should be allowed, or the codes of a refusal, such as short-of`);
}

/** What an offer gives: `glide_wax`, or a basket. */
const givesRead = (text: string, decimalComma?: boolean): CellValue =>
  /^\s*[a-z][a-z0-9_]*\s*$/.test(text) ? fine(text.trim()) : cellToBasket(text, decimalComma);

/** `brass_key`, or `brass_key (kept)`. */
function keyRead(text: string): CellValue {
  const match = /^([a-z][a-z0-9_]*)(\s*\(kept\))?$/.exec(text.trim());
  if (!match) return wrong(`"${text}" should be an item, such as brass_key, or brass_key (kept)`);
  return fine({ item: match[1], ...(match[2] ? { keeps: true } : {}) });
}

/** How a value is drawn: `3`, `phone`, `=level + 1`, `2-4`, `phone: 3, desktop: 1`, `chosen easy: 3, hard: 1`, or a distribution with its figures. */
type Drawn =
  | number
  | string
  | { from: number; to: number }
  | { weights: Record<string, number> }
  | { chosen: Record<string, number> }
  | Record<string, unknown>;
/** Distributions, with figures that each could have. */
const FIGURES: Readonly<Record<string, string>> = {
  poisson: '3',
  normal: '10 2',
  lognormal: '1 0.5',
  geometric: '0.2',
};

function drawRead(text: string): CellValue {
  const bare = text.trim();
  if (bare.startsWith('=')) return fine(bare);
  const number = numberOf(bare.replace(/^-/, ''), false);
  if (number !== undefined) return fine(bare.startsWith('-') ? -number : number);
  const range = /^(-?\d+)\s*-\s*(-?\d+)$/.exec(bare);
  if (range) return fine({ from: Number(range[1]), to: Number(range[2]) });
  const [word = '', ...figures] = bare.split(/\s+/);
  if (Object.hasOwn(FIGURES, word)) {
    const read = figures.map(
      (figure) => numberOf(figure.replace(/^-/, ''), false)! * (figure.startsWith('-') ? -1 : 1),
    );
    if (read.length !== FIGURES[word]!.split(' ').length || read.some(Number.isNaN))
      return wrong(`"${bare}" should have its figures, such as ${word} ${FIGURES[word]!}`);
    return fine({ [word]: read.length === 1 ? read[0] : read });
  }
  if (!bare.includes(':')) return fine(bare);
  const isChosen = bare.startsWith(CHOSEN);
  const weights: Record<string, number> = {};
  for (const part of parts(isChosen ? bare.slice(CHOSEN.length) : bare, ',')) {
    const match = /^(.+?)\s*:\s*(\S+)$/.exec(part);
    const weight = numberOf(match?.[2] ?? '', false);
    if (!match || weight === undefined) return wrong(`"${part}" should be a value and its weight, such as phone: 3`);
    weights[match[1]!] = weight;
  }
  return fine(isChosen ? { chosen: weights } : { weights });
}

/** What stands before what a player chooses: `chosen easy: 3, hard: 1`. */
const CHOSEN = 'chosen ';
const weightsWrite = (weights: object): string =>
  Object.entries(weights)
    .map(([one, weight]) => `${one}: ${String(weight)}`)
    .join(', ');

function drawWrite(value: Drawn): string {
  if (typeof value !== 'object') return String(value);
  if ('from' in value) return `${String(value.from)}-${String(value.to)}`;
  if ('weights' in value) return weightsWrite(value.weights as object);
  if ('chosen' in value) return `${CHOSEN}${weightsWrite(value.chosen as object)}`;
  const [[word, figures]] = Object.entries(value) as [[string, unknown]];
  return `${word} ${[figures].flat().join(' ')}`;
}

/** A number, true or false, a formula, or a text. */
function valueRead(text: string): CellValue {
  const bare = text.trim();
  if (bare === 'true' || bare === 'false') return fine(bare === 'true');
  const number = numberOf(bare.replace(/^-/, ''), false);
  return fine(number === undefined ? bare : bare.startsWith('-') ? -number : number);
}

/** `level=3, platform=phone`. */
function pairsRead(text: string): CellValue {
  const pairs: Record<string, unknown> = {};
  for (const part of parts(text, ',')) {
    const match = /^([a-z][a-z0-9_]*)\s*=\s*(\S.*)$/s.exec(part);
    if (!match) return wrong(`"${part}" should be a name and its value, such as level=3`);
    const read = valueRead(match[2]!);
    if (!read.ok) return read;
    pairs[match[1]!] = read.value;
  }
  return fine(pairs);
}
const pairsWrite = (values: object): string =>
  Object.entries(values)
    .map(([name, value]) => `${name}=${String(value)}`)
    .join(', ');

/** A cell in a notation. An empty cell is an absent value, and what the notation cannot say is said in JSON. */
function kind<T>(notation: (value: T) => string, plain: CellKind['read']): CellKind {
  const read: CellKind['read'] = (text, decimalComma) => {
    const bare = text.trim();
    if (bare === '') return fine(undefined);
    if (/^[{["]/.test(bare)) {
      const json = jsonRead(bare);
      if (json.ok) return json;
    }
    return plain(text, decimalComma);
  };
  const write = (value: unknown): string => {
    if (value === undefined || value === null) return '';
    const shown = notation(value as T);
    const back = read(shown);
    return back.ok && JSON.stringify(back.value) === JSON.stringify(value) ? shown : JSON.stringify(value);
  };
  return { read, write };
}

/** Every kind of cell, by name. */
export const CELLS = {
  text: kind<string>(textOf, cellToText),
  number: kind<number>(textOf, cellToNumber),
  /** A number, or a formula. */
  amount: kind<number | string>(textOf, (text, comma) =>
    text.trim().startsWith('=') ? fine(text.trim()) : cellToNumber(text, comma),
  ),
  duration: kind<string>(durationWords, durationCell),
  /** How often: a calendar word, or a duration. */
  every: kind<string>(durationWords, (text) => {
    const written = periodRead(text);
    return written === undefined
      ? wrong(`"${text}" should be day, week, month or a duration, such as 6 h`)
      : fine(written);
  }),
  yesNo: kind<boolean>((value) => (value ? 'yes' : 'no'), yesNoRead),
  list: kind<string[]>((value) => value.join(', '), cellToList),
  basket: kind<WrittenBasket>(basketToCell, cellToBasket),
  /** Parts by what they are of: `0.1 crew; 0.05 side`. */
  parts: kind<Record<string, number>>(basketToCell, cellToBasket),
  price: kind<WrittenPrice>(priceToCell, cellToPrice),
  gives: kind<string | WrittenBasket>((value) => (typeof value === 'string' ? value : basketToCell(value)), givesRead),
  limits: kind<Record<string, number>>(
    (value) =>
      Object.entries(value)
        .map(([period, most]) => `${most} per ${durationWords(period)}`)
        .join('; '),
    limitsRead,
  ),
  stock: kind<WrittenStock>(stockWrite, stockRead),
  loot: kind<Record<string, Ranged>>(lootWrite, lootRead),
  key: kind<{ item: string; keeps?: boolean }>(({ item, keeps }) => `${item}${keeps ? ' (kept)' : ''}`, keyRead),
  /** A whole number or a range: `2-3`. */
  range: kind<Ranged>((value) => (typeof value === 'number' ? String(value) : `${value.from}-${value.to}`), rangeRead),
  /** A number, or a range of which either end may be open. */
  bound: kind<Bound>(boundWrite, boundRead),
  verdict: kind<string | string[]>(
    (verdict) => (typeof verdict === 'string' ? verdict : `refused for ${verdict.join(' and ')}`),
    verdictRead,
  ),
  /** Values by name: `level=3, platform=phone`. */
  pairs: kind<Record<string, unknown>>(pairsWrite, pairsRead),
  draw: kind<Drawn>(drawWrite, drawRead),
  /** What an attribute or a property may be. */
  value: kind<unknown>((value) => (typeof value === 'object' ? JSON.stringify(value) : String(value)), valueRead),
  json: kind<unknown>((value) => JSON.stringify(value), jsonRead),
} satisfies Record<string, CellKind>;
export type CellName = keyof typeof CELLS;

/**
 * What attributes may come to: where they start, what personas have, what play sets them to, and around what formulas
 * speak of; whole numbers between them too.
 */
import type { EconomyDocument } from '../document/index.js';
import { itemOnUse } from '../economy/index.js';
import type { Economy } from '../economy/index.js';
import type { Formula, Scope, Value } from '../formula/index.js';
import { around, spread } from './values.js';

/** More values of one attribute are not looked at, so that an audit stays linear in the economy. */
const MOST_VALUES = 200;
/** So many more are found by setting an attribute again and again, such as `=level + 1`. */
const MOST_SET = 60;
/** So many whole numbers from the least on are looked at, as far as the most. */
const MOST_BETWEEN = 60;

export function attributeValues(
  economy: Economy,
  document: EconomyDocument,
  newPlayer: Scope,
): Map<string, readonly Value[]> {
  const drawn = Object.values(document.personas ?? {}).flatMap(({ attributes }) => Object.entries(attributes ?? {}));
  return new Map(
    [...economy.attributes].map(([name, start]) => {
      if (typeof start === 'boolean') return [name, [false, true]];
      const written = economy.formulas
        .filter(({ names }) => names.includes(name))
        .flatMap(({ literals }) => (typeof start === 'number' ? around(literals) : literals));
      const known = [
        start,
        ...drawn.flatMap(([attribute, draw]) => (attribute === name ? drawValues(draw) : [])),
        ...valuesSet(economy, name),
        ...written,
      ].filter((value) => typeof value === typeof start);
      const all = [...known, ...setAgain(economy, name, known, newPlayer)];
      return [name, typeof start === 'number' ? withBetween(all as number[]) : [...new Set(all)].slice(0, MOST_VALUES)];
    }),
  );
}

/** What goals, levels and things that are used set it to, where that is written. */
function valuesSet({ items, goals, tracks }: Economy, name: string): Value[] {
  const values: Value[] = [];
  for (const item of items.values())
    for (const { attribute, to } of itemOnUse(item)?.set ?? [])
      if (attribute === name && typeof to !== 'object') values.push(to);
  for (const { sets } of goals.values()) {
    const value = sets.get(name);
    if (value !== undefined) values.push(value);
  }
  for (const { attribute, levels } of tracks.values())
    if (attribute === name) values.push(...levels.map(({ level }) => level));
  return values;
}

/** What using things makes of it, again and again, from each value that is known. */
function setAgain({ items }: Economy, name: string, known: readonly Value[], newPlayer: Scope): Value[] {
  const formulas = [...items.values()].flatMap((item): Formula[] =>
    (itemOnUse(item)?.set ?? []).flatMap(({ attribute, to }) =>
      attribute === name && typeof to === 'object' ? [to] : [],
    ),
  );
  if (formulas.length === 0) return [];
  const found = new Set<Value>(known);
  const queue = [...found];
  for (let value = queue.shift(); value !== undefined && found.size < known.length + MOST_SET; value = queue.shift()) {
    const now = value;
    const scope = { ...newPlayer, name: (other: string) => (other === name ? now : newPlayer.name(other)) };
    for (const formula of formulas) {
      const next = formula.run(scope);
      if (found.has(next) || (typeof next === 'number' && !Number.isFinite(next))) continue;
      found.add(next);
      queue.push(next);
    }
  }
  return [...found];
}

/** What a draw of a persona is sure to give: one value, the ends of a range, what is weighed. */
function drawValues(draw: unknown): Value[] {
  if (typeof draw === 'number') return [draw];
  if (typeof draw === 'string') return draw.startsWith('=') ? [] : [draw];
  const { from, to, weights, chosen } = draw as {
    from?: number;
    to?: number;
    weights?: Record<string, number>;
    chosen?: Record<string, number>;
  };
  if (from !== undefined && to !== undefined) return [from, to];
  return Object.keys(weights ?? chosen ?? {}).map((key) => (Number.isNaN(Number(key)) ? key : Number(key)));
}

/** Ascending, none below 0, with the whole numbers between the least and the most where they are not too many. */
function withBetween(values: readonly number[]): number[] {
  const rising = (all: Iterable<number>) => [...new Set(all)].sort((a, b) => a - b);
  const positive = rising(values.filter((value) => value >= 0));
  const least = Math.ceil(positive[0] ?? 0);
  const most = Math.min(Math.floor(positive.at(-1) ?? 0), least + MOST_BETWEEN);
  const between = Array.from({ length: Math.max(0, most - least + 1) }, (_, n) => least + n);
  return spread(rising([...positive, ...between]), MOST_VALUES);
}

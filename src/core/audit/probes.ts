/**
 * Players along whose state a formula is looked at: a new one, and those who own or have bought more, are of another
 * level, or come on a later day. A price that is right for the first may be nothing, or a gift, for another.
 */
import type { EconomyDocument } from '../document/index.js';
import type { Economy, Offer, QuantityBasket } from '../economy/index.js';
import { quantityFormula } from '../economy/index.js';
import type { Formula, Scope, Value } from '../formula/index.js';
import { assetMost, playerCreate, playerScope } from '../player/index.js';

export interface Probe {
  scope: Scope;
  /** What sets the player apart from a new one, such as `level is 3` or `2 Hat owned`; empty for a new one. */
  words: readonly string[];
}

/** One thing that a formula reads, with the values that it may have. */
interface Axis {
  name: string;
  values: readonly Value[];
  words(value: Value): string;
}

/** Counts without a limit are followed so far. */
const MOST_COUNT = 60;
/** More players are not looked at: then only one thing at a time is varied. */
const MOST_PROBES = 400;
/** More values of one attribute are not looked at, so that an audit stays linear in the economy. */
const MOST_VALUES = 200;
/** On which days from a player's first on. */
const DAYS = [0, 1, 7, 30, 90, 365];

export class Probes {
  readonly newPlayer: Scope;
  private values: ReadonlyMap<string, readonly Value[]> | undefined;

  constructor(
    private readonly economy: Economy,
    private readonly document: EconomyDocument,
  ) {
    this.newPlayer = playerScope(economy, playerCreate(economy, 'new_player', 'New player', 0).player, 0);
  }

  /** Worked out when the first formula asks. */
  private get attributes(): ReadonlyMap<string, readonly Value[]> {
    return (this.values ??= attributeValues(this.economy, this.document));
  }

  /** Those who own or have bought from nothing up to what limits and carry allow: nothing else is sure to come about. */
  byCounts(offer: Offer, quantities: QuantityBasket): Probe[] {
    return this.along(formulasOf(quantities).flatMap((formula) => this.countAxes(offer, formula)));
  }

  /** Those too who are of every level that anything in the economy speaks of, and on later days. */
  byAll(offer: Offer, quantities: QuantityBasket): Probe[] {
    const formulas = formulasOf(quantities);
    return this.along(formulas.flatMap((formula) => [...this.countAxes(offer, formula), ...this.nameAxes(formula)]));
  }

  private countAxes(offer: Offer, { references }: Formula): Axis[] {
    return references.flatMap(({ lookup, id }): Axis[] => {
      const most = lookup === 'owned' ? this.mostOwned(offer, id) : lookup === 'bought' ? this.mostBought(id) : 0;
      const name = (lookup === 'owned' ? this.economy.items.get(id)?.name : this.economy.offers.get(id)?.name) ?? id;
      return most <= 0
        ? []
        : [
            {
              name: `${lookup}(${id})`,
              values: Array.from({ length: Math.min(most, MOST_COUNT) + 1 }, (_, count) => count),
              words: (count) => `${String(count)} ${name} ${lookup}`,
            },
          ];
    });
  }

  /** Most that may be owned of an item while another can still be bought by this offer. */
  private mostOwned(offer: Offer, item: string): number {
    const arriving = offer.gives.some(({ asset }) => asset === item) ? 1 : 0;
    return assetMost(this.economy, item) - arriving;
  }

  /** Most that may have been bought before, where the offer can still be bought. */
  private mostBought(id: string): number {
    const lifetime = this.economy.offers.get(id)?.limits.find(({ period }) => period === 'lifetime');
    return lifetime ? lifetime.most - 1 : MOST_COUNT;
  }

  private nameAxes({ names }: Formula): Axis[] {
    return names.flatMap((name): Axis[] => {
      const values = name === 'day' ? DAYS : this.attributes.get(name);
      return values ? [{ name, values, words: (value) => `${name} is ${String(value)}` }] : [];
    });
  }

  /** The new player first; every combination, or, where that is too many, each axis by itself. */
  private along(written: readonly Axis[]): Probe[] {
    const newPlayer: Probe = { scope: this.newPlayer, words: [] };
    if (written.length === 0) return [newPlayer];
    const axes = [...new Map(written.map((axis) => [axis.name, axis])).values()];
    const all = axes.reduce((product, { values }) => product * values.length, 1);
    const sets: ReadonlyMap<Axis, Value>[] =
      all <= MOST_PROBES
        ? axes.reduce<ReadonlyMap<Axis, Value>[]>(
            (made, axis) => made.flatMap((set) => axis.values.map((value) => new Map([...set, [axis, value]]))),
            [new Map()],
          )
        : axes.flatMap((axis) => axis.values.map((value) => new Map([[axis, value]])));
    const { scope } = newPlayer;
    return [newPlayer, ...sets.map((set) => ({ scope: scopeWith(scope, set), words: differing(scope, set) }))];
  }
}

const formulasOf = (quantities: QuantityBasket): Formula[] =>
  quantities.flatMap((quantity) => quantityFormula(quantity) ?? []);

function scopeWith(base: Scope, set: ReadonlyMap<Axis, Value>): Scope {
  const values = new Map([...set].map(([{ name }, value]) => [name, value]));
  const of = <V extends Value>(name: string, otherwise: () => V): V =>
    values.has(name) ? (values.get(name) as V) : otherwise();
  return {
    name: (name) => of(name, () => base.name(name)),
    owned: (item) => of(`owned(${item})`, () => base.owned(item)),
    balance: (currency) => base.balance(currency),
    bought: (offer) => of(`bought(${offer})`, () => base.bought(offer)),
  };
}

const differing = (base: Scope, set: ReadonlyMap<Axis, Value>): string[] =>
  [...set].flatMap(([{ name, words }, value]) => {
    const plain = name.includes('(') ? 0 : base.name(name);
    return plain === value ? [] : [words(value)];
  });

/**
 * Of each attribute the values that the economy speaks of: where it starts, what personas have, and around what
 * formulas compare it with; whole numbers between them too. Where they are very many, some of them.
 */
function attributeValues(economy: Economy, document: EconomyDocument): Map<string, readonly Value[]> {
  const compared = new Map<string, Value[]>();
  for (const text of formulaTexts(document))
    for (const [, name, number, quoted] of text.matchAll(COMPARED)) {
      const values = compared.get(name!) ?? [];
      compared.set(name!, values);
      if (number === undefined) values.push(quoted!);
      else values.push(Number(number) - 1, Number(number), Number(number) + 1);
    }
  const drawn = Object.values(document.personas ?? {}).flatMap(({ attributes }) => Object.entries(attributes ?? {}));
  return new Map(
    [...economy.attributes].map(([name, start]) => {
      const known = [
        start,
        ...(compared.get(name) ?? []),
        ...drawn.flatMap(([attribute, draw]) => (attribute === name ? drawValues(draw) : [])),
      ];
      if (typeof start === 'boolean') return [name, [false, true]];
      return [
        name,
        typeof start === 'number'
          ? withBetween(known.filter((one) => typeof one === 'number'))
          : [...new Set(known)].slice(0, MOST_VALUES),
      ];
    }),
  );
}

/** `level >= 3` and `team == "harbour"`. */
const COMPARED = /\b([a-z]\w*)\s*(?:[<>]=?|==|!=)\s*(?:(\d+(?:\.\d+)?)|"([^"]*)")/g;

function formulaTexts(value: unknown): string[] {
  if (typeof value === 'string') return value.startsWith('=') ? [value] : [];
  return typeof value === 'object' && value !== null ? Object.values(value).flatMap(formulaTexts) : [];
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
  const [least, most] = [Math.ceil(positive[0] ?? 0), Math.floor(positive.at(-1) ?? 0)];
  const between =
    most - least <= MOST_COUNT ? Array.from({ length: Math.max(0, most - least + 1) }, (_, n) => least + n) : [];
  return spread(rising([...positive, ...between]));
}

/** The first, the last, and evenly between them no more than can be looked at. */
const spread = (rising: readonly number[]): number[] =>
  rising.length <= MOST_VALUES
    ? [...rising]
    : Array.from({ length: MOST_VALUES }, (_, n) => rising[Math.round((n * (rising.length - 1)) / (MOST_VALUES - 1))]!);

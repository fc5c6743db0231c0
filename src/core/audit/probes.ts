/**
 * Players along whose state a formula is looked at: a new one, and those who own, hold or have bought more, are of
 * another level, or come on a later day. A price that is right for the first may be nothing, or a gift, for another.
 * Values are those at which what formulas give may turn: what is written in them, what play sets attributes to, and
 * counts from nothing up to what limits and carry allow.
 */
import type { EconomyDocument } from '../document/index.js';
import type { Economy, Offer, QuantityBasket } from '../economy/index.js';
import { quantityFormula } from '../economy/index.js';
import type { Formula, Scope, Value } from '../formula/index.js';
import { assetMost, playerCreate, playerScope } from '../player/index.js';
import { attributeValues } from './attributes.js';
import { around, spread } from './values.js';

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

/** Every count up to this is looked at, further ones where they are written, or spread evenly up to a limit. */
const EVERY_COUNT = 400;
/** Where nothing limits a count, it is followed so far, and to what is written. */
const UNLIMITED_COUNT = 60;
const SPREAD_COUNT = 100;
/** Every day from a player's first on, and some later ones. */
const EVERY_DAY = 60;
const LATER_DAYS = [90, 180, 365];
/** So many players at most differ in several things at once; each thing by itself is varied in full. */
const MOST_PROBES = 2000;

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
    return (this.values ??= attributeValues(this.economy, this.document, this.newPlayer));
  }

  /** Those who own or have bought from nothing up to what limits and carry allow: nothing else is sure to come about. */
  byCounts(offer: Offer, quantities: QuantityBasket): Probe[] {
    return this.along(formulasOf(quantities).flatMap((formula) => this.countAxes(formula, offer)));
  }

  /** Those too who hold money, who are of every level that play can bring, and on later days. */
  byAll(offer: Offer, quantities: QuantityBasket, conditions: readonly (Formula | undefined)[] = []): Probe[] {
    return this.byFormulas([...formulasOf(quantities), ...conditions.flatMap((one) => one ?? [])], offer);
  }

  /** All players between whom these formulas may tell a difference. */
  byFormulas(formulas: readonly Formula[], offer?: Offer): Probe[] {
    return this.along(
      formulas.flatMap((formula) => [
        ...this.countAxes(formula, offer),
        ...this.moneyAxes(formula),
        ...this.nameAxes(formula),
      ]),
    );
  }

  private countAxes({ references, literals }: Formula, offer: Offer | undefined): Axis[] {
    return references.flatMap(({ lookup, id }): Axis[] => {
      if (lookup === 'balance') return [];
      const most = lookup === 'owned' ? this.mostOwned(offer, id) : this.mostBought(id);
      const name = (lookup === 'owned' ? this.economy.items.get(id)?.name : this.economy.offers.get(id)?.name) ?? id;
      return most <= 0
        ? []
        : [
            {
              name: `${lookup}(${id})`,
              values: countsUpTo(most, literals),
              words: (count) => `${String(count)} ${name} ${lookup}`,
            },
          ];
    });
  }

  /** Most that may be owned of an item while another can still be bought by this offer. */
  private mostOwned(offer: Offer | undefined, item: string): number {
    const arriving = offer?.gives.some(({ asset }) => asset === item) ? 1 : 0;
    return assetMost(this.economy, item) - arriving;
  }

  /** Most that may have been bought before, where the offer can still be bought. */
  private mostBought(id: string): number {
    const lifetime = this.economy.offers.get(id)?.limits.find(({ period }) => period === 'lifetime');
    return lifetime ? lifetime.most - 1 : Number.MAX_SAFE_INTEGER;
  }

  private moneyAxes({ references, literals }: Formula): Axis[] {
    return references.flatMap(({ lookup, id }): Axis[] => {
      const currency = lookup === 'balance' ? this.economy.currencies.get(id) : undefined;
      if (!currency) return [];
      const most = Math.floor(assetMost(this.economy, id) / 10 ** currency.decimals);
      const values = countsUpTo(most, literals);
      return [{ name: `balance(${id})`, values, words: (units) => `${String(units)} ${currency.name} held` }];
    });
  }

  private nameAxes({ names, literals }: Formula): Axis[] {
    return names.flatMap((name): Axis[] => {
      const values = name === 'day' ? daysFor(literals) : this.attributes.get(name);
      return values ? [{ name, values, words: (value) => `${name} is ${String(value)}` }] : [];
    });
  }

  /** The new player first; each axis by itself, and combinations of as many values as there is room for. */
  private along(written: readonly Axis[]): Probe[] {
    const newPlayer: Probe = { scope: this.newPlayer, words: [] };
    if (written.length === 0) return [newPlayer];
    const axes = [...axesMerged(written).values()];
    const each = Math.max(2, Math.floor(MOST_PROBES ** (1 / axes.length)));
    let sets: ReadonlyMap<Axis, Value>[] = [new Map()];
    for (const axis of axes) {
      const values = spread(axis.values, each);
      if (sets.length * values.length > MOST_PROBES) break;
      sets = sets.flatMap((set) => values.map((value) => new Map([...set, [axis, value]])));
    }
    const alone =
      axes.length === 1 && axes[0]!.values.length <= each
        ? []
        : axes.flatMap((axis) => axis.values.map((value) => new Map([[axis, value]])));
    const { scope } = newPlayer;
    return [
      newPlayer,
      ...[...sets, ...alone].map((set) => ({ scope: scopeWith(scope, set), words: differing(scope, set) })),
    ];
  }
}

/** Formulas that read the same have one axis, with the values of all of them. */
function axesMerged(written: readonly Axis[]): Map<string, Axis> {
  const axes = new Map<string, Axis>();
  for (const axis of written) {
    const known = axes.get(axis.name);
    axes.set(axis.name, known ? { ...axis, values: [...new Set([...known.values, ...axis.values])] } : axis);
  }
  return axes;
}

/** Whole numbers from 0 on: all of them as far as that is not too far, then around what is written, and up to the most. */
function countsUpTo(most: number, literals: readonly Value[]): number[] {
  const isUnlimited = most >= Number.MAX_SAFE_INTEGER;
  const all = Math.min(most, isUnlimited ? UNLIMITED_COUNT : EVERY_COUNT);
  const counts = new Set(Array.from({ length: all + 1 }, (_, count) => count));
  for (const value of around(literals)) if (Number.isInteger(value) && value <= most) counts.add(value);
  if (!isUnlimited && most > all)
    for (let part = 0; part <= SPREAD_COUNT; part++) counts.add(all + Math.round(((most - all) * part) / SPREAD_COUNT));
  return [...counts].sort((a, b) => a - b);
}

const daysFor = (literals: readonly Value[]): number[] => [
  ...new Set([
    ...Array.from({ length: EVERY_DAY + 1 }, (_, day) => day),
    ...around(literals).filter((day) => Number.isInteger(day)),
    ...LATER_DAYS,
  ]),
];

const formulasOf = (quantities: QuantityBasket): Formula[] =>
  quantities.flatMap((quantity) => quantityFormula(quantity) ?? []);

function scopeWith(base: Scope, set: ReadonlyMap<Axis, Value>): Scope {
  const values = new Map([...set].map(([{ name }, value]) => [name, value]));
  const of = <V extends Value>(name: string, otherwise: () => V): V =>
    values.has(name) ? (values.get(name) as V) : otherwise();
  return {
    name: (name) => of(name, () => base.name(name)),
    owned: (item) => of(`owned(${item})`, () => base.owned(item)),
    balance: (currency) => of(`balance(${currency})`, () => base.balance(currency)),
    bought: (offer) => of(`bought(${offer})`, () => base.bought(offer)),
  };
}

const differing = (base: Scope, set: ReadonlyMap<Axis, Value>): string[] =>
  [...set].flatMap(([{ name, words }, value]) => {
    const [, lookup, id] = /^(\w+)\((\w+)\)$/.exec(name) ?? [];
    const plain = lookup === 'balance' ? base.balance(id!) : lookup === undefined ? base.name(name) : 0;
    return plain === value ? [] : [words(value)];
  });

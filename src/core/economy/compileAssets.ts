/** Currencies and items: the assets that everything else is written in. */
import { basketAdd, fractionOf } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { DocumentReader, Segments, Steps } from './reader.js';
import { ITEM_KIND_NAMES, KIND_FIELDS, kindHas } from '../document/index.js';
import type { EconomyDocument, ItemDocument, ItemKindName, KindField } from '../document/index.js';
import { durationMs } from '../schema/index.js';
import type { Bundle, Item, UseEffect } from './types.js';

type CurrencyDocument = NonNullable<EconomyDocument['currencies']>[string];

export function* assetsCompile(reader: DocumentReader): Steps {
  const currencies = Object.entries(reader.document.currencies ?? {});
  for (const [id, currency] of currencies) currencyCompile(reader, id, currency);
  for (const [id, currency] of currencies) currencyEndCompile(reader, id, currency);
  const items = Object.entries(reader.document.items ?? {});
  for (const [id, item] of items) {
    if (reader.currencies.has(id))
      reader.issue(
        'duplicate-id',
        ['items', id],
        `"${id}" is also a currency`,
        'Rename one of them: currencies and items share their ids.',
      );
    reader.items.set(id, itemBegin(id, item));
    yield;
  }
  for (const [id, written] of items) {
    itemCompile(reader, reader.items.get(id)!, written);
    yield;
  }
  contentsCompile(reader);
}

/**
 * What can be said of an item before all ids are known. `Object.assign` and not a spread, after which V8 gives every
 * item a hidden class of its own, and whatever reads items takes twice as long.
 */
function itemBegin(id: string, written: ItemDocument): Item {
  const any = {
    id,
    name: written.name,
    singular: written.singular,
    description: written.description,
    icon: written.icon,
    group: written.group,
    tags: written.tags ?? [],
    sellable: written.sellable ?? true,
    carry: written.carry,
    stack: written.stack,
    worth: {},
  };
  const onUse = undefined;
  const yields = undefined;
  switch (written.kind) {
    case 'durable':
      return Object.assign(any, { kind: 'durable' as const, onUse, yields });
    case 'consumable':
      return Object.assign(any, { kind: 'consumable' as const, onUse, yields, uses: written.uses ?? 1 });
    case 'timed':
      // Without a duration, which is an issue, it never expires.
      return Object.assign(any, {
        kind: 'timed' as const,
        onUse,
        yields,
        lastsMs: durationMs(written.lasts ?? '') ?? Infinity,
      });
    case 'bundle':
      return Object.assign(any, { kind: 'bundle' as const, gives: {}, contents: {} });
    case 'box':
      return Object.assign(any, { kind: 'box' as const, gives: {}, loot: undefined, opensWith: undefined, yields });
  }
}

function itemCompile(reader: DocumentReader, item: Item, written: ItemDocument): void {
  const at = ['items', item.id];
  for (const field of KIND_FIELDS)
    if (written[field] !== undefined && !kindHas(item.kind, field))
      reader.issue('wrong-value', [...at, field], ...elsewhere(field, item.kind));
  item.worth = reader.fixedBasket(written.worth, [...at, 'worth']);
  if ('gives' in item) item.gives = reader.fixedBasket(written.gives, [...at, 'gives']);
  if ('onUse' in item && written.onUse) item.onUse = useCompile(reader, written.onUse, [...at, 'onUse']);
  if ('yields' in item && written.yields)
    item.yields = {
      gives: reader.fixedBasket(written.yields.gives, [...at, 'yields', 'gives']),
      everyMs: durationMs(written.yields.every)!,
      upTo: written.yields.upTo,
    };
  if (item.kind === 'box') {
    if (written.loot !== undefined && reader.lootIds.has(written.loot)) item.loot = written.loot;
    if (written.opensWith && reader.items.has(written.opensWith.item))
      item.opensWith = { item: written.opensWith.item, keeps: written.opensWith.keeps ?? false };
  }
  for (const needed of NEEDED[written.kind]?.(written) ?? []) reader.issue('missing-field', at, ...needed);
}

/** What to say of a field that the kind does not have. */
function elsewhere(field: KindField, kind: ItemKindName): [string, string] {
  const kinds = ITEM_KIND_NAMES.filter((one) => kindHas(one, field));
  return [`${field} belongs to: ${kinds.join(', ')}; this is ${kind}`, `Set kind: ${kinds[0]}, or remove ${field}.`];
}

const isEmpty = (basket: object | undefined): boolean => Object.keys(basket ?? {}).length === 0;
const NEEDED: Partial<Record<Item['kind'], (written: ItemDocument) => [string, string][]>> = {
  bundle: ({ gives }) =>
    isEmpty(gives) ? [['the bundle gives nothing', 'Write gives: {...} with what it unpacks into.']] : [],
  box: ({ gives, loot }) =>
    isEmpty(gives) && loot === undefined
      ? [['the box holds nothing', 'Write gives: {...} or loot: with a loot table.']]
      : [],
  timed: ({ lasts }) => (lasts === undefined ? [['it is timed and does not say how long', 'Write lasts: P7D.']] : []),
};

function useCompile(reader: DocumentReader, written: NonNullable<ItemDocument['onUse']>, at: Segments): UseEffect {
  const set: { attribute: string; to: UseEffect['set'][number]['to'] }[] = [];
  const attributes = new Map(Object.entries(reader.document.attributes ?? {}));
  for (const [attribute, value] of Object.entries(written.set ?? {})) {
    const place = [...at, 'set', attribute];
    if (!attributes.has(attribute)) continue;
    const wants = reader.playerNames.get(attribute)!;
    if (typeof value === 'string' && value.startsWith('=')) {
      const formula = reader.formula(value, wants, place);
      if (formula) set.push({ attribute, to: formula });
    } else if (typeof value !== typeof attributes.get(attribute)!.start)
      reader.issue(
        'wrong-value',
        place,
        `${JSON.stringify(value)} cannot be set: ${attribute} is a ${wants}`,
        `Write a ${wants}, or a formula that gives one.`,
      );
    else set.push({ attribute, to: value });
  }
  if (set.length === 0 && isEmpty(written.gives))
    reader.issue('missing-field', at, 'using it does nothing', 'Write set: {...} or gives: {...}, or remove onUse.');
  return { set, gives: reader.quantities(written.gives ?? {}, [...at, 'gives']) };
}

function currencyCompile(reader: DocumentReader, id: string, written: CurrencyDocument): void {
  const decimals = written.decimals ?? 0;
  const at = ['currencies', id];
  const optional = (field: 'start' | 'cap') =>
    written[field] === undefined ? undefined : reader.units(written[field], decimals, [...at, field]);
  const { refill } = written;
  const cap = optional('cap');
  reader.currencies.set(id, {
    id,
    name: written.name,
    singular: written.singular,
    symbol: written.symbol ?? '',
    decimals,
    rounding: written.rounding ?? 'down',
    premium: written.premium ?? false,
    start: optional('start') ?? 0,
    cap,
    overCap: written.overCap ?? 'clip',
    refill: refill && {
      amount: reader.units(refill.amount, decimals, [...at, 'refill', 'amount']),
      comes: { kind: 'duration', everyMs: durationMs(refill.every)! },
      upTo: reader.units(refill.upTo, decimals, [...at, 'refill', 'upTo']),
    },
    ends: undefined,
  });
  const currency = reader.currencies.get(id)!;
  if (cap !== undefined && currency.start > cap)
    reader.issue('wrong-value', [...at, 'start'], 'a new player starts above the cap', 'Lower start, or raise cap.');
  if (cap !== undefined && currency.refill && currency.refill.upTo > cap)
    reader.issue(
      'wrong-value',
      [...at, 'refill', 'upTo'],
      'the refill runs above the cap',
      'Lower upTo, or raise cap.',
    );
  if (refill && currency.refill!.amount === 0)
    reader.issue('bad-amount', [...at, 'refill', 'amount'], 'the refill brings nothing', 'Write an amount above 0.');
}

/** The rate is in display values: 1 ribbon into 2.5 shells. It is kept as an exact fraction of smallest units. */
function currencyEndCompile(reader: DocumentReader, id: string, written: CurrencyDocument): void {
  const { ends } = written;
  if (!ends) return;
  const at = ['currencies', id, 'ends'];
  const currency = reader.currencies.get(id)!;
  if (ends.into === id)
    reader.issue(
      'wrong-value',
      [...at, 'into'],
      'it cannot turn into itself',
      'Name another currency, or remove into.',
    );
  const into = ends.into !== undefined && ends.into !== id ? reader.currencies.get(ends.into) : undefined;
  if (into?.id !== undefined && reader.document.currencies?.[into.id]?.ends)
    reader.issue(
      'wrong-value',
      [...at, 'into'],
      `${into.id} ends as well, so the rest would not be safe there`,
      'Turn it into a currency that stays.',
    );
  if (ends.rate !== undefined && ends.into === undefined)
    reader.issue(
      'wrong-value',
      [...at, 'rate'],
      'a rate needs a currency to turn into',
      'Write into:, or remove rate.',
    );
  const rate = fractionOf(ends.rate ?? 1);
  currency.ends = {
    atMs: reader.instant(ends.at)!,
    into: into?.id,
    numerator: rate.numerator * 10n ** BigInt(into?.decimals ?? 0),
    denominator: rate.denominator * 10n ** BigInt(currency.decimals),
  };
}

/**
 * Works out what each bundle unpacks into. Depth first, so a bundle is finished before those that hold it. One
 * that holds itself would never finish unpacking: the circle is cut and reported.
 */
function contentsCompile(reader: DocumentReader): void {
  const done = new Set<string>();
  const open: string[] = [];
  const contents = (item: Bundle): Basket => {
    const { id } = item;
    if (done.has(id)) return item.contents;
    if (open.includes(id)) {
      reader.issue(
        'circular-bundle',
        ['items', open.at(-1)!, 'gives', id],
        `the bundle holds itself: ${[...open.slice(open.indexOf(id)), id].join(' > ')}`,
        'Take it out of one of them.',
      );
      return {};
    }
    open.push(id);
    for (const [inner, units] of Object.entries(item.gives)) {
      const part = reader.items.get(inner);
      const unpacked = part?.kind === 'bundle' ? contents(part) : { [inner]: 1 };
      for (const [asset, each] of Object.entries(unpacked)) {
        if (!basketAdd(item.contents, asset, each * units))
          reader.issue('bad-amount', ['items', id, 'gives'], `it holds more ${asset} than the ceiling`, 'Hold fewer.');
      }
    }
    open.pop();
    done.add(id);
    return item.contents;
  };
  for (const item of reader.items.values()) if (item.kind === 'bundle') contents(item);
}

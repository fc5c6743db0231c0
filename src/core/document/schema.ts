/**
 * The shape of an economy document: the one place it is written. TypeScript types, JSON Schema and the
 * checks of files, API and console all come from these schemas.
 * Everything is kept by id and in the order written, so a JSON pointer stays valid while others come and go.
 */
import type { InferType } from 'yup';
import {
  amount,
  anyJson,
  anyNumber,
  anyText,
  anyValue,
  anyWhole,
  basket,
  checked,
  choice,
  condition,
  duration,
  either,
  every,
  fields,
  finiteNumber,
  ids,
  inCells,
  instant,
  isFormula,
  isRecord,
  limits,
  listOf,
  mapOf,
  orFormula,
  refTo,
  text,
  timeOfDay,
  timeZone,
  whole,
  wholeNumber,
  yesNo,
} from '../schema/index.js';
import type { Misfit, RefKind } from '../schema/index.js';
import { ITEM_KIND_NAMES } from './itemKinds.js';
import { lootSchema } from './schemaLoot.js';
import { gives, price } from './schemaPrice.js';
import { languageTag, textsSchema } from './schemaTexts.js';
import { rotation, saleSchema, windows } from './schemaTime.js';

const name = () => text(120).required();
const description = () => text(1000);

const refill = fields({ amount: amount().required(), every: duration().required(), upTo: amount().required() });

/** The name of exactly one, where it differs from that of many: Pearl beside Pearls. */
const singular = () => text(120);

const currencySchema = fields({
  name: name(),
  singular: singular(),
  symbol: text(8),
  description: description(),
  decimals: wholeNumber(0, 4),
  start: amount(),
  cap: amount(),
  overCap: choice('clip', 'refuse'),
  premium: yesNo(),
  refill,
  rounding: choice('down', 'nearest', 'up'),
  ends: whole(fields({ at: instant().required(), into: refTo('currency'), rate: anyNumber(0, 1_000_000_000) })),
});

const tags = () => inCells('list', listOf(text(64), { most: 50, of: 'tags' }));
const refs = (kind: RefKind, of: string) => inCells('list', listOf(refTo(kind), { most: 50, of }));

/** What an attribute may be set to: a value, or a formula. */
const attributeValue = () => orFormula(anyValue(), 'a value');

const itemSchema = fields({
  name: name(),
  singular: singular(),
  description: description(),
  icon: text(64),
  group: refTo('group'),
  tags: tags(),
  kind: choice(...ITEM_KIND_NAMES).required(),
  worth: basket(),
  carry: wholeNumber(1, Number.MAX_SAFE_INTEGER),
  stack: wholeNumber(1, 1_000_000),
  sellable: yesNo(),
  uses: wholeNumber(1, 1_000_000),
  lasts: duration(),
  gives: basket(),
  loot: refTo('loot'),
  opensWith: inCells('key', fields({ item: refTo('item').required(), keeps: yesNo() })),
  onUse: fields({ set: mapOf(attributeValue(), ids('attribute')), gives: basket() }),
  yields: fields({
    gives: basket().required(),
    every: duration().required(),
    upTo: wholeNumber(1, 1_000_000).required(),
  }),
  properties: mapOf(anyJson(), ids()),
});

const offerSchema = whole(
  fields({
    name: text(120),
    description: description(),
    badge: text(40),
    gives: gives().required(),
    count: wholeNumber(1, 1_000_000),
    price: price(),
    stock: inCells(
      'stock',
      fields({
        units: wholeNumber(1, Number.MAX_SAFE_INTEGER).required(),
        scope: choice('shared', 'player'),
        restock: fields({
          amount: wholeNumber(1, Number.MAX_SAFE_INTEGER).required(),
          every: every().required(),
          at: timeOfDay(),
        }),
      }),
    ),
    limits: limits(),
    when: condition(),
    from: instant(),
    until: instant(),
    weight: anyNumber(0.001, 1_000_000),
    hidden: yesNo(),
  }),
);

const shelfSchema = fields({
  name: name(),
  hidden: yesNo(),
  rotation: rotation(),
  offers: mapOf(offerSchema, ids()).required(),
});

const shopSchema = fields({
  name: name(),
  description: description(),
  icon: text(64),
  when: condition(),
  from: instant(),
  until: instant(),
  open: windows(),
  hidden: yesNo(),
  till: fields({
    holds: basket().required(),
    refill: fields({ gives: basket().required(), every: duration().required() }),
  }),
  buyback: fields({
    groups: refs('group', 'groups'),
    tags: tags(),
    items: refs('item', 'item ids'),
    rate: anyNumber(0, 1_000_000).required(),
    of: choice('worth', 'paid'),
    pays: refTo('currency'),
    resell: yesNo(),
  }),
  shelves: mapOf(shelfSchema, ids()).required(),
});

const earningSchema = fields({
  name: name(),
  on: refTo('event').required(),
  when: condition(),
  chance: inCells('amount', orFormula(anyNumber(0, 1), 'a chance')),
  gives: basket(),
  loot: refTo('loot'),
  takes: basket(),
  limits: limits(),
  cooldown: duration(),
});

const valueType = () => choice('number', 'text');

export type DrawDocument =
  | number
  | string
  | { from: number; to: number }
  | { weights: Record<string, number> }
  | { poisson: number }
  | { normal: [number, number] }
  | { lognormal: [number, number] }
  | { geometric: number };

const noDraw = (value: unknown): Misfit => ({
  problem: `${JSON.stringify(value)} is not a way to draw a value`,
  fix: 'Write a constant, a formula, {from, to}, {weights: {value: weight}}, {poisson: mean}, {normal: [mean, deviation]}, {lognormal: [mu, sigma]} or {geometric: chance}.',
});
/** A mean and a deviation, which is 0 or more. */
const pair = () =>
  checked<[number, number]>(
    {
      type: 'array',
      prefixItems: [{ type: 'number' }, { type: 'number', minimum: 0 }],
      items: false,
      minItems: 2,
    },
    (value) =>
      Array.isArray(value) &&
      value.length === 2 &&
      value.every((one) => typeof one === 'number' && Number.isFinite(one)) &&
      (value[1] as number) >= 0
        ? undefined
        : noDraw(value),
  );
/** Weights by value, not all of them 0. */
const weights = () =>
  checked<Record<string, number>>(
    {
      type: 'object',
      minProperties: 1,
      additionalProperties: { type: 'number', minimum: 0 },
      not: { additionalProperties: { const: 0 } },
    },
    (value) =>
      isRecord(value) &&
      Object.values(value).every((one) => typeof one === 'number' && one >= 0 && Number.isFinite(one)) &&
      Object.values(value).some((one) => (one as number) > 0)
        ? undefined
        : noDraw(value),
  );
const chance = () =>
  checked<number>({ type: 'number', exclusiveMinimum: 0, maximum: 1 }, (value) =>
    typeof value === 'number' && value > 0 && value <= 1 ? undefined : noDraw(value),
  );

const DRAWS = {
  'from,to': fields({ from: anyWhole().required(), to: anyWhole().required() }).test(
    'in-order',
    (value: unknown, context) => {
      const { from, to } = (value ?? {}) as { from?: unknown; to?: unknown };
      return (
        typeof from !== 'number' ||
        typeof to !== 'number' ||
        from <= to ||
        context.createError({ params: { shape: { code: 'wrong-value', ...noDraw(value) } } })
      );
    },
  ),
  weights: fields({ weights: weights().required() }),
  poisson: fields({ poisson: anyNumber(0, 10_000).required() }),
  normal: fields({ normal: pair().required() }),
  lognormal: fields({ lognormal: pair().required() }),
  geometric: fields({ geometric: chance().required() }),
};
const keysOf = (value: object) => Object.keys(value).sort().join(',');

/** How an activity's event field is drawn: see `simulation/draw.ts` for the meaning of each. */
const draw = () =>
  inCells(
    'json',
    either<DrawDocument>(
      [
        { fits: isFormula, schema: condition() },
        { fits: (value) => typeof value === 'string', schema: anyText() },
        { fits: (value) => typeof value === 'number', schema: finiteNumber() },
        ...Object.entries(DRAWS).map(([keys, schema]) => ({
          fits: (value: unknown) => isRecord(value) && keysOf(value) === keys,
          schema,
        })),
      ],
      noDraw,
    ),
  );

const activitySchema = fields({
  name: name(),
  minutes: anyNumber(0.1, 1440).required(),
  needs: basket(),
  emits: mapOf(mapOf(draw(), ids('event-field')), ids('event')).required(),
});

const personaSchema = fields({
  name: name(),
  description: description(),
  attributes: mapOf(draw(), ids('attribute')),
  sessions: fields({
    perDay: anyNumber(0, 48).required(),
    minutes: anyNumber(0.1, 1440).required(),
    from: wholeNumber(0, 23),
    to: wholeNumber(0, 23),
  }).required(),
  plays: mapOf(anyNumber(0, 1_000_000), ids('activity')).required(),
  shops: fields({
    policy: choice('wishlist', 'impulse').required(),
    wishes: refs('item', 'item ids'),
    delayDays: anyNumber(0, 3650),
    chance: anyNumber(0, 1),
    keeps: basket(),
  }).required(),
  leaves: anyNumber(0, 1),
});

const scenarioSchema = fields({
  name: name(),
  description: description(),
  start: instant().required(),
  days: wholeNumber(1, 3650).required(),
  players: wholeNumber(1, 1_000_000).required(),
  seed: wholeNumber(0, 4_294_967_295),
  mix: mapOf(anyNumber(0, 1_000_000), ids('persona')).required(),
  set: mapOf(anyJson(), {
    test: (key) => key.startsWith('/'),
    rule: 'an override is a JSON pointer into the economy, such as /shops/pier_stall/shelves/frames/offers/storm_frame/price/shells',
    pattern: '^/',
    ref: 'place',
  }),
});

/** An economy as written: everything in it is optional but its name and time zone. */
export const economySchema = fields({
  name: name(),
  timeZone: timeZone().required(),
  language: languageTag(),
  seed: wholeNumber(0, 4_294_967_295),
  attributes: mapOf(
    fields({
      name: text(120),
      start: anyValue().required(),
    }),
    ids(),
  ),
  events: mapOf(fields({ name: text(120), fields: mapOf(valueType(), ids()) }), ids()),
  groups: mapOf(fields({ name: name() }), ids()),
  currencies: mapOf(currencySchema, ids()),
  items: mapOf(itemSchema, ids()),
  loot: mapOf(lootSchema, ids()),
  stores: mapOf(fields({ name: name(), fee: anyNumber(0, 1), tax: anyNumber(0, 1) }), ids()),
  shops: mapOf(shopSchema, ids()),
  sales: mapOf(saleSchema, ids()),
  texts: textsSchema(),
  earning: mapOf(earningSchema, ids()),
  activities: mapOf(activitySchema, ids()),
  personas: mapOf(personaSchema, ids()),
  scenarios: mapOf(scenarioSchema, ids()),
  audit: fields({
    bundleFloor: anyNumber(0, 1),
    earningFactor: anyNumber(1, 1000),
    silenced: mapOf(text(300), {
      test: (key) => /^[a-z][a-z-]* \//.test(key),
      rule: 'what is silenced is written as code and pointer, such as "missing-text /items/brass_key"',
      pattern: '^[a-z][a-z-]* /',
      ref: 'place',
      aside: true,
    }),
  }),
}).required();

export type EconomyDocument = InferType<typeof economySchema>;
export type ShopDocument = NonNullable<EconomyDocument['shops']>[string];
export type ShelfDocument = ShopDocument['shelves'][string];
export type ItemDocument = NonNullable<EconomyDocument['items']>[string];
export type SaleDocument = NonNullable<EconomyDocument['sales']>[string];
export type LootDocument = NonNullable<EconomyDocument['loot']>[string];
export type OfferDocument = ShelfDocument['offers'][string];
export type ActivityDocument = NonNullable<EconomyDocument['activities']>[string];
export type PersonaDocument = NonNullable<EconomyDocument['personas']>[string];
export type ScenarioDocument = NonNullable<EconomyDocument['scenarios']>[string];

/** The sections whose entries are kept by id, in the order files are written. */
export const SECTIONS = [
  'attributes',
  'events',
  'groups',
  'currencies',
  'items',
  'loot',
  'stores',
  'shops',
  'sales',
  'texts',
  'earning',
  'activities',
  'personas',
  'scenarios',
] as const;

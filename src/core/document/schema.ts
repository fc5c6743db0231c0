/**
 * The shape of an economy document: the one place it is written. TypeScript types, JSON Schema and the
 * checks of files, API and console all come from these schemas.
 * Everything is kept by id and in the order written, so a JSON pointer stays valid while others come and go.
 */
import type { InferType } from 'yup';
import { lootSchema } from './schemaLoot.js';
import { gives, price } from './schemaPrice.js';
import { languageTag, textsSchema } from './schemaTexts.js';
import { rotation, saleSchema, windows } from './schemaTime.js';
import {
  amount,
  anyNumber,
  basket,
  checked,
  choice,
  condition,
  duration,
  every,
  fields,
  id,
  instant,
  isId,
  isRecord,
  limits,
  mapOf,
  text,
  timeOfDay,
  timeZone,
  wholeNumber,
  yesNo,
} from '../schema/index.js';

const scalar = (value: unknown) => typeof value === 'string' || (typeof value === 'number' && Number.isFinite(value));
const name = () => text(120).required();
const description = () => text(1000);

const jsonValue = () =>
  checked<unknown>({}, (value) =>
    depthOf(value, 0) > 16 ? { code: 'too-deep', problem: 'more than 16 levels deep', fix: 'Flatten it.' } : undefined,
  );

function depthOf(value: unknown, depth: number): number {
  if (typeof value !== 'object' || value === null || depth > 16) return depth;
  return Math.max(depth, ...Object.values(value).map((inner) => depthOf(inner, depth + 1)));
}

const refill = fields({ amount: amount().required(), every: duration().required(), upTo: amount().required() });

const currencySchema = fields({
  name: name(),
  symbol: text(8),
  description: description(),
  decimals: wholeNumber(0, 4),
  start: amount(),
  cap: amount(),
  overCap: choice('clip', 'refuse'),
  premium: yesNo(),
  refill,
  rounding: choice('down', 'nearest', 'up'),
  ends: fields({ at: instant().required(), into: id(), rate: anyNumber(0, 1_000_000_000) }),
});

/** A list of up to 50 texts that `fits`; `what` names one of them. */
const listOf = (what: string, fits: (text: string) => boolean, json: object) =>
  checked<string[]>({ type: 'array', items: json, maxItems: 50 }, (value) =>
    Array.isArray(value) && value.length <= 50 && value.every((one) => typeof one === 'string' && fits(one))
      ? undefined
      : { problem: `a list of up to 50 ${what} is needed here`, fix: 'Write [one, two].' },
  );
const tags = () => listOf('tags', (tag) => tag.trim() !== '' && tag.length <= 64, { type: 'string', maxLength: 64 });
const ids = (what: string) => listOf(what, isId, { $ref: '#/$defs/id' });

/** What an attribute may be set to: a value, or a formula. */
const attributeValue = () =>
  checked<number | string | boolean>({ type: ['number', 'string', 'boolean'] }, (value) =>
    scalar(value) || typeof value === 'boolean'
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is not a number, a text, true or false`,
          fix: 'Write a value, or a formula in quotes that begins with "=".',
        },
  );

const itemSchema = fields({
  name: name(),
  description: description(),
  icon: text(64),
  group: id(),
  tags: tags(),
  kind: choice('durable', 'consumable', 'timed', 'bundle', 'box').required(),
  worth: basket(),
  carry: wholeNumber(1, Number.MAX_SAFE_INTEGER),
  stack: wholeNumber(1, 1_000_000),
  sellable: yesNo(),
  uses: wholeNumber(1, 1_000_000),
  lasts: duration(),
  gives: basket(),
  loot: id(),
  opensWith: fields({ item: id().required(), keeps: yesNo() }),
  onUse: fields({ set: mapOf(attributeValue()), gives: basket() }),
  yields: fields({
    gives: basket().required(),
    every: duration().required(),
    upTo: wholeNumber(1, 1_000_000).required(),
  }),
  properties: mapOf(jsonValue()),
});

const offerSchema = fields({
  name: text(120),
  description: description(),
  badge: text(40),
  gives: gives().required(),
  count: wholeNumber(1, 1_000_000),
  price: price(),
  stock: fields({
    units: wholeNumber(1, Number.MAX_SAFE_INTEGER).required(),
    scope: choice('shared', 'player'),
    restock: fields({
      amount: wholeNumber(1, Number.MAX_SAFE_INTEGER).required(),
      every: every().required(),
      at: timeOfDay(),
    }),
  }),
  limits: limits(),
  when: condition(),
  from: instant(),
  until: instant(),
  weight: anyNumber(0.001, 1_000_000),
  hidden: yesNo(),
});

const shelfSchema = fields({
  name: name(),
  hidden: yesNo(),
  rotation: rotation(),
  offers: mapOf(offerSchema).required(),
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
    groups: ids('groups'),
    tags: tags(),
    items: ids('item ids'),
    rate: anyNumber(0, 1_000_000).required(),
    of: choice('worth', 'paid'),
    pays: id(),
    resell: yesNo(),
  }),
  shelves: mapOf(shelfSchema).required(),
});

const earningSchema = fields({
  name: name(),
  on: id().required(),
  when: condition(),
  chance: checked<number | string>(
    {
      oneOf: [
        { type: 'number', minimum: 0, maximum: 1 },
        { type: 'string', pattern: '^=' },
      ],
    },
    (value) =>
      (typeof value === 'string' && value.startsWith('=')) || (typeof value === 'number' && value >= 0 && value <= 1)
        ? undefined
        : { problem: `${JSON.stringify(value)} is not a chance`, fix: 'Write a number from 0 to 1, or a formula.' },
  ),
  gives: basket(),
  loot: id(),
  takes: basket(),
  limits: limits(),
  cooldown: duration(),
});

const valueType = () => choice('number', 'text');

/** How an activity's event field is drawn: see `simulation/draw.ts` for the meaning of each. */
const draw = () =>
  checked<DrawDocument>({ oneOf: [{ type: ['number', 'string'] }, { type: 'object', maxProperties: 3 }] }, (value) => {
    if (scalar(value)) return undefined;
    const problem = {
      problem: `${JSON.stringify(value)} is not a way to draw a value`,
      fix: 'Write a constant, a formula, {from, to}, {weights: {value: weight}}, {poisson: mean}, {normal: [mean, deviation]}, {lognormal: [mu, sigma]} or {geometric: chance}.',
    };
    return isRecord(value) && drawIsKnown(value) ? undefined : problem;
  });
export type DrawDocument =
  | number
  | string
  | { from: number; to: number }
  | { weights: Record<string, number> }
  | { poisson: number }
  | { normal: [number, number] }
  | { lognormal: [number, number] }
  | { geometric: number };

const pair = (value: unknown): boolean =>
  Array.isArray(value) &&
  value.length === 2 &&
  value.every((one) => typeof one === 'number' && Number.isFinite(one)) &&
  (value[1] as number) >= 0;
const DRAW_SHAPES: Record<string, (value: Record<string, unknown>) => boolean> = {
  'from,to': ({ from, to }) => Number.isInteger(from) && Number.isInteger(to) && (from as number) <= (to as number),
  weights: ({ weights }) =>
    isRecord(weights) &&
    Object.keys(weights).length > 0 &&
    Object.values(weights).every((weight) => typeof weight === 'number' && weight >= 0 && Number.isFinite(weight)) &&
    Object.values(weights).some((weight) => (weight as number) > 0),
  poisson: ({ poisson }) => typeof poisson === 'number' && poisson >= 0 && poisson <= 10_000,
  normal: ({ normal }) => pair(normal),
  lognormal: ({ lognormal }) => pair(lognormal),
  geometric: ({ geometric }) => typeof geometric === 'number' && geometric > 0 && geometric <= 1,
};
function drawIsKnown(value: Record<string, unknown>): boolean {
  const shape = Object.keys(value).sort().join(',');
  return Object.hasOwn(DRAW_SHAPES, shape) && DRAW_SHAPES[shape]!(value);
}

const activitySchema = fields({
  name: name(),
  minutes: anyNumber(0.1, 1440).required(),
  needs: basket(),
  emits: mapOf(mapOf(draw())).required(),
});

const personaSchema = fields({
  name: name(),
  description: description(),
  attributes: mapOf(draw()),
  sessions: fields({
    perDay: anyNumber(0, 48).required(),
    minutes: anyNumber(0.1, 1440).required(),
    from: wholeNumber(0, 23),
    to: wholeNumber(0, 23),
  }).required(),
  plays: mapOf(anyNumber(0, 1_000_000)).required(),
  shops: fields({
    policy: choice('wishlist', 'impulse').required(),
    wishes: ids('item ids'),
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
  mix: mapOf(anyNumber(0, 1_000_000)).required(),
  set: mapOf(jsonValue(), {
    test: (key) => key.startsWith('/'),
    rule: 'an override is a JSON pointer into the economy, such as /shops/pier_stall/shelves/frames/offers/storm_frame/price/shells',
    pattern: '^/',
  }),
});

export const economySchema = fields({
  name: name(),
  timeZone: timeZone().required(),
  language: languageTag(),
  seed: wholeNumber(0, 4_294_967_295),
  attributes: mapOf(
    fields({
      name: text(120),
      start: attributeValue().required(),
    }),
  ),
  events: mapOf(fields({ name: text(120), fields: mapOf(valueType()) })),
  groups: mapOf(fields({ name: name() })),
  currencies: mapOf(currencySchema),
  items: mapOf(itemSchema),
  loot: mapOf(lootSchema),
  stores: mapOf(fields({ name: name(), fee: anyNumber(0, 1), tax: anyNumber(0, 1) })),
  shops: mapOf(shopSchema),
  sales: mapOf(saleSchema),
  texts: textsSchema(),
  earning: mapOf(earningSchema),
  activities: mapOf(activitySchema),
  personas: mapOf(personaSchema),
  scenarios: mapOf(scenarioSchema),
  audit: fields({
    bundleFloor: anyNumber(0, 1),
    earningFactor: anyNumber(1, 1000),
    silenced: mapOf(text(300), {
      test: (key) => /^[a-z][a-z-]* \//.test(key),
      rule: 'what is silenced is written as code and pointer, such as "missing-text /items/brass_key"',
      pattern: '^[a-z][a-z-]* /',
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

/**
 * The shape of an economy document: the one place it is written. TypeScript types, JSON Schema and the
 * checks of files, API and console all come from these schemas.
 * Everything is kept by id and in the order written, so a JSON pointer stays valid while others come and go.
 */
import { IANAZone } from 'luxon';
import type { InferType } from 'yup';
import {
  amount,
  anyNumber,
  basket,
  checked,
  choice,
  condition,
  duration,
  fields,
  id,
  isRecord,
  limits,
  mapOf,
  text,
  wholeNumber,
  yesNo,
} from './shapes.js';

const name = () => text(120).required();
const description = () => text(1000);

/** An ISO 8601 date or local time; without an offset it is in the economy's time zone. */
const INSTANT_PATTERN = /^\d{4}-\d\d-\d\d(T\d\d:\d\d(:\d\d)?(Z|[+-]\d\d:\d\d)?)?$/;

const instant = () =>
  checked<string>({ type: 'string', pattern: INSTANT_PATTERN.source }, (value) =>
    typeof value === 'string' && INSTANT_PATTERN.test(value) && !Number.isNaN(Date.parse(value))
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is not an instant`,
          fix: "Write it as 2027-03-01T09:00, in the economy's time zone, in quotes.",
        },
  );

const timeZone = () =>
  checked<string>({ type: 'string' }, (value) =>
    typeof value === 'string' && IANAZone.isValidZone(value)
      ? undefined
      : {
          problem: `${JSON.stringify(value)} is not a time zone`,
          fix: 'Write an IANA name, such as Europe/Lisbon or UTC.',
        },
  );

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
});

const itemSchema = fields({
  name: name(),
  description: description(),
  icon: text(64),
  group: id(),
  tags: checked<string[]>({ type: 'array', items: { type: 'string' }, maxItems: 50 }, (value) =>
    Array.isArray(value) && value.length <= 50 && value.every((tag) => typeof tag === 'string' && tag.trim() !== '')
      ? undefined
      : { problem: 'tags are a list of up to 50 texts', fix: 'Write [one, two].' },
  ),
  kind: choice('durable', 'consumable', 'bundle').required(),
  worth: basket(),
  carry: wholeNumber(1, Number.MAX_SAFE_INTEGER),
  stack: wholeNumber(1, 1_000_000),
  sellable: yesNo(),
  gives: basket(),
  properties: mapOf(jsonValue()),
});

/** `free`, a basket, or a list of baskets of which the player picks one. */
const price = () =>
  checked<'free' | Record<string, number | string> | Record<string, number | string>[]>(
    {
      oneOf: [
        { const: 'free' },
        { $ref: '#/$defs/basket' },
        { type: 'array', items: { $ref: '#/$defs/basket' }, minItems: 1, maxItems: 8 },
      ],
    },
    (value) => {
      if (value === 'free') return undefined;
      const baskets = Array.isArray(value) ? value : [value];
      if (baskets.length === 0 || baskets.length > 8 || !baskets.every(isRecord))
        return {
          problem: `${JSON.stringify(value)} is not a price`,
          fix: 'Write a basket such as {shells: 120}, a list of baskets to choose from, or free.',
        };
      for (const one of baskets) {
        const [first] = basketProblems(one);
        if (first) return first;
      }
      return undefined;
    },
  );

function basketProblems(value: unknown): { code: 'bad-amount'; problem: string; fix: string }[] {
  try {
    basket().validateSync(value, { strict: true });
    return [];
  } catch (error) {
    return [{ code: 'bad-amount', problem: (error as Error).message, fix: 'Write amounts of 0 or more by asset id.' }];
  }
}

/** An item id, or a basket. */
const gives = () =>
  checked<string | Record<string, number | string>>(
    { oneOf: [{ $ref: '#/$defs/id' }, { $ref: '#/$defs/basket' }] },
    (value) =>
      typeof value === 'string'
        ? undefined
        : isRecord(value)
          ? basketProblems(value)[0]
          : {
              code: 'wrong-type',
              problem: `${JSON.stringify(value)} cannot be given`,
              fix: 'Write an item id, or a basket such as {wax: 5}.',
            },
  );

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
    restock: fields({ amount: wholeNumber(1, Number.MAX_SAFE_INTEGER).required(), every: duration().required() }),
  }),
  limits: limits(),
  when: condition(),
  from: instant(),
  until: instant(),
  hidden: yesNo(),
});

const shelfSchema = fields({ name: name(), hidden: yesNo(), offers: mapOf(offerSchema).required() });

const shopSchema = fields({
  name: name(),
  description: description(),
  icon: text(64),
  when: condition(),
  from: instant(),
  until: instant(),
  hidden: yesNo(),
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
  takes: basket(),
  limits: limits(),
  cooldown: duration(),
});

const valueType = () => choice('number', 'text');
const scalar = (value: unknown) => typeof value === 'string' || (typeof value === 'number' && Number.isFinite(value));

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
    wishes: checked<string[]>({ type: 'array', items: { $ref: '#/$defs/id' } }, (value) =>
      Array.isArray(value) && value.every((wish) => typeof wish === 'string')
        ? undefined
        : { problem: 'wishes are a list of item ids', fix: 'Write [one_item, another_item].' },
    ),
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
  seed: wholeNumber(0, 4_294_967_295),
  attributes: mapOf(
    fields({
      name: text(120),
      start: checked<number | string>({ type: ['number', 'string'] }, (value) =>
        scalar(value)
          ? undefined
          : { problem: `${JSON.stringify(value)} is not a number or a text`, fix: 'Write what a new player has.' },
      ).required(),
    }),
  ),
  events: mapOf(fields({ name: text(120), fields: mapOf(valueType()) })),
  groups: mapOf(fields({ name: name() })),
  currencies: mapOf(currencySchema),
  items: mapOf(itemSchema),
  shops: mapOf(shopSchema),
  earning: mapOf(earningSchema),
  activities: mapOf(activitySchema),
  personas: mapOf(personaSchema),
  scenarios: mapOf(scenarioSchema),
}).required();

export type EconomyDocument = InferType<typeof economySchema>;
export type ShopDocument = NonNullable<EconomyDocument['shops']>[string];
export type ShelfDocument = ShopDocument['shelves'][string];
export type OfferDocument = ShelfDocument['offers'][string];
export type ActivityDocument = NonNullable<EconomyDocument['activities']>[string];
export type PersonaDocument = NonNullable<EconomyDocument['personas']>[string];
export type ScenarioDocument = NonNullable<EconomyDocument['scenarios']>[string];
export type BasketDocument = Record<string, number | string>;

/** The sections whose entries are kept by id, in the order files are written. */
export const SECTIONS = [
  'attributes',
  'events',
  'groups',
  'currencies',
  'items',
  'shops',
  'earning',
  'activities',
  'personas',
  'scenarios',
] as const;

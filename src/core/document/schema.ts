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
  called,
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
  inForms,
  instant,
  isFormula,
  isRecord,
  limits,
  listOf,
  mapOf,
  orFormula,
  refTo,
  said,
  text,
  timeOfDay,
  timeZone,
  whole,
  wholeNumber,
  worded,
  yesNo,
} from '../schema/index.js';
import type { Misfit, RefKind } from '../schema/index.js';
import { ITEM_KIND_NAMES, ITEM_KIND_WORDS } from './itemKinds.js';
import { leverSchema, targetSchema } from './schemaBalance.js';
import { MOST_CASES, caseSchema } from './schemaCases.js';
import { lootSchema } from './schemaLoot.js';
import { gives, price } from './schemaPrice.js';
import { goalSchema, trackSchema } from './schemaProgress.js';
import { rankingSchema, share, teamSchema } from './schemaTeams.js';
import { languageTag, textsSchema } from './schemaTexts.js';
import { rotation, saleSchema, windows } from './schemaTime.js';

const name = () => text(120).required();
const description = () => text(1000);

const refill = fields({
  amount: said('Amount', 'How much comes each time.', amount().required()),
  every: said('Every', 'How long it takes to come.', duration().required()),
  upTo: said('Up to', 'No more comes once the player has this much.', amount().required()),
});

/** The name of exactly one, where it differs from that of many: Pearl beside Pearls. */
const singular = () => text(120);

const currencySchema = fields({
  name: said('Name', 'What players call it.', name()),
  singular: said('Name of one', 'What exactly one is called, where that differs.', singular()),
  symbol: said('Symbol', 'A short sign, such as an emoji.', text(8)),
  description: said('Description', 'A sentence for players.', description()),
  decimals: said('Decimals', 'Digits after the point.', wholeNumber(0, 4)),
  start: said('New players have', 'What a new player begins with.', amount()),
  cap: said('Cap', 'The most that a player can have.', amount()),
  overCap: said(
    'Above the cap',
    'What happens to earnings that would pass the cap.',
    worded({ clip: 'what is too much is lost', refuse: 'nothing of it is given' }, choice('clip', 'refuse')),
  ),
  premium: said('Sold for money', 'It counts as money that players paid.', yesNo()),
  refill: said('Refill', 'It comes back by itself.', refill),
  rounding: said(
    'Rounding',
    'How results of formulas become whole units.',
    worded({ down: 'down', nearest: 'to the nearest', up: 'up' }, choice('down', 'nearest', 'up')),
  ),
  ends: said(
    'Ends',
    'When it ends, and what it turns into.',
    whole(
      fields({
        at: said('At', 'When it ends.', instant().required()),
        into: said(
          'Turns into',
          'The currency that is given for what is left; without one it is lost.',
          refTo('currency'),
        ),
        rate: said('Rate', 'How much of that is given for one.', anyNumber(0, 1_000_000_000)),
      }),
    ),
  ),
});

const tags = () => inCells('list', listOf(text(64), { most: 50, of: 'tags' }));
const refs = (kind: RefKind, of: string) => inCells('list', listOf(refTo(kind), { most: 50, of }));

/** What an attribute may be set to: a value, or a formula. */
const attributeValue = () => inCells('value', orFormula(anyValue(), 'a value'));

const itemSchema = fields({
  name: said('Name', 'What players call it.', name()),
  singular: said('Name of one', 'What exactly one is called, where that differs.', singular()),
  description: said('Description', 'A sentence for players.', description()),
  icon: said('Icon', 'An emoji, or a picture.', inForms('icon', text(64))),
  group: said('Group', 'What it belongs to, for sales and reports.', refTo('group')),
  tags: said('Tags', 'Words to pick it by.', tags()),
  kind: said(
    'Kind',
    'What it is to a player who owns it.',
    worded(ITEM_KIND_WORDS, choice(...ITEM_KIND_NAMES)).required(),
  ),
  worth: said('Worth', 'What an offer asks that says no price.', basket()),
  carry: said('Carry limit', 'The most that a player may hold.', wholeNumber(1, Number.MAX_SAFE_INTEGER)),
  stack: said('Stack', 'How many units lie in one slot.', wholeNumber(1, 1_000_000)),
  sellable: said('Sells back', 'Whether a shop may take it back.', yesNo()),
  uses: said('Uses', 'How often one unit can be used.', wholeNumber(1, 1_000_000)),
  lasts: said('Lasts', 'How long it is good after it arrives.', duration()),
  gives: said('Gives', 'What is in it.', basket()),
  loot: said('Loot table', 'What it draws from.', refTo('loot')),
  opensWith: said(
    'Opens with',
    'The key that it takes.',
    inCells(
      'key',
      fields({
        item: said('Key', 'The item that opens it.', refTo('item').required()),
        keeps: said('The key is kept', 'Otherwise it is used up.', yesNo()),
      }),
    ),
  ),
  onUse: said(
    'On use',
    'What using it does.',
    fields({
      set: said(
        'Sets',
        'Attributes of the player, and their new values or formulas.',
        mapOf(attributeValue(), ids('attribute')),
      ),
      gives: said('Gives', 'What the player gets.', basket()),
    }),
  ),
  yields: said(
    'Yields',
    'What gathers while it is owned.',
    fields({
      gives: said('Gives', 'What gathers each time.', basket().required()),
      every: said('Every', 'How long it takes each time.', duration().required()),
      upTo: said('At most', 'So many times until it is collected.', wholeNumber(1, 1_000_000).required()),
    }),
  ),
  properties: said('Properties', 'Anything else that the game wants to know.', mapOf(anyJson(), ids())),
});

const offerSchema = whole(
  fields({
    name: said('Name', 'What players call it.', text(120)),
    description: said('Description', 'A sentence for players.', description()),
    badge: said('Badge', 'A word that stands out, such as New.', text(40)),
    gives: said('Gives', 'What the player gets.', gives().required()),
    count: said('How many', 'Of a single item.', wholeNumber(1, 1_000_000)),
    price: said('Price', 'What it asks; the worth of the item where nothing is written.', price()),
    stock: said(
      'Stock',
      'How many there are.',
      inCells(
        'stock',
        fields({
          units: said(
            'Units',
            'How many there are at first, and after a restock at most.',
            wholeNumber(1, Number.MAX_SAFE_INTEGER).required(),
          ),
          scope: said(
            'Counted',
            'For all players together, or for each.',
            worded({ shared: 'for all players together', player: 'for each player' }, choice('shared', 'player')),
          ),
          restock: said(
            'Restock',
            'More come by themselves.',
            fields({
              amount: said('Amount', 'How many come each time.', wholeNumber(1, Number.MAX_SAFE_INTEGER).required()),
              every: said('Every', 'How long it takes, or a calendar word.', every().required()),
              at: said('At', 'The time of day at which they come.', timeOfDay()),
            }),
          ),
        }),
      ),
    ),
    limits: said('Limits', 'How often a player may buy it.', limits()),
    when: said('Only if', 'A formula that must hold for the player.', condition()),
    from: said('From', 'When it begins; at once where nothing is written.', instant()),
    until: said('Until', 'When it ends; never where nothing is written.', instant()),
    weight: said(
      'Weight',
      'How likely it is picked where the shelf rotates; 1 where nothing is written.',
      anyNumber(0.001, 1_000_000),
    ),
    hidden: said('Hidden', 'Players do not see it.', yesNo()),
  }),
);

const shelfSchema = fields({
  name: said('Name', 'What players call it.', name()),
  hidden: said('Hidden', 'Players do not see it.', yesNo()),
  rotation: said('Rotation', 'Some of its offers are on show at a time.', rotation()),
  offers: said('Offers', 'What lies on it.', mapOf(offerSchema, ids()).required()),
});

const shopSchema = fields({
  name: said('Name', 'What players call it.', name()),
  description: said('Description', 'A sentence for players.', description()),
  icon: said('Icon', 'An emoji, or a picture.', inForms('icon', text(64))),
  when: said('Only if', 'A formula that must hold for the player.', condition()),
  from: said('From', 'When it begins; at once where nothing is written.', instant()),
  until: said('Until', 'When it ends; never where nothing is written.', instant()),
  open: said('Opening hours', 'When it is open; always where nothing is written.', windows()),
  hidden: said('Hidden', 'Players do not see it.', yesNo()),
  till: said(
    'Till',
    'The money that it can pay out.',
    fields({
      holds: said('Holds', 'What is in it at first, and at most.', basket().required()),
      refill: said(
        'Refill',
        'It is filled up again.',
        fields({
          gives: said('Gives', 'What comes each time.', basket().required()),
          every: said('Every', 'How long it takes each time.', duration().required()),
        }),
      ),
    }),
  ),
  buyback: said(
    'Buys back',
    'What players may sell to it.',
    fields({
      groups: said('Groups', 'Items of these groups.', refs('group', 'groups')),
      tags: said('Tags', 'Items with one of these tags.', tags()),
      items: said('Items', 'These items.', refs('item', 'item ids')),
      rate: said('Rate', 'What part of the worth or price it pays.', anyNumber(0, 1_000_000).required()),
      of: said(
        'Of',
        'Of what that is a part.',
        worded({ worth: 'its worth', paid: 'what was paid for it' }, choice('worth', 'paid')),
      ),
      pays: said(
        'Pays in',
        'One of the currencies of the worth; all of them where nothing is written.',
        refTo('currency'),
      ),
      resell: said('Sells them on', 'What it bought can be bought from it again.', yesNo()),
    }),
  ),
  shelves: said('Shelves', 'What its offers lie on.', mapOf(shelfSchema, ids()).required()),
});

const earningSchema = fields({
  name: said('Name', 'What designers call it.', name()),
  on: said('On', 'The event that it pays for.', refTo('event').required()),
  when: said('Only if', 'A formula that must hold, of the player and of the event.', condition()),
  chance: said(
    'Chance',
    'How often it pays, from 0 to 1, or a formula.',
    inCells('amount', orFormula(anyNumber(0, 1), 'a chance')),
  ),
  gives: said('Gives', 'What the player gets.', basket()),
  loot: said('Loot table', 'What it draws from beside that.', refTo('loot')),
  share: said('Share', 'What part of the money that it gives goes to the team instead.', share()),
  takes: said('Takes', 'What the player loses.', basket()),
  limits: said('Limits', 'How often a player is paid.', limits()),
  cooldown: said('Pause', 'How long nothing more is paid afterwards.', duration()),
});

const valueType = () => worded({ number: 'a number', text: 'a text' }, choice('number', 'text'));

export type DrawDocument =
  | number
  | string
  | { from: number; to: number }
  | { weights: Record<string, number> }
  | { chosen: Record<string, number> }
  | { poisson: number }
  | { normal: [number, number] }
  | { lognormal: [number, number] }
  | { geometric: number };

const noDraw = (value: unknown): Misfit => ({
  problem: `${JSON.stringify(value)} is not a way to draw a value`,
  fix: 'Write a constant, a formula, {from, to}, {weights: {value: weight}}, {chosen: {value: weight}}, {poisson: mean}, {normal: [mean, deviation]}, {lognormal: [mu, sigma]} or {geometric: chance}.',
});
/** A mean and a deviation, which is 0 or more. */
const pair = () =>
  checked<[number, number]>(
    {
      type: 'array',
      prefixItems: [{ type: 'number' }, { type: 'number', minimum: 0 }],
      // Beside what stands at each place, for generators that know nothing of places.
      items: { type: 'number' },
      minItems: 2,
      maxItems: 2,
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
  // What the player decides, and how often each is decided where nothing else says it.
  chosen: fields({ chosen: weights().required() }),
  poisson: fields({ poisson: anyNumber(0, 10_000).required() }),
  normal: fields({ normal: pair().required() }),
  lognormal: fields({ lognormal: pair().required() }),
  geometric: fields({ geometric: chance().required() }),
};
const keysOf = (value: object) => Object.keys(value).sort().join(',');

/** How an activity's event field is drawn: see `simulation/draw.ts` for the meaning of each. */
const draw = () =>
  inCells(
    'draw',
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
  name: said('Name', 'What designers call it.', name()),
  minutes: said('Minutes', 'How long it takes.', anyNumber(0.1, 1440).required()),
  needs: said('Needs', 'What it costs to begin.', basket()),
  emits: said(
    'Reports',
    'The events that it ends with, and how their fields are drawn.',
    mapOf(mapOf(draw(), ids('event-field')), ids('event')).required(),
  ),
});

const HOUR = /^(?:\d|1\d|2[0-3])$/;

/** As weeks go: Monday first. */
export const WEEKDAYS = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const;
export type Weekday = (typeof WEEKDAYS)[number];
const timesAsMany = (day: Weekday) =>
  said(day[0]!.toUpperCase() + day.slice(1), 'Times as many as on average.', anyNumber(0, 48));
type TimesAsMany = ReturnType<typeof timesAsMany>;

const personaSchema = fields({
  name: said('Name', 'What designers call it.', name()),
  description: said('Description', 'Who that is.', description()),
  attributes: said('Attributes', 'What they are, or how that is drawn.', mapOf(draw(), ids('attribute'))),
  sessions: said(
    'Sessions',
    'How often and how long they play.',
    fields({
      perDay: said('Per day', 'How many on average.', anyNumber(0, 48).required()),
      fixed: said('Fixed', 'Every day has exactly that many.', yesNo()),
      minutes: said('Minutes', 'How long one is.', anyNumber(0.1, 1440).required()),
      from: said('From hour', 'The first hour in which they begin.', wholeNumber(0, 23)),
      to: said('To hour', 'The last hour in which they begin.', wholeNumber(0, 23)),
      hours: said(
        'Hours',
        'In which hours they begin, from 0 to 23, and how often beside each other; instead of from and to.',
        mapOf(anyNumber(0, 1_000_000), {
          test: (key) => HOUR.test(key),
          rule: 'an hour is a number from 0 to 23, such as 18: 2.5',
          pattern: HOUR.source,
        }),
      ),
      weekdays: said(
        'Weekdays',
        'How many times as many there are on a day of the week; once where nothing is written.',
        fields(Object.fromEntries(WEEKDAYS.map((day) => [day, timesAsMany(day)])) as Record<Weekday, TimesAsMany>),
      ),
    }).required(),
  ),
  plays: said(
    'Plays',
    'Which activities, and how often beside each other.',
    inForms('weights', mapOf(anyNumber(0, 1_000_000), ids('activity')).required()),
  ),
  playsFor: said(
    'Plays for',
    'What is theirs to choose they choose for the best pay in this currency; by weights where nothing is picked.',
    refTo('currency'),
  ),
  shops: said(
    'Shops',
    'How they spend.',
    fields({
      policy: said(
        'Way of spending',
        'Save for wishes, or buy on impulse.',
        worded({ wishlist: 'saves for wishes', impulse: 'buys on impulse' }, choice('wishlist', 'impulse')).required(),
      ),
      wishes: said('Wishes', 'What they save for, in this order.', refs('item', 'item ids')),
      delayDays: said('Patience', 'Nothing is bought that delays the next wish by more days.', anyNumber(0, 3650)),
      chance: said('Chance', 'That something affordable is bought at a visit.', anyNumber(0, 1)),
      keeps: said('Keeps', 'What they never spend.', basket()),
    }).required(),
  ),
  leaves: said('Leaves', 'The chance to leave for good, each day.', anyNumber(0, 1)),
});

const scenarioSchema = fields({
  name: said('Name', 'What designers call it.', name()),
  description: said('Description', 'What it is to find out.', description()),
  start: said('Begins', 'The first day.', instant().required()),
  days: said('Days', 'How many.', wholeNumber(1, 3650).required()),
  players: said('Players', 'How many.', wholeNumber(1, 1_000_000).required()),
  seed: said('Seed', 'For the luck; the same seed gives the same run.', wholeNumber(0, 4_294_967_295)),
  mix: said(
    'Mix',
    'Which personas, and how many beside each other.',
    inForms('weights', mapOf(anyNumber(0, 1_000_000), ids('persona')).required()),
  ),
  set: said(
    'Changes',
    'Values of the economy that are otherwise in this run.',
    mapOf(anyJson(), {
      test: (key) => key.startsWith('/'),
      rule: 'an override is a JSON pointer into the economy, such as /shops/pier_stall/shelves/frames/offers/storm_frame/price/shells',
      pattern: '^/',
      ref: 'place',
    }),
  ),
});

/** An economy as written: everything in it is optional but its name and time zone. */
export const economySchema = fields({
  name: said('Name', 'What the economy is called.', name()),
  timeZone: said('Time zone', 'In which its days, weeks and windows are.', timeZone().required()),
  language: said('Language', 'In which names and descriptions are written.', languageTag()),
  seed: said('Seed', 'For the luck of rotations and earning.', wholeNumber(0, 4_294_967_295)),
  attributes: said(
    'Attributes',
    'What formulas may know of a player.',
    mapOf(
      called(
        'attribute',
        fields({
          name: said('Name', 'What it is called.', text(120)),
          start: said('New players have', 'The value of a new player.', anyValue().required()),
        }),
      ),
      ids(),
    ),
  ),
  events: said(
    'Events',
    'What the game reports.',
    mapOf(
      called(
        'event',
        fields({
          name: said('Name', 'What it is called.', text(120)),
          fields: said('Fields', 'What it tells, and of which type.', mapOf(valueType(), ids())),
        }),
      ),
      ids(),
    ),
  ),
  groups: said(
    'Groups',
    'What items belong to.',
    mapOf(called('group', fields({ name: said('Name', 'What it is called.', name()) })), ids()),
  ),
  currencies: said('Currencies', 'What things are paid with.', mapOf(called('currency', currencySchema), ids())),
  items: said('Items', 'What players own.', mapOf(called('item', itemSchema), ids())),
  loot: said('Loot tables', 'What boxes and rewards draw from.', mapOf(called('loot table', lootSchema), ids())),
  stores: said(
    'Stores',
    'Where real money is paid.',
    mapOf(
      called(
        'store',
        fields({
          name: said('Name', 'What it is called.', name()),
          fee: said('Fee', 'The part that the store keeps.', anyNumber(0, 1)),
          rounding: said(
            'Rounding of the fee',
            'How the store rounds its part to whole cents; up where nothing is written, so that net is never told too high.',
            worded({ up: 'up', nearest: 'to the nearest', down: 'down' }, choice('up', 'nearest', 'down')),
          ),
          tax: said('Tax', 'The part that is tax, in what players pay.', anyNumber(0, 1)),
        }),
      ),
      ids(),
    ),
  ),
  shops: said('Shops', 'Where offers stand.', mapOf(called('shop', shopSchema), ids())),
  sales: said('Sales', 'Lower prices for a time.', mapOf(called('sale', saleSchema), ids())),
  texts: said('Texts', 'What players read in other languages, and words of your own.', textsSchema()),
  earning: said('Earning rules', 'What events pay.', mapOf(called('earning rule', earningSchema), ids())),
  goals: said('Goals', 'What players work towards.', mapOf(called('goal', goalSchema), ids())),
  tracks: said('Tracks', 'Levels, by what was earned.', mapOf(called('track', trackSchema), ids())),
  teams: said('Teams', 'Kinds of teams that players can join.', mapOf(called('kind of team', teamSchema), ids())),
  rankings: said('Rankings', 'Who is first, and who is next.', mapOf(called('ranking', rankingSchema), ids())),
  activities: said('Activities', 'What made-up players do.', mapOf(called('activity', activitySchema), ids())),
  personas: said('Personas', 'Kinds of made-up players.', mapOf(called('persona', personaSchema), ids())),
  scenarios: said(
    'Scenarios',
    'Simulations that are ready to be run.',
    mapOf(called('scenario', scenarioSchema), ids()),
  ),
  targets: said('Targets', 'What a run is held against.', mapOf(called('target', targetSchema), ids())),
  levers: said(
    'Levers',
    'Numbers that may move while prices are looked for.',
    mapOf(called('lever', leverSchema), ids()),
  ),
  cases: said(
    'Cases',
    'What must stay true, whatever is changed.',
    mapOf(called('case', caseSchema), ids(), MOST_CASES),
  ),
  audit: said(
    'Audit',
    'What findings are measured against.',
    fields({
      bundleFloor: said('Least price of a bundle', 'As a part of what its parts cost.', anyNumber(0, 1)),
      earningFactor: said(
        'Most pay of an activity',
        'As a multiple of what the intended ones pay a minute.',
        anyNumber(1, 1000),
      ),
      brokenCases: said(
        'Broken cases',
        'Whether something can be published while cases are broken; it cannot where nothing is written.',
        worded({ refuse: 'nothing can be published', warn: 'publishing warns' }, choice('refuse', 'warn')),
      ),
      silenced: said(
        'Silenced',
        'Findings that are left unsaid, with the reason.',
        mapOf(text(300), {
          test: (key) => /^[a-z][a-z-]* \//.test(key),
          rule: 'what is silenced is written as code and pointer, such as "missing-text /items/brass_key"',
          pattern: '^[a-z][a-z-]* /',
          ref: 'place',
          aside: true,
        }),
      ),
    }),
  ),
}).required();

export type EconomyDocument = InferType<typeof economySchema>;
export type ShopDocument = NonNullable<EconomyDocument['shops']>[string];
export type ShelfDocument = ShopDocument['shelves'][string];
export type ItemDocument = NonNullable<EconomyDocument['items']>[string];
export type SaleDocument = NonNullable<EconomyDocument['sales']>[string];
export type LootDocument = NonNullable<EconomyDocument['loot']>[string];
export type OfferDocument = ShelfDocument['offers'][string];
export type GoalDocument = NonNullable<EconomyDocument['goals']>[string];
export type TrackDocument = NonNullable<EconomyDocument['tracks']>[string];
export type RankingDocument = NonNullable<EconomyDocument['rankings']>[string];
export type ActivityDocument = NonNullable<EconomyDocument['activities']>[string];
export type PersonaDocument = NonNullable<EconomyDocument['personas']>[string];
export type ScenarioDocument = NonNullable<EconomyDocument['scenarios']>[string];
export type TargetDocument = NonNullable<EconomyDocument['targets']>[string];
export type LeverDocument = NonNullable<EconomyDocument['levers']>[string];
export type CaseDocument = NonNullable<EconomyDocument['cases']>[string];

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
  'goals',
  'tracks',
  'teams',
  'rankings',
  'activities',
  'personas',
  'scenarios',
  'targets',
  'levers',
  'cases',
] as const;

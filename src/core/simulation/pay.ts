/**
 * What play pays a minute, for every way of playing: exactly where what an event tells can only be so much, else by many
 * tries with their interval. What can be repeated without end, by rules without limit or pause, is told apart from what
 * is paid while limits last. docs/method.md.
 */
import { quantitiesEvaluate } from '../economy/index.js';
import type { Activity, DrawRule, EarningRule, Economy, Persona } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { lootMeans } from '../loot/index.js';
import { playerCreate, playerScope, playerWith } from '../player/index.js';
import { randomStream } from '../random/index.js';
import { drawMake, drawValue } from './draw.js';
import { meanWithInterval } from './statistics.js';

/** What a player chooses, by event and field: `{race_finished: {difficulty: 3}}`. */
export type Choices = Readonly<Record<string, Readonly<Record<string, Value>>>>;

/** What a minute comes to, in smallest units; with an interval where it was tried, the same three times where it is exact. */
export interface Pay {
  mean: number;
  low: number;
  high: number;
}

export interface PlayWay {
  activity: string;
  name: string;
  minutes: number;
  /** Nothing where the activity leaves nothing to choose. */
  choices: Choices;
  /** By asset: again and again, and while no limit is reached. */
  perMinute: Record<string, Pay>;
  first: Record<string, Pay>;
  exact: boolean;
  /** Rules for its events that have a limit or a pause, and so do not count. */
  limited: string[];
  /** Rules of which a part goes to a player's team; what is told is all of it, as for a player who is in none. */
  shared: string[];
}

/** How often a way is tried that cannot be worked out exactly; the streams are keyed, so the answer is always the same. */
const TRIES = 2000;
/** As many cases are looked at one by one. */
const MOST_CASES = 5000;
/** As many ways of one activity are told apart. */
const MOST_WAYS = 200;

/** A new player, with other attributes where they are given. */
export function payScope(economy: Economy, attributes: Readonly<Record<string, Value>> = {}): Scope {
  const { player } = playerCreate(economy, 'new_player', 'New player', 0);
  return playerScope(economy, playerWith(player, { attributes: { ...player.attributes, ...attributes } }), 0);
}

/** Every way of playing an activity; one where nothing is the player's choice. */
export const activityWays = (economy: Economy, activity: Activity, scope: Scope): PlayWay[] =>
  choicesOf(activity).map((choices) => ({
    activity: activity.id,
    name: activity.name,
    minutes: activity.minutes,
    choices,
    ...activityPay(economy, activity, scope, choices),
  }));

/** All combinations of what is the player's choice, in the order written. */
function choicesOf({ emits }: Activity): Choices[] {
  let all: Choices[] = [{}];
  for (const { event, fields } of emits)
    for (const { field, draw } of fields)
      if (draw.kind === 'chosen')
        all = all.flatMap((choices) =>
          draw.values.map(({ value }) => ({ ...choices, [event]: { ...choices[event], [field]: value } })),
        );
  return all.slice(0, MOST_WAYS);
}

/** What a minute of an activity pays; what is not chosen is drawn by its weights. `tries`: of what has no end of cases. */
export function activityPay(
  economy: Economy,
  activity: Activity,
  scope: Scope,
  choices: Choices = {},
  tries = TRIES,
): Omit<PlayWay, 'activity' | 'name' | 'minutes' | 'choices'> {
  const isLimited = ({ limits, cooldownMs }: EarningRule): boolean => limits.length > 0 || cooldownMs !== undefined;
  const limited = new Set<string>();
  const shared = new Set<string>();
  let exact = true;
  const sums = { perMinute: {} as Record<string, Pay>, first: {} as Record<string, Pay> };
  for (const { event, fields: written } of activity.emits) {
    const rules = economy.earningByEvent.get(event) ?? [];
    const fields = written.map(({ field, draw }) => ({ field, draw: chosenDraw(draw, choices[event]?.[field]) }));
    const cases = fieldCases(fields, scope);
    exact &&= cases !== undefined;
    for (const rule of rules.filter(isLimited)) limited.add(rule.id);
    for (const rule of rules.filter(({ share }) => share.size > 0)) shared.add(rule.id);
    const paid = (some: readonly EarningRule[]): Record<string, Pay> =>
      cases
        ? payOfCases(economy, some, scope, cases)
        : payTried(economy, some, scope, fields, { activity: activity.id, tries });
    const all = paid(rules);
    payAdd(sums.first, all, activity.minutes);
    const unlimited = rules.filter((rule) => !isLimited(rule));
    payAdd(sums.perMinute, unlimited.length === rules.length ? all : paid(unlimited), activity.minutes);
  }
  return { ...sums, exact, limited: [...limited], shared: [...shared] };
}

function payAdd(sums: Record<string, Pay>, pays: Readonly<Record<string, Pay>>, minutes: number): void {
  for (const asset in pays) {
    const [sum, pay] = [(sums[asset] ??= { mean: 0, low: 0, high: 0 }), pays[asset]!];
    sum.mean += pay.mean / minutes;
    sum.low += pay.low / minutes;
    sum.high += pay.high / minutes;
  }
}

const chosenDraw = (draw: DrawRule, value: Value | undefined): DrawRule =>
  value === undefined ? draw : { kind: 'constant', value };

interface FieldDraw {
  field: string;
  draw: DrawRule;
}
type Case = { values: Map<string, Value>; chance: number };

/** All that the fields of an event can be, each with its chance; undefined where there is no end of it. */
function fieldCases(fields: readonly FieldDraw[], scope: Scope): Case[] | undefined {
  let cases: Case[] = [{ values: new Map(), chance: 1 }];
  for (const { field, draw } of fields) {
    const values = drawCases(draw, scope);
    if (!values || cases.length * values.length > MOST_CASES) return undefined;
    cases = cases.flatMap(({ values: before, chance }) =>
      values.map(([value, part]) => ({ values: new Map([...before, [field, value]]), chance: chance * part })),
    );
  }
  return cases;
}

function drawCases(draw: DrawRule, scope: Scope): [Value, number][] | undefined {
  switch (draw.kind) {
    case 'constant':
      return [[draw.value, 1]];
    case 'formula':
      return [[draw.formula.run(scope), 1]];
    case 'range': {
      const count = draw.to - draw.from + 1;
      return count > MOST_CASES
        ? undefined
        : Array.from({ length: count }, (_, place) => [draw.from + place, 1 / count]);
    }
    case 'weights':
    case 'chosen': {
      const total = draw.values.reduce((sum, { weight }) => sum + weight, 0);
      return draw.values.flatMap(({ value, weight }) => (weight > 0 ? [[value, weight / total]] : []));
    }
    default:
      return undefined;
  }
}

const eventScope = (scope: Scope, values: ReadonlyMap<string, Value>): Scope => ({
  ...scope,
  name: (name) => values.get(name) ?? scope.name(name),
});

function payOfCases(
  economy: Economy,
  rules: readonly EarningRule[],
  scope: Scope,
  cases: readonly Case[],
): Record<string, Pay> {
  const sums: Record<string, number> = {};
  for (const { values, chance } of cases) {
    const pays = rulesPay(economy, rules, eventScope(scope, values));
    for (const asset in pays) sums[asset] = (sums[asset] ?? 0) + chance * pays[asset]!;
  }
  return Object.fromEntries(Object.entries(sums).map(([asset, mean]) => [asset, { mean, low: mean, high: mean }]));
}

function payTried(
  economy: Economy,
  rules: readonly EarningRule[],
  scope: Scope,
  fields: readonly FieldDraw[],
  { activity, tries }: { activity: string; tries: number },
): Record<string, Pay> {
  const random = randomStream(economy.seed, 'pay', activity);
  const draws = fields.map(({ draw }) =>
    drawMake(
      draw,
      random,
      ({ run }) =>
        () =>
          run(scope),
    ),
  );
  const tried: Record<string, Float64Array> = {};
  /** What is drawn again pays the same again, and most draws are whole numbers of which there are few. */
  const known = new Map<string, Record<string, number>>();
  for (let n = 0; n < tries; n++) {
    const drawn = draws.map((draw) => draw());
    const key = JSON.stringify(drawn);
    let pays = known.get(key);
    if (!pays) {
      const values = new Map(fields.map(({ field }, place) => [field, drawn[place]!]));
      known.set(key, (pays = rulesPay(economy, rules, eventScope(scope, values))));
    }
    for (const asset in pays) (tried[asset] ??= new Float64Array(tries))[n] = pays[asset]!;
  }
  return Object.fromEntries(
    Object.entries(tried).map(([asset, all]) => {
      const { mean, low, high } = meanWithInterval(all);
      return [asset, { mean: mean!, low: low!, high: high! }];
    }),
  );
}

/** What rules pay for an event on average, less what they take; what their tables give as they do in the long run. */
function rulesPay(economy: Economy, rules: readonly EarningRule[], scope: Scope): Record<string, number> {
  const total: Record<string, number> = {};
  for (const rule of rules) {
    if (rule.when && rule.when.run(scope) !== true) continue;
    const chance = Math.min(1, typeof rule.chance === 'number' ? rule.chance : (rule.chance.run(scope) as number));
    const add = (asset: string, units: number): void => {
      total[asset] = (total[asset] ?? 0) + chance * units;
    };
    const gives = quantitiesEvaluate(rule.gives, scope);
    const takes = quantitiesEvaluate(rule.takes, scope);
    if (gives.ok) for (const asset in gives.basket) add(asset, gives.basket[asset]!);
    if (takes.ok) for (const asset in takes.basket) add(asset, -takes.basket[asset]!);
    const drawn = rule.loot === undefined ? {} : lootMeans(economy, economy.loot.get(rule.loot)!, scope);
    for (const asset in drawn) add(asset, drawn[asset]!);
  }
  return total;
}

/** How many made-up players of a persona are asked which way pays best, and how often each tries what cannot be worked out. */
const ASKED = 40;
const TRIES_EACH = 50;

/**
 * The personas of an economy of whom some play for the best pay of a currency: what they may choose is then the one way of
 * each activity that pays most on average over players of that persona, the first of several.
 */
export function personasChoosing(economy: Economy): Economy['personas'] {
  if ([...economy.personas.values()].every(({ playsFor }) => playsFor === undefined)) return economy.personas;
  return new Map(
    [...economy.personas].map(([id, persona]) => [
      id,
      persona.playsFor === undefined
        ? persona
        : {
            ...persona,
            plays: persona.plays.map(({ activity, weight }) => ({
              activity: activityChosen(economy, activity, persona, persona.playsFor!),
              weight,
            })),
          },
    ]),
  );
}

function activityChosen(economy: Economy, activity: Activity, persona: Persona, currency: string): Activity {
  const ways = choicesOf(activity);
  if (ways.length < 2) return activity;
  const random = randomStream(economy.seed, 'choosing', persona.id);
  const blank = payScope(economy);
  const scopes = Array.from({ length: persona.attributes.length === 0 ? 1 : ASKED }, () =>
    payScope(
      economy,
      Object.fromEntries(persona.attributes.map(({ attribute, draw }) => [attribute, drawValue(draw, random, blank)])),
    ),
  );
  const paid = ways.map((choices) =>
    scopes.reduce(
      (sum, scope) => sum + (activityPay(economy, activity, scope, choices, TRIES_EACH).perMinute[currency]?.mean ?? 0),
      0,
    ),
  );
  const best = ways[paid.indexOf(Math.max(...paid))]!;
  return {
    ...activity,
    emits: activity.emits.map(({ event, fields }) => ({
      event,
      fields: fields.map(({ field, draw }) => ({ field, draw: chosenDraw(draw, best[event]?.[field]) })),
    })),
  };
}

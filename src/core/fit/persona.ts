/**
 * A persona that plays and buys as a group of players did. What the log shows is fitted by itself: rates, hours, fields. What
 * it shows only together with the wallets, which it does not tell, is found by playing: which activities are chosen beside
 * each other, and how ready they are to buy, are moved until made-up players play and buy as much as those of the log
 * (indirect inference: Gourieroux, Monfort & Renault 1993). docs/method.md.
 */
import type { ActivityDocument, DrawDocument, EconomyDocument, PersonaDocument } from '../document/index.js';
import { WEEKDAYS } from '../document/index.js';
import type { Value } from '../formula/index.js';
import { localWritten, localMs } from '../schedule/index.js';
import { RunStopped, percentile, scenarioResolve, simulateCounts } from '../simulation/index.js';
import type { RunCounts } from '../simulation/index.js';
import jstat from 'jstat';
import { drawFit } from './draws.js';
import type { DrawFitted } from './draws.js';
import type { Histories, History, PlayKind } from './histories.js';
import { ratesFit } from './rates.js';
import type { Rates } from './rates.js';
import { rounded } from './types.js';

export interface PersonaFitted {
  persona: PersonaDocument;
  /** Those that they play otherwise than the economy says, and those that it does not have. */
  activities: Record<string, ActivityDocument>;
  rates: Rates;
  /** What they did a session, by activity and by offer. */
  shown: Shown;
  /** How fields of events spread in the log. */
  fields: { activity: string; field: string; fitted: DrawFitted }[];
}

/** A session's worth of what players did. */
export interface Shown {
  sessions: number;
  minutes: number;
  plays: Record<string, number>;
  bought: Record<string, number>;
}

export interface GroupAsked {
  document: EconomyDocument;
  histories: Histories;
  members: readonly History[];
  /** The persona's id, and what its own activities are told apart by. */
  id: string;
  name: string;
  seed: number;
  /** Told after every run. */
  onRun?: () => void;
}

/** Below this chance something is told from chance. */
const SURE = 0.01;
/** Runs that are played to find what only play shows, and by how many players. */
const ROUNDS = 8;
const PLAYERS = 80;

export function personaFit(asked: GroupAsked): PersonaFitted {
  const { document, histories, members, name } = asked;
  const { days, firstWallMs, kinds } = histories;
  const weekday = (new Date(firstWallMs).getUTCDay() + 6) % 7;
  const rates = ratesFit(members, days, weekday);
  const shown = shownBy(members, kinds);
  const { activities, fields, named } = activitiesFit(asked, shown);
  const attributes = attributesFit(document, members);
  const hours = hoursOf(members);
  const begun: PersonaDocument = {
    name,
    ...(Object.keys(attributes).length > 0 ? { attributes } : {}),
    sessions: {
      ...perDayOf(rates),
      minutes: minutesOf(shown, named),
      ...(hours ? { hours } : {}),
    },
    plays: Object.fromEntries(Object.entries(shown.plays).map(([play, times]) => [named.get(play)!.id, times])),
    shops: { policy: 'impulse', chance: 0.1 },
    ...(rates.leaves.value >= 0.00005 ? { leaves: rounded(rates.leaves.value) } : {}),
  };
  const played = playedLike(asked, begun, activities, shown, new Map([...named].map(([play, own]) => [own.id, play])));
  const persona = { ...played, description: describe(document, activities, played, shown, members.length) };
  return { persona, activities, rates, shown, fields };
}

/** What players did a session. Of an event that several activities report, each has an equal part. */
export function shownBy(members: readonly History[], kinds: readonly PlayKind[]): Shown {
  const counts = new Map<string, number>();
  const bought: Record<string, number> = {};
  let sessions = 0;
  let [minutes, timed] = [0, 0];
  for (const member of members)
    for (const session of member.sessions) {
      sessions++;
      if (session.minutes !== undefined) {
        minutes += session.minutes;
        timed++;
      }
      for (const { event } of session.events) counts.set(event, (counts.get(event) ?? 0) + 1);
      for (const { offer } of session.purchases) bought[offer] = (bought[offer] ?? 0) + 1;
    }
  const plays: Record<string, number> = {};
  for (const { activity, signature, sharedBy } of kinds) {
    const times = (counts.get(signature) ?? 0) / sharedBy / sessions;
    if (times > 0) plays[activity] = times;
  }
  for (const offer in bought) bought[offer]! /= sessions;
  return { sessions, minutes: timed > 0 ? minutes / timed : 0, plays, bought };
}

/** Sessions a day, and weekdays where these can be told from each other (a test of the likelihood ratio, Wilks 1938). */
function perDayOf({ perDay, counts, exposure, mean }: Rates): Pick<PersonaDocument['sessions'], 'perDay' | 'weekdays'> {
  const deviance = counts.reduce(
    (sum, count, day) => sum + (count > 0 ? 2 * count * Math.log(count / (mean.value * exposure[day]!)) : 0),
    0,
  );
  const isWhole = exposure.every((days) => days > 0);
  if (!isWhole || 1 - jstat.chisquare.cdf(deviance, perDay.length - 1) > SURE) return { perDay: rounded(mean.value) };
  const average = perDay.reduce((sum, one) => sum + one, 0) / perDay.length;
  const weekdays = Object.fromEntries(WEEKDAYS.map((day, place) => [day, rounded(perDay[place]! / average)]));
  return { perDay: rounded(average), weekdays };
}

/** Weights of the hours in percent; none where they cannot be told from an even spread over the day (Pearson 1900). */
function hoursOf(members: readonly History[]): Record<string, number> | undefined {
  const counts = new Array<number>(24).fill(0);
  for (const { sessions } of members) for (const { hour } of sessions) counts[hour]!++;
  const n = counts.reduce((sum, one) => sum + one, 0);
  const even = n / counts.length;
  const squares = counts.reduce((sum, one) => sum + (one - even) ** 2 / even, 0);
  if (1 - jstat.chisquare.cdf(squares, counts.length - 1) > SURE) return undefined;
  return Object.fromEntries(
    counts.flatMap((count, hour) => (count > 0 ? [[String(hour), rounded((100 * count) / n)]] : [])),
  );
}

/**
 * How long sessions are meant to be: what is begun in time is played to its end, so a session lasts half an activity longer
 * on average, by size (the mean residual life of renewal theory: Feller 1971, XI.4).
 */
function minutesOf({ minutes, plays }: Shown, named: ReadonlyMap<string, { minutes: number }>): number {
  let [times, sum, squares] = [0, 0, 0];
  for (const [play, count] of Object.entries(plays)) {
    const each = named.get(play)!.minutes;
    times += count;
    sum += count * each;
    squares += count * each ** 2;
  }
  const beyond = times > 0 ? squares / (2 * sum) : 0;
  return Math.max(1, Math.round(10 * (minutes - beyond)) / 10);
}

interface OwnActivity {
  /** The activity that is played: the economy's own, or one of the group. */
  id: string;
  minutes: number;
}

function activitiesFit({ document, histories, members, id, name }: GroupAsked, { plays }: Shown) {
  const activities: Record<string, ActivityDocument> = {};
  const fields: PersonaFitted['fields'] = [];
  const named = new Map<string, OwnActivity>();
  const events = members.flatMap(({ sessions }) => sessions.flatMap((session) => session.events));
  for (const { activity, minutes, signature, isNew } of histories.kinds) {
    if (plays[activity] === undefined) continue;
    const before = document.activities?.[activity];
    const emits = before?.emits ?? { [signature]: {} };
    let isSame = !isNew;
    const fitted = Object.fromEntries(
      Object.entries(emits).map(([event, drawn]) => {
        const logged = events.filter((one) => one.event === event);
        const all = Object.keys(document.events?.[event]?.fields ?? {}).flatMap((field): [string, DrawDocument][] => {
          if (logged.length === 0) return drawn[field] === undefined ? [] : [[field, drawn[field]]];
          const values: Value[] = logged.map((one) => one.fields[field]!);
          const one = drawFit(values, drawn[field]);
          fields.push({ activity, field, fitted: one });
          if (one.draw !== drawn[field]) isSame = false;
          return [[field, one.draw]];
        });
        return [event, Object.fromEntries(all)];
      }),
    );
    const own = isSame ? activity : `${id}_${activity}`.slice(0, 64);
    named.set(activity, { id: own, minutes });
    if (!isSame)
      activities[own] = {
        ...(before ?? { minutes }),
        name: `${before?.name ?? activity} (${name})`,
        minutes,
        emits: fitted,
      };
  }
  return { activities, fields, named };
}

function attributesFit(
  document: EconomyDocument,
  members: readonly History[],
): NonNullable<PersonaDocument['attributes']> {
  return Object.fromEntries(
    Object.keys(document.attributes ?? {}).flatMap((attribute) => {
      const values = members.flatMap(({ attributes }) =>
        attributes[attribute] === undefined ? [] : [attributes[attribute]],
      );
      return values.length === 0 ? [] : [[attribute, drawFit(values).draw]];
    }),
  );
}

/** The document with this persona as the only one that plays, on the days of the log. */
export function runOf(
  document: EconomyDocument,
  { firstWallMs, days }: Pick<Histories, 'firstWallMs' | 'days'>,
  persona: PersonaDocument,
  activities: Readonly<Record<string, ActivityDocument>>,
  players: number,
  seed: number,
): RunCounts {
  const setup = scenarioResolve(
    {
      ...document,
      activities: { ...document.activities, ...activities },
      personas: { ...document.personas, fitted: persona },
      scenarios: {
        ...document.scenarios,
        fitted: {
          name: 'Fitted',
          start: localWritten(document.timeZone, localMs(document.timeZone, firstWallMs)),
          days,
          players,
          seed,
          mix: { fitted: 1 },
        },
      },
    },
    'fitted',
  );
  if (!setup.ok) throw new RunStopped(setup.issues.map(({ pointer, message }) => `${pointer}: ${message}`).join('; '));
  return simulateCounts(setup.value);
}

const perSession = (counts: Readonly<Record<string, number>>, sessions: number): Record<string, number> =>
  Object.fromEntries(Object.entries(counts).map(([id, count]) => [id, count / Math.max(1, sessions)]));
const total = (counts: Readonly<Record<string, number>>): number =>
  Object.values(counts).reduce((sum, one) => sum + one, 0);

/** Moves weights and the chance to buy until play shows what the log does; of the ways of spending the one that buys most alike. */
function playedLike(
  { document, histories, members, seed, onRun }: GroupAsked,
  begun: PersonaDocument,
  activities: Readonly<Record<string, ActivityDocument>>,
  shown: Shown,
  playOf: ReadonlyMap<string, string>,
): PersonaDocument {
  const wishes = wishesOf(document, members);
  const ways: PersonaDocument['shops'][] = [
    { policy: 'impulse', chance: 0.1 },
    ...(wishes.length > 0 ? [{ policy: 'wishlist' as const, wishes, delayDays: 0.5, chance: 0.1 }] : []),
  ];
  const wanted = total(shown.bought);
  const minutesBy = new Map(
    Object.entries({ ...document.activities, ...activities }).map(([play, { minutes }]) => [play, minutes]),
  );
  const found = ways.map((shops) => {
    let persona: PersonaDocument = { ...begun, shops: { ...shops, chance: wanted === 0 ? 0 : shops.chance } };
    let best = { persona, off: Infinity };
    for (let round = 0; round < ROUNDS; round++) {
      const counts = runOf(document, histories, persona, activities, PLAYERS, seed);
      onRun?.();
      const plays = perSession(counts.plays, counts.sessions);
      const bought = perSession(counts.bought, counts.sessions);
      const minutes = Object.entries(plays).reduce((sum, [id, times]) => sum + times * minutesBy.get(id)!, 0);
      const off =
        apart(bought, shown.bought) +
        apart(named(plays, playOf), shown.plays) +
        Math.abs(Math.log(share(wanted, total(bought)))) +
        Math.abs(Math.log(share(shown.minutes, minutes)));
      if (off < best.off) best = { persona, off };
      persona = {
        ...persona,
        sessions: {
          ...persona.sessions,
          minutes: Math.max(1, Math.round(10 * (persona.sessions.minutes + shown.minutes - minutes)) / 10),
        },
        plays: Object.fromEntries(
          Object.entries(persona.plays).map(([play, weight]) => [
            play,
            rounded(weight * share(shown.plays[playOf.get(play)!]!, plays[play] ?? 0)),
          ]),
        ),
        shops: {
          ...persona.shops,
          chance: rounded(Math.min(1, Math.max(0.001, persona.shops.chance! * share(wanted, total(bought))))),
        },
      };
      if (wanted === 0) persona.shops.chance = 0;
    }
    return best;
  });
  return found.sort((a, b) => a.off - b.off)[0]!.persona;
}

/** How much more is wanted than was played; no more than fourfold either way in one step. */
const share = (wanted: number, played: number): number =>
  wanted === 0 && played === 0 ? 1 : Math.min(4, Math.max(0.25, wanted / Math.max(1e-6, played)));

const named = (counts: Readonly<Record<string, number>>, nameOf: ReadonlyMap<string, string>): Record<string, number> =>
  Object.fromEntries(Object.entries(counts).map(([id, count]) => [nameOf.get(id) ?? id, count]));

/** How far two lists of amounts are apart, from 0 to 1: of all in the larger, what the other does not have in the same place. */
function apart(one: Readonly<Record<string, number>>, other: Readonly<Record<string, number>>): number {
  const ids = new Set([...Object.keys(one), ...Object.keys(other)]);
  let [gap, all] = [0, 0];
  for (const id of ids) {
    gap += Math.abs((one[id] ?? 0) - (other[id] ?? 0));
    all += Math.max(one[id] ?? 0, other[id] ?? 0);
  }
  return all === 0 ? 0 : gap / all;
}

/** At least so many of the players must have bought a thing for it to be one that they save for. */
const LEAST_BUYERS = 0.1;
const MOST_WISHES = 20;

/** Things that are kept and were bought, in the order in which players bought them: by the median day. */
function wishesOf(document: EconomyDocument, members: readonly History[]): string[] {
  const gives = new Map<string, string[]>();
  for (const { shelves } of Object.values(document.shops ?? {}))
    for (const { offers } of Object.values(shelves))
      for (const [offer, { gives: given }] of Object.entries(offers))
        gives.set(offer, typeof given === 'string' ? [given] : Object.keys(given ?? {}));
  const days = new Map<string, number[]>();
  for (const { sessions } of members) {
    const own = new Set<string>();
    for (const { day, purchases } of sessions)
      for (const { offer } of purchases)
        for (const item of gives.get(offer) ?? []) {
          if (document.items?.[item]?.kind !== 'durable' || own.has(item)) continue;
          own.add(item);
          days.set(item, [...(days.get(item) ?? []), day]);
        }
  }
  return [...days]
    .filter(([, all]) => all.length >= LEAST_BUYERS * members.length)
    .map(([item, all]) => ({
      item,
      middle: percentile(
        all.sort((a, b) => a - b),
        50,
      )!,
      mean: all.reduce((sum, day) => sum + day, 0) / all.length,
    }))
    .sort((a, b) => a.middle - b.middle || a.mean - b.mean || (a.item < b.item ? -1 : 1))
    .slice(0, MOST_WISHES)
    .map(({ item }) => item);
}

function describe(
  document: EconomyDocument,
  activities: Readonly<Record<string, ActivityDocument>>,
  { sessions, plays }: PersonaDocument,
  { plays: played }: Shown,
  players: number,
): string {
  const all = total(played);
  const most = Object.entries(played).sort(([, a], [, b]) => b - a)[0];
  const what = most && `, mostly ${document.activities?.[most[0]]?.name ?? activities[most[0]]?.name ?? most[0]}`;
  const share = most && all > 0 ? ` (${Math.round((100 * most[1]) / all)} %)` : '';
  return `Fitted to ${players} players of a log: ${sessions.perDay} sessions a day of ${sessions.minutes} minutes${what ?? ''}${what && Object.keys(plays).length > 1 ? share : ''}.`;
}

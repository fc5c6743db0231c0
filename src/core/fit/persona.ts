/** A persona that plays and buys as a group of players did: rates, hours and fields as the log shows them. docs/method.md. */
import type { ActivityDocument, DrawDocument, EconomyDocument, PersonaDocument } from '../document/index.js';
import { WEEKDAYS } from '../document/index.js';
import type { Value } from '../formula/index.js';
import jstat from 'jstat';
import { weekdayOf } from '../schedule/index.js';
import { minutesWithin, playedLike } from './alike.js';
import type { GroupAsked } from './alike.js';
import { drawFit } from './draws.js';
import type { DrawFitted } from './draws.js';
import type { History } from './histories.js';
import { ratesFit } from './rates.js';
import type { Rates } from './rates.js';
import { shownBy, totalOf } from './shown.js';
import type { Shown } from './shown.js';
import { rounded } from './types.js';

export interface PersonaFitted {
  persona: PersonaDocument;
  /** Those that they play otherwise than the economy says, and those that it does not have. */
  activities: Record<string, ActivityDocument>;
  rates: Rates;
  /** What they did a session, by activity and by offer. */
  shown: Shown;
  /** Which activity of the log each that the persona plays stands for. */
  playOf: ReadonlyMap<string, string>;
  /** How fields of events spread in the log. */
  fields: { activity: string; field: string; fitted: DrawFitted }[];
}

/** Below this chance something is told from chance. */
const SURE = 0.01;
/** As many sessions as a day may have. */
const MOST_SESSIONS = 48;

export function personaFit(asked: GroupAsked): PersonaFitted {
  const { document, histories, members, name } = asked;
  const { days, firstWallMs, kinds } = histories;
  const rates = ratesFit(members, days, weekdayOf(firstWallMs));
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
  const playOf = new Map([...named].map(([play, own]) => [own.id, play]));
  const played = playedLike(asked, begun, activities, shown, playOf);
  const persona = { ...played, description: describe(document, activities, played, shown, members.length) };
  return { persona, activities, rates, shown, playOf, fields };
}

/** Sessions a day, and weekdays where these can be told from each other (a test of the likelihood ratio, Wilks 1938). */
function perDayOf({ perDay, counts, exposure, mean }: Rates): Pick<PersonaDocument['sessions'], 'perDay' | 'weekdays'> {
  const deviance = counts.reduce(
    (sum, count, day) => sum + (count > 0 ? 2 * count * Math.log(count / (mean.value * exposure[day]!)) : 0),
    0,
  );
  const isWhole = exposure.every((days) => days > 0);
  if (!isWhole || 1 - jstat.chisquare.cdf(deviance, perDay.length - 1) > SURE)
    return { perDay: Math.min(MOST_SESSIONS, rounded(mean.value)) };
  const average = perDay.reduce((sum, one) => sum + one, 0) / perDay.length;
  const weekdays = Object.fromEntries(WEEKDAYS.map((day, place) => [day, rounded(perDay[place]! / average)]));
  return { perDay: Math.min(MOST_SESSIONS, rounded(average)), weekdays };
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
  return minutesWithin(minutes - beyond);
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

/** Those that the log tells, but for what everybody has anyhow. */
function attributesFit(
  document: EconomyDocument,
  members: readonly History[],
): NonNullable<PersonaDocument['attributes']> {
  return Object.fromEntries(
    Object.entries(document.attributes ?? {}).flatMap(([attribute, { start }]) => {
      const values = members.flatMap(({ attributes }) =>
        attributes[attribute] === undefined ? [] : [attributes[attribute]],
      );
      return values.every((value) => value === start) ? [] : [[attribute, drawFit(values).draw]];
    }),
  );
}

function describe(
  document: EconomyDocument,
  activities: Readonly<Record<string, ActivityDocument>>,
  { sessions, plays }: PersonaDocument,
  { plays: played }: Shown,
  players: number,
): string {
  const all = totalOf(played);
  const most = Object.entries(played).sort(([, a], [, b]) => b - a)[0];
  const what = most && `, mostly ${document.activities?.[most[0]]?.name ?? activities[most[0]]?.name ?? most[0]}`;
  const share = most && all > 0 ? ` (${Math.round((100 * most[1]) / all)} %)` : '';
  return `Fitted to ${players} players of a log: ${sessions.perDay} sessions a day of ${sessions.minutes} minutes${what ?? ''}${what && Object.keys(plays).length > 1 ? share : ''}.`;
}

/**
 * Personas from an event log: groups of players, a persona for each, and how well these replay players of the log that they
 * were not fitted to. docs/method.md.
 */
import { countText } from '../issue/index.js';
import type {
  ActivityDocument,
  DrawDocument,
  EconomyDocument,
  PersonaDocument,
  ScenarioDocument,
} from '../document/index.js';
import { economyCompile } from '../economy/index.js';
import type { LogRead } from '../log/index.js';
import { randomOnce } from '../random/index.js';
import { idFor } from '../schema/index.js';
import { localMs, localWritten, weekdayOf } from '../schedule/index.js';
import { ratioWithInterval } from '../simulation/index.js';
import { groupsByAttribute, groupsFound } from './groups.js';
import type { Grouping } from './groups.js';
import { historiesOf } from './histories.js';
import type { Histories, History, PlayKind } from './histories.js';
import { runOf } from './alike.js';
import { personaFit } from './persona.js';
import type { PersonaFitted } from './persona.js';
import { ratesFit } from './rates.js';
import { totalOf } from './shown.js';
import { intervalOf } from './types.js';
import type { Interval } from './types.js';

export interface FitAsked {
  document: EconomyDocument;
  log: LogRead;
  /** Groups by the value of this attribute; found by how players play where there is none. */
  by?: string;
  /** How many groups are looked for; as many as are apart where it is not said. */
  groups?: number;
  /** Lines further apart begin another session, where the log does not tell. */
  gapMinutes?: number;
  seed?: number;
  /** Told of the runs that are done, of about so many. */
  onProgress?: (done: number, of: number) => void;
}

/** One figure of players who were held out, beside that of the persona. */
export interface FitFigure {
  figure: 'sessions-a-day' | 'leaving' | 'minutes' | 'plays' | 'bought';
  /** Which activity or offer, by name; undefined of all or of none. */
  of: string | undefined;
  persona: number;
  log: Interval;
  /** Whether the persona's lies within the interval. */
  holds: boolean;
}

export interface GroupFitted {
  persona: string;
  name: string;
  description: string;
  /** To how many players it was fitted, and how many were held out. */
  players: number;
  heldOut: number;
  sessionsADay: Interval;
  leaving: Interval;
  /** How much more they differ in how often they play than chance has it: 1 is not at all. */
  spread: number;
  fields: {
    activity: string;
    field: string;
    mean: number | undefined;
    deviation: number | undefined;
    draw: DrawDocument;
  }[];
  figures: FitFigure[];
}

export interface FitResult {
  players: number;
  events: number;
  purchases: number;
  days: number;
  sessions: { isToldBy: Histories['isToldBy']; gapMinutes: number };
  /** How well groups that were found are apart, from -1 to 1; null where none were looked for. */
  apart: number | null;
  groups: GroupFitted[];
  /** What to put into the economy, by id. */
  personas: Record<string, PersonaDocument>;
  activities: Record<string, ActivityDocument>;
  scenario: { id: string; scenario: ScenarioDocument };
  /** In words: what the log does not tell, and what to make of it. */
  notes: string[];
}

/** Every fifth player is held out, where there are enough. */
const HELD_OUT = 0.2;
const LEAST_PLAYERS = 40;
const DEFAULT_GAP = 30;
const REPORT_PLAYERS = 300;
const MOST_OFFERS = 3;
/** More groups than these are no kinds of players. */
const MOST_GROUPS = 12;
/** Players differ by much more than chance: one persona cannot tell them. */
const WIDE = 2;

/** Throws a `FitProblem` where nothing can be fitted. Linear in the log, beside its sorting and the runs. */
export class FitProblem extends Error {}

export function fitPersonas(asked: FitAsked): FitResult {
  const { document, log, gapMinutes = DEFAULT_GAP, seed = 1, onProgress } = asked;
  const histories = historiesOf(log, document, gapMinutes);
  if (!histories || log.events.length === 0) throw new FitProblem(nothingToFit(log, document));
  const grouping = groupingOf(asked, histories, seed);
  const count = grouping.values.length;
  if (count > MOST_GROUPS)
    throw new FitProblem(
      `"${asked.by}" has ${count} values; ${MOST_GROUPS} groups are the most. Group by another attribute, or by none.`,
    );
  const holdsOut = histories.players.length >= LEAST_PLAYERS;
  const isHeldOut = ({ player }: History): boolean => holdsOut && randomOnce(seed, 'held-out', player) < HELD_OUT;
  let done = 0;
  const personas: Record<string, PersonaDocument> = {};
  const activities: Record<string, ActivityDocument> = {};
  const mix: Record<string, number> = {};
  const groups = grouping.values.map((value, group): GroupFitted => {
    const all = histories.players.filter((_, place) => grouping.groupOf[place] === group);
    const [kept, held] = [all.filter((one) => !isHeldOut(one)), all.filter(isHeldOut)];
    const members = kept.length > 0 ? kept : all;
    const name = value ?? `Group ${group + 1}`;
    const id = `fitted_${value === undefined ? group + 1 : idFor(value, 'group')}`;
    const fitted = personaFit({
      document,
      histories,
      members,
      id,
      name,
      seed,
      onRun: () => onProgress?.(++done, count * RUNS),
    });
    personas[id] = fitted.persona;
    Object.assign(activities, fitted.activities);
    mix[id] = all.length;
    return {
      persona: id,
      name,
      description: fitted.persona.description!,
      players: members.length,
      heldOut: held.length,
      sessionsADay: fitted.rates.mean,
      leaving: fitted.rates.leaves,
      spread: fitted.rates.spread,
      fields: fitted.fields.map(({ activity, field, fitted: { draw, spread } }) => ({
        activity: document.activities?.[activity]?.name ?? activity,
        field,
        mean: spread?.mean,
        deviation: spread?.deviation,
        draw,
      })),
      figures: held.length > 1 ? figuresOf(document, histories, held, fitted, seed) : [],
    };
  });
  onProgress?.(count * RUNS, count * RUNS);
  return {
    players: histories.players.length,
    events: log.events.length,
    purchases: log.purchases.length,
    days: histories.days,
    sessions: { isToldBy: histories.isToldBy, gapMinutes },
    apart: grouping.apart ?? null,
    groups,
    personas,
    activities,
    scenario: {
      id: 'fitted',
      scenario: {
        name: 'As in the log',
        description: `${histories.players.length} players as in the log they were fitted to.`,
        start: localWritten(document.timeZone, localMs(document.timeZone, histories.firstWallMs)),
        days: Math.min(3650, histories.days),
        players: histories.players.length,
        seed,
        mix,
      },
    },
    notes: notesOf(asked, histories, groups, holdsOut, gapMinutes, grouping),
  };
}

/** At most so many runs are played for a group. */
const RUNS = 21;

function groupingOf({ document, by, groups }: FitAsked, { players, days }: Histories, seed: number): Grouping {
  if (by !== undefined) return groupsByAttribute(players, by);
  return groupsFound(players, days, Object.keys(document.events ?? {}), groups, seed);
}

function nothingToFit({ unknown, purchases, others }: LogRead, document: EconomyDocument): string {
  const kinds = Object.keys(document.events ?? {}).join(', ') || 'none yet';
  const names = Object.keys(unknown);
  if (names.length > 0)
    return `none of the events of the log is one of the economy, so it may be of another game. In the log: ${names.slice(0, 5).join(', ')}. In the economy: ${kinds}.`;
  if (purchases.length > 0) return `the log holds purchases and no event. An event has player, at, event and fields.`;
  return `the log holds no event${others > 0 ? `, and ${others} lines of something else` : ''}. An event has player, at, event and fields.`;
}

/** What a player did, against how often there was occasion to. */
type Told = (history: History) => { of: number; per: number };

function figuresOf(
  document: EconomyDocument,
  histories: Histories,
  held: readonly History[],
  { persona, activities, rates, shown, playOf }: PersonaFitted,
  seed: number,
): FitFigure[] {
  const counts = runOf(document, histories, persona, activities, REPORT_PLAYERS, seed + 1);
  const heldRates = ratesFit(held, histories.days, weekdayOf(histories.firstWallMs));
  const figures: FitFigure[] = [];
  const add = (figure: FitFigure['figure'], of: string | undefined, played: number, log: Interval): void => {
    figures.push({ figure, of, persona: played, log, holds: log.low <= played && played <= log.high });
  };
  const ratio = (told: Told): Interval => {
    const all = held.map(told);
    return intervalOf(
      ratioWithInterval(
        all.map(({ of }) => of),
        all.map(({ per }) => per),
      ),
    );
  };
  const minutesOf = new Map(
    Object.entries({ ...document.activities, ...activities }).map(([id, { minutes }]) => [id, minutes]),
  );
  const playedMinutes = Object.entries(counts.plays).reduce((sum, [id, times]) => sum + times * minutesOf.get(id)!, 0);
  add('sessions-a-day', undefined, rates.mean.value, heldRates.mean);
  add('leaving', undefined, rates.leaves.value, heldRates.leaves);
  add(
    'minutes',
    undefined,
    playedMinutes / Math.max(1, counts.sessions),
    ratio(({ sessions }) => {
      const timed = sessions.flatMap(({ minutes }) => (minutes === undefined ? [] : [minutes]));
      return { of: timed.reduce((sum, one) => sum + one, 0), per: timed.length };
    }),
  );
  for (const kind of histories.kinds) {
    if (shown.plays[kind.activity] === undefined) continue;
    const own = Object.keys(counts.plays).filter((id) => playOf.get(id) === kind.activity);
    const played = own.reduce((sum, id) => sum + counts.plays[id]!, 0) / Math.max(1, counts.sessions);
    add('plays', document.activities?.[kind.activity]?.name ?? kind.activity, played, ratio(playsOf(kind)));
  }
  add('bought', undefined, totalOf(counts.bought) / Math.max(1, counts.sessions), ratio(boughtOf()));
  const most = Object.entries(shown.bought)
    .sort(([a, m], [b, n]) => n - m || (a < b ? -1 : 1))
    .slice(0, MOST_OFFERS);
  const names = economyCompile(document).economy.offers;
  for (const [offer] of most)
    add(
      'bought',
      names.get(offer)?.name ?? offer,
      (counts.bought[offer] ?? 0) / Math.max(1, counts.sessions),
      ratio(boughtOf(offer)),
    );
  return figures;
}

const playsOf =
  ({ signature, sharedBy }: PlayKind): Told =>
  ({ sessions }) => ({
    of:
      sessions.reduce((sum, { events }) => sum + events.filter(({ event }) => event === signature).length, 0) /
      sharedBy,
    per: sessions.length,
  });

const boughtOf =
  (offer?: string): Told =>
  ({ sessions }) => ({
    of: sessions.reduce(
      (sum, { purchases }) => sum + purchases.filter((one) => offer === undefined || one.offer === offer).length,
      0,
    ),
    per: sessions.length,
  });

function notesOf(
  { log, by }: FitAsked,
  { isToldBy, kinds, players, days }: Histories,
  groups: readonly GroupFitted[],
  holdsOut: boolean,
  gapMinutes: number,
  { apart }: Grouping,
): string[] {
  const notes: string[] = [];
  if (isToldBy === 'gaps')
    notes.push(
      `The log does not say which lines are of one session; lines more than ${gapMinutes} minutes apart begin another. Sessions closer together count as one.`,
    );
  for (const [event, rows] of Object.entries(log.unknown))
    notes.push(`Left out, as the economy has no event "${event}": ${countText(rows, 'line')}.`);
  for (const { activity, signature, sharedBy, isNew } of kinds) {
    if (isNew)
      notes.push(`No activity reports "${signature}", so one is made of it, as long as such lines come after others.`);
    if (sharedBy > 1)
      notes.push(
        `"${signature}" comes of ${sharedBy} activities, which the log cannot tell apart; "${activity}" gets an equal part.`,
      );
  }
  for (const { name, spread, players: count } of groups)
    if (spread > WIDE && count >= LEAST_PLAYERS)
      notes.push(
        `Players of "${name}" differ ${spread.toFixed(1)} times as much in how often they play as chance has it: more groups would tell them better.`,
      );
  if (by === undefined && apart !== undefined && groups.length === 1)
    notes.push('No groups are apart from each other: one persona stands for all.');
  if (!holdsOut)
    notes.push(`With ${players.length} players none is held out, so nothing says how well the personas tell others.`);
  if (days < 7)
    notes.push(`The log has ${countText(days, 'day')}: nothing is known of weekdays, and little of leaving.`);
  notes.push('Personas begin as new players do; what players of the log had before it begins is not known.');
  return notes;
}

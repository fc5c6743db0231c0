/** Teams and rankings. Amounts and scores of money are in smallest units. */
import {
  anyText,
  anyWhole,
  choice,
  fields,
  finiteNumber,
  named,
  orNull,
  record,
  text,
} from '../../core/schema/index.js';
import type { ValueOf } from '../../core/schema/index.js';
import { amounts, listed } from './common.js';
import { goals } from './progress.js';
import { granted, playerId } from './player.js';

export const newTeam = named(
  'NewTeam',
  fields({ id: playerId().required(), kind: text(64).required(), name: text(120).required() }),
);
export const teamName = named('TeamName', fields({ name: text(120).required() }));

const who = { id: anyText(), kind: anyText(), name: anyText(), startedMs: anyWhole() };
export const teamRow = named('TeamRow', record({ ...who, members: anyWhole() }));
export type TeamRow = ValueOf<typeof teamRow>;
export const team = named(
  'Team',
  record({
    ...who,
    /** How many there can be; null where the live release has no such kind of team any more. */
    most: orNull(anyWhole()),
    holdings: amounts(),
    members: listed('members', record({ player: anyText(), name: anyText(), joinedMs: anyWhole() })),
    goals: goals(),
  }),
);
export type TeamView = ValueOf<typeof team>;
export const teamGone = named('TeamGone', record({ team: anyText(), lost: amounts() }));
export const teamGranted = named('TeamGranted', record(granted()));
export type TeamGranted = ValueOf<typeof teamGranted>;

const about = {
  ranking: anyText(),
  name: anyText(),
  description: orNull(anyText()),
  /** The kind of team; null where it ranks players. */
  team: orNull(anyText()),
  by: choice('balance', 'earned', 'goal'),
  /** The currency of its scores; null where they count something else. */
  money: orNull(anyText()),
  goal: orNull(anyText()),
  /** Within what it counts; null where it begins never anew. */
  startMs: orNull(anyWhole()),
  endMs: orNull(anyWhole()),
};
export const ranking = named('Ranking', record(about));
export type RankingView = ValueOf<typeof ranking>;

const placed = () => record({ place: anyWhole(), who: anyText(), name: anyText(), score: finiteNumber() });
export type PlacedRow = ValueOf<ReturnType<typeof placed>>;
export const places = named(
  'Places',
  record({
    ...about,
    /** How many have a place. */
    of: anyWhole(),
    items: listed('places', placed()),
    next: orNull(anyText()),
  }),
);
export type PlacesView = ValueOf<typeof places>;
export const place = named(
  'Place',
  record({
    ...about,
    of: anyWhole(),
    who: anyText(),
    score: finiteNumber(),
    /** Null for who has no score yet. */
    place: orNull(anyWhole()),
    /** Those next to it, with itself, the best first. */
    around: listed('places', placed()),
  }),
);
export type PlaceView = ValueOf<typeof place>;

/** The shapes of what players do together: kinds of teams, their part of what is earned, and rankings. */
import {
  anyNumber,
  choice,
  fields,
  ids,
  inCells,
  mapOf,
  refTo,
  said,
  text,
  wholeNumber,
  worded,
} from '../schema/index.js';
import { RANKED_BY_NAMES, RANKED_BY_WORDS } from './rankedBy.js';

const named = () => text(120).required();
const description = () => text(1000);

/** The most that a team can have: all of them are told with it. */
const MOST_MEMBERS = 1000;

export const teamSchema = fields({
  name: said('Name', 'What players call such a team.', named()),
  description: said('Description', 'A sentence for players.', description()),
  most: said('Members at most', 'How many players can be in one.', wholeNumber(1, MOST_MEMBERS).required()),
});

/** Parts by kind of team. */
export const share = () => inCells('parts', mapOf(anyNumber(0, 1), ids('team')));

export const rankingSchema = fields({
  name: said('Name', 'What players call it.', named()),
  description: said('Description', 'A sentence for players.', description()),
  team: said('Teams', 'It ranks teams of this kind; players where nothing is picked.', refTo('team')),
  by: said('By', 'What it goes by, the most first.', worded(RANKED_BY_WORDS, choice(...RANKED_BY_NAMES)).required()),
  currency: said('Currency', 'Of which money.', refTo('currency')),
  goal: said('Goal', 'Which goal, of players or of such teams.', refTo('goal')),
  every: said(
    'Every',
    'It begins anew after so long; never where nothing is picked.',
    worded({ day: 'a day', week: 'a week', month: 'a month' }, choice('day', 'week', 'month')),
  ),
});

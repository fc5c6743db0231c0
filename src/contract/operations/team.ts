/** Teams: made, joined and left as the game or support says; and rankings of players and teams. */
import { about, text, wholeNumber } from '../../core/schema/index.js';
import { operations } from '../operation.js';
import { CHANNEL_QUERY, NUMBERED_PAGE_QUERY, PAGE_QUERY, atQuery, pageOf } from '../shapes/common.js';
import { grant, movement } from '../shapes/player.js';
import * as team from '../shapes/team.js';

const JOINING = ['not-found', 'team-refused', 'nothing-published'] as const;
const RANKING = ['not-found', 'nothing-published'] as const;
const WHEN = { at: atQuery('An instant of an earlier period, of what goes by an amount earned; now by default') };

export const teamOperations = operations({
  'GET /teams': {
    id: 'listTeams',
    role: 'read',
    summary: 'Teams by id',
    query: {
      search: about('Part of an id or name', text(120)),
      kind: about('Only those of a kind', text(64)),
      ...PAGE_QUERY,
    },
    answers: { 200: pageOf(team.teamRow) },
  },
  'POST /teams': {
    id: 'createTeam',
    role: 'game',
    summary: 'Makes a team of a kind that the live release has; nobody is in it yet',
    body: team.newTeam,
    answers: { 201: team.team },
    problems: ['invalid', 'already-there', 'nothing-published'],
  },
  'GET /teams/{team}': {
    id: 'getTeam',
    role: 'read',
    summary: 'One team: members, what it holds, its goals',
    answers: { 200: team.team },
    problems: ['not-found', 'nothing-published'],
  },
  'PUT /teams/{team}/name': {
    id: 'renameTeam',
    role: 'game',
    summary: 'Renames a team',
    body: team.teamName,
    answers: { 200: team.team },
    problems: ['invalid', 'not-found', 'nothing-published'],
  },
  'DELETE /teams/{team}': {
    id: 'dissolveTeam',
    role: 'support',
    summary: 'Dissolves a team: its members are in none then, and what it held is lost',
    answers: { 200: team.teamGone },
    problems: ['not-found', 'nothing-published'],
  },
  'PUT /teams/{team}/members/{player}': {
    id: 'addTeamMember',
    role: 'game',
    summary: 'Lets a player join; a member stays one. A player is in one team of a kind at most',
    answers: { 200: team.team },
    problems: JOINING,
  },
  'DELETE /teams/{team}/members/{player}': {
    id: 'removeTeamMember',
    role: 'game',
    summary: 'Lets a player leave; what was earned for the team stays with it',
    answers: { 200: team.team },
    problems: JOINING,
  },
  'POST /teams/{team}/grants': {
    id: 'grantToTeam',
    role: 'support',
    summary: 'Gives or takes with a reason; amounts in smallest units. Idempotency-Key makes a repeat harmless',
    key: 'always',
    body: grant,
    answers: { 200: team.teamGranted, 201: team.teamGranted },
    problems: ['invalid', 'not-found', 'key-needed', 'key-reused', 'nothing-published'],
  },
  'GET /teams/{team}/ledger': {
    id: 'listTeamLedger',
    role: 'read',
    summary: 'Every movement of a team, oldest first',
    query: NUMBERED_PAGE_QUERY,
    answers: { 200: pageOf(movement) },
    problems: ['not-found'],
  },
  'GET /rankings': {
    id: 'listRankings',
    role: 'read',
    summary: 'What is ranked, and by what',
    query: CHANNEL_QUERY,
    answers: { 200: pageOf(team.ranking) },
    problems: ['not-found', 'nothing-published'],
  },
  'GET /rankings/{ranking}': {
    id: 'getRanking',
    role: 'read',
    summary: 'Who is first and who is next; who has the same has the same place: 1, 2, 2, 4',
    aside: 'rankings',
    query: { ...WHEN, ...CHANNEL_QUERY, ...PAGE_QUERY },
    answers: { 200: team.places },
    problems: RANKING,
  },
  'GET /rankings/{ranking}/places/{who}': {
    id: 'getRankingPlace',
    role: 'read',
    summary: 'The place of a player or team, with its neighbours',
    aside: 'rankings',
    query: {
      around: about('How many before and after it; 2 by default', wholeNumber(0, 50)),
      ...WHEN,
      ...CHANNEL_QUERY,
    },
    answers: { 200: team.place },
    problems: RANKING,
  },
});

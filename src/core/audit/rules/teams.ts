/** Findings about teams and rankings: what a team cannot have, and what ranks nobody. */
import { COUNTS, RANKED_BY, RANK_FIELDS } from '../../document/index.js';
import type { EconomyDocument, GoalDocument, RankField, RankingDocument } from '../../document/index.js';
import { rankingLacks } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import type { AuditRule, RuleFinding } from '../finding.js';

/** Of a goal, what is a single player's. */
const OF_PLAYERS: readonly (keyof GoalDocument & ('loot' | 'sets' | 'share'))[] = ['loot', 'sets', 'share'];

export const goalOfTeams: AuditRule = {
  code: 'goal-of-teams',
  severity: 'warning',
  help: 'A goal of teams that looks at what only a player has, or gives it, counts or gives nothing.',
  find: ({ document }) =>
    Object.entries(document.goals ?? {}).flatMap(([id, goal]): RuleFinding[] => {
      const at = (field?: string) => pointerOf(['goals', id, ...(field === undefined ? [] : [field])]);
      const subject = `goal ${goal.name}`;
      const after = goal.after === undefined ? undefined : document.goals?.[goal.after];
      const others: RuleFinding[] =
        after && after.team !== goal.team
          ? [
              {
                pointer: at('after'),
                subject,
                message: `it begins after ${after.name}, which is a goal ${after.team === undefined ? 'of players' : 'of teams'}`,
                fix: 'Let it begin after a goal of the same, or at once.',
              },
            ]
          : [];
      if (goal.team === undefined) return others;
      const { words, addsUp } = COUNTS[goal.counts];
      return [
        ...(addsUp
          ? []
          : [
              {
                pointer: at('counts'),
                subject,
                message: `"${words}" is each player's own, so a team counts nothing`,
                fix: 'Count events, purchases or an amount, which members add up.',
              },
            ]),
        ...OF_PLAYERS.filter((field) => goal[field] !== undefined).map((field) => ({
          pointer: at(field),
          subject,
          message: `a goal of teams does not look at its ${field === 'loot' ? 'loot table' : field === 'sets' ? 'attributes' : field}`,
          fix: 'Write what the team gets under gives.',
        })),
        ...others,
      ];
    }),
};

export const rankingIncomplete: AuditRule = {
  code: 'ranking-incomplete',
  severity: 'warning',
  help: 'A ranking that lacks what it goes by ranks nobody; what it does not look at does not help.',
  find: ({ document, economy }) =>
    Object.entries(document.rankings ?? {}).flatMap(([id, ranking]): RuleFinding[] => {
      const subject = `ranking ${ranking.name}`;
      const { words, needs, may } = RANKED_BY[ranking.by];
      const known: readonly RankField[] = [...needs, ...may];
      const lacks = rankingLacks(ranking).map((field) => ({
        pointer: pointerOf(['rankings', id]),
        subject,
        message: `"${words}" needs the ${field}`,
        fix: 'Fill it in, or let it go by something else.',
      }));
      const why = lacks.length > 0 || economy.rankings.has(id) ? undefined : notCompared(document, ranking);
      return [
        ...lacks,
        ...(why === undefined
          ? []
          : [
              {
                pointer: pointerOf(['rankings', id]),
                subject,
                message: why,
                fix: 'Pick another goal, or go by an amount.',
              },
            ]),
        ...RANK_FIELDS.filter((field) => ranking[field] !== undefined && !known.includes(field)).map((field) => ({
          pointer: pointerOf(['rankings', id, field]),
          subject,
          message: `"${words}" does not look at its ${field}`,
          fix: 'Remove it, or let it go by something else.',
        })),
      ];
    }),
};

/** Why what is complete ranks nobody; undefined where what it names is not there, which is told elsewhere. */
function notCompared({ goals = {} }: EconomyDocument, { goal: id = '', team }: RankingDocument): string | undefined {
  const goal = goals[id];
  if (!goal) return undefined;
  if (goal.team !== team)
    return `${goal.name} is a goal ${goal.team === undefined ? 'of players' : goal.team}, and it ranks ${team ?? 'players'}`;
  if (!COUNTS[goal.counts].addsUp) return `${goal.name} only looks at what there is, and keeps no count`;
  return `the period of ${goal.name} begins for each at another time`;
}

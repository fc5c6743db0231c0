/** Kinds of teams, their share of what is earned, and rankings. What a ranking lacks the audit tells; such a one ranks nobody. */
import { fractionOf } from '../amount/index.js';
import { RANKED_BY } from '../document/index.js';
import type { EconomyDocument, RankingDocument } from '../document/index.js';
import { spanOf } from './reader.js';
import type { DocumentReader, Segments } from './reader.js';
import type { Goal, RankedBy, Ranking, Share, TeamGoal, TeamKind } from './progressTypes.js';

export const teamKindsCompile = (document: EconomyDocument): Map<string, TeamKind> =>
  new Map(
    Object.entries(document.teams ?? {}).map(([id, { name, description, most }]) => [
      id,
      { id, name, description, most },
    ]),
  );

/** Above 1 by more than its digits can say. */
const MORE_THAN_ALL = 1 + 1e-9;

export function shareCompile(
  reader: DocumentReader,
  written: Readonly<Record<string, number>> | undefined,
  at: Segments,
): Share {
  const parts = Object.entries(written ?? {});
  if (parts.reduce((sum, [, part]) => sum + part, 0) > MORE_THAN_ALL)
    reader.issue('wrong-value', at, 'the shares come to more than all of it', 'Write parts that add up to 1 at most.');
  return new Map(parts.filter(([, part]) => part > 0).map(([kind, part]) => [kind, fractionOf(part)]));
}

/** What a ranking lacks, by field. */
export const rankingLacks = (written: RankingDocument): string[] =>
  RANKED_BY[written.by].needs.filter((field) => written[field] === undefined);

export function rankingsCompile(
  reader: DocumentReader,
  { goals, teamGoals }: { goals: ReadonlyMap<string, Goal>; teamGoals: ReadonlyMap<string, TeamGoal> },
): Map<string, Ranking> {
  return new Map(
    Object.entries(reader.document.rankings ?? {}).flatMap(([id, written]): [string, Ranking][] => {
      const { name, description, team } = written;
      const goal = team === undefined ? goals.get(written.goal ?? '') : teamGoals.get(written.goal ?? '');
      const by = rankingLacks(written).length === 0 ? rankedBy(reader, written, goal) : undefined;
      const isOurs = goal === undefined || !('team' in goal) || goal.team === team;
      if (!by || (by.kind === 'goal' && !isOurs)) return [];
      return [
        [id, { id, name, description, by, of: team === undefined ? { kind: 'players' } : { kind: 'teams', team } }],
      ];
    }),
  );
}

/** Undefined where what it names is not there, or cannot be compared. */
function rankedBy(
  reader: DocumentReader,
  { by, currency = '', every }: RankingDocument,
  goal: Goal | undefined,
): RankedBy | undefined {
  if (by === 'goal') {
    const counts = goal && goal.counts.kind !== 'owned' && goal.counts.kind !== 'attribute';
    // A period of so many hours begins for each at another time.
    if (!counts || goal.period.span.kind === 'duration') return undefined;
    const money = 'currency' in goal.counts ? goal.counts.currency : undefined;
    return { kind: 'goal', goal: goal.id, money, period: goal.period };
  }
  if (!reader.currencies.has(currency)) return undefined;
  if (by === 'balance') return { kind: 'balance', currency };
  const span = every === undefined ? ({ kind: 'lifetime' } as const) : spanOf(every);
  return { kind: 'earned', currency, period: { period: 'ranking', most: 1, span } };
}

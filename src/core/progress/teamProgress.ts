/** Team goals: what a member did adds to those of the member's teams, and a team gets what its goal gives. */
import type { Basket } from '../amount/index.js';
import type { Economy, TeamGoal } from '../economy/index.js';
import { playerAccount, teamAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerWith, teamReceive } from '../player/index.js';
import type { Player, Team } from '../player/index.js';
import { eventCount, goalAdd, goalIsOpen, goalReach, moneyMoved, moneyOf } from './counting.js';
import type { Deed } from './counting.js';

interface Counted {
  team: string;
  teamName: string;
  goal: string;
  name: string;
  /** In smallest units of `money`, where it counts some. */
  count: number;
  target: number;
  money: string | null;
}

export type TeamProgress =
  | ({ kind: 'team-nearer' } & Counted)
  | ({ kind: 'team-reached'; given: Basket; dropped: Basket } & Counted)
  | { kind: 'failed'; goal: string; name: string; problem: string };

/**
 * The consequences of a member's deeds, in order. What a team is given counts for its own goals as a deed of its own.
 * Linear in the deeds and the goals of the kinds of team that the member is in.
 */
export function teamsProgress(
  economy: Economy,
  before: Player,
  deeds: readonly Deed[],
  nowMs: number,
): { player: Player; movements: Movement[]; progress: TeamProgress[] } {
  const made = { player: before, movements: [] as Movement[], progress: [] as TeamProgress[] };
  if (economy.teamGoals.size === 0) return made;
  for (const [kind, first] of Object.entries(before.teams)) {
    const goals = [...economy.teamGoals.values()].filter((goal) => goal.team === kind);
    const queue = [...deeds];
    let team = first;
    for (let deed = queue.shift(); deed; deed = queue.shift())
      for (const goal of goals) {
        const more = deedCount(economy, made.player, team, goal, deed);
        if (typeof more !== 'number')
          made.progress.push({ kind: 'failed', goal: goal.id, name: goal.name, problem: more.problem });
        else if (more > 0 && goalIsOpen(economy, team.counters, goal, nowMs)) team = advance(team, goal, more, queue);
      }
    if (team !== first) made.player = playerWith(made.player, { teams: { ...made.player.teams, [kind]: team } });
  }
  return made;

  function advance(team: Team, goal: TeamGoal, more: number, queue: Deed[]): Team {
    const counters = { ...team.counters };
    const count = goalAdd(economy, counters, goal, more, nowMs);
    const told = {
      team: team.id,
      teamName: team.name,
      goal: goal.id,
      name: goal.name,
      count,
      target: goal.target,
      money: moneyOf(goal),
    };
    if (count < goal.target) {
      made.progress.push({ kind: 'team-nearer', ...told });
      return { ...team, counters };
    }
    goalReach(economy, counters, goal, nowMs);
    const received = teamReceive({ ...team, counters }, goal.gives, worldAccount('goal'), `goal:${goal.id}`);
    const { given, dropped, movements } = received;
    made.movements.push(...movements);
    made.progress.push({ kind: 'team-reached', ...told, given, dropped });
    queue.push({ movements });
    return received.team;
  }
}

/** What a deed adds: of money, what the member and the team got of it together. */
function deedCount(
  economy: Economy,
  player: Player,
  team: Team,
  goal: TeamGoal,
  { event, purchase, movements }: Deed,
): number | { problem: string } {
  const { counts } = goal;
  switch (counts.kind) {
    case 'events':
      return event?.name === counts.event ? eventCount(goal, event.scope(player)) : 0;
    case 'purchases':
      return purchase && counts.offers.has(purchase.offer) ? purchase.times : 0;
    case 'earned':
    case 'spent':
      return (
        moneyMoved(economy, [playerAccount(player.id), teamAccount(team.id)], movements)[counts.kind].get(
          counts.currency,
        ) ?? 0
      );
  }
}

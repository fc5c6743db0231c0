/** Teams: made, joined, left and dissolved, and what support gives them. What members earn for them comes with their events. */
import type { TeamGranted } from '../../contract/index.js';
import type { Basket } from '../../core/amount/index.js';
import type { Economy } from '../../core/economy/index.js';
import { nearestName } from '../../core/issue/index.js';
import { worldAccount } from '../../core/ledger/index.js';
import type { Movement } from '../../core/ledger/index.js';
import { teamPay, teamReceive } from '../../core/player/index.js';
import type { Team } from '../../core/player/index.js';
import { Problem, invalid } from '../problem.js';
import type { RankingChanges } from '../rankings/changes.js';
import type { Sources } from '../sources.js';
import type { PlayerStore } from '../store/playerStore.js';
import type { TeamStore } from '../store/teamStore.js';
import type { Trail } from '../store/trail.js';
import type { Writer } from '../store/writer.js';
import type { Books } from './books.js';
import type { Once, OncePerKey } from './once.js';
import { assetsKnown, grantWords } from './support.js';
import type { Grant } from './support.js';

export class Teams {
  constructor(
    private readonly writer: Writer,
    private readonly books: Books,
    private readonly once: OncePerKey,
    private readonly store: TeamStore,
    private readonly players: PlayerStore,
    private readonly rankings: RankingChanges,
    private readonly sources: Sources,
    private readonly trail: Trail,
    private readonly now: () => number,
  ) {}

  create(asked: Pick<Team, 'id' | 'kind' | 'name'>, who: string): Promise<void> {
    const { id, kind } = asked;
    return this.writer.submit(() => {
      kindKnown(this.sources.live().economy, kind);
      if (this.store.get(id)) throw new Problem('already-there', `There is already a team "${id}".`);
      this.store.create({ ...asked, startedMs: this.now(), holdings: {}, counters: {} });
      this.trail.add(who, 'team.create', id);
    });
  }

  rename(id: string, name: string, who: string): Promise<void> {
    return this.writer.submit(() => {
      const team = this.store.find(id);
      if (team.name === name) return;
      this.store.rename(team, name);
      this.trail.add(who, 'team.rename', id, `${team.name} is ${name} now`);
    });
  }

  /** A member stays one, however often and from wherever it is said. */
  join(id: string, player: string, who: string): Promise<void> {
    return this.writer.submit(() => {
      const team = this.store.find(id);
      const { teams } = this.players.find(player).player;
      const now = teams[team.kind];
      if (now?.id === id) return;
      if (now)
        throw new Problem(
          'team-refused',
          `${player} is in ${now.name} ("${now.id}"), and in one team of a kind at most. Let them leave that one first.`,
        );
      const most = this.sources.live().economy.teamKinds.get(team.kind)?.most ?? 0;
      const members = this.store.membersCount(id);
      if (members >= most)
        throw new Problem(
          'team-refused',
          most === 0
            ? `The live release has no kind of team "${team.kind}" any more, so nobody can join ${team.name}.`
            : `${team.name} is full: it has ${members} members, and ${most} are the most.`,
        );
      this.store.join(team, player, this.now());
      this.players.teamsChanged(player);
      this.trail.add(who, 'team.join', id, player);
    });
  }

  leave(id: string, player: string, who: string): Promise<void> {
    return this.writer.submit(() => {
      const team = this.store.find(id);
      const { teams, name } = this.players.find(player).player;
      if (teams[team.kind]?.id !== id) throw new Problem('team-refused', `${name} is not in ${team.name}.`);
      this.store.leave(team, player);
      this.players.teamsChanged(player);
      this.trail.add(who, 'team.leave', id, player);
    });
  }

  /** Returns what it held, which is lost. */
  dissolve(id: string, who: string): Promise<Basket> {
    return this.writer.submit(() => {
      const team = this.store.find(id);
      const { taken, movements } = teamPay(team, team.holdings, worldAccount('dissolved'), `dissolve:${who}`);
      this.move(movements);
      const members = this.store.members(id);
      this.store.remove(id);
      this.rankings.gone(`team ${team.kind}`, id);
      for (const { player } of members) this.players.teamsChanged(player);
      this.trail.add(who, 'team.dissolve', id);
      return taken;
    });
  }

  /** Gives and takes once per key. What is not there to be taken is told. */
  grant(id: string, grant: Grant, who: string, key: string): Promise<Once<TeamGranted>> {
    return this.writer.submit(() => {
      this.store.find(id);
      const { number, answer, repeated } = this.once.run('grant', { player: id, key, asked: grantWords(grant) }, () => {
        const team = this.store.find(id);
        assetsKnown(this.sources.live().economy, { gives: grant.gives, takes: grant.takes });
        const cause = `grant:${who}`;
        const paid = teamPay(team, grant.takes, worldAccount('support'), cause);
        const received = teamReceive(paid.team, grant.gives, worldAccount('support'), cause);
        this.store.save(team, received.team);
        this.rankings.teamChanged(team, received.team);
        this.move([...paid.movements, ...received.movements]);
        this.trail.add(who, 'team.grant', id, grant.reason);
        const { given, dropped } = received;
        return { kept: true, atMs: this.now(), answer: { given, taken: paid.taken, dropped, missed: paid.missed } };
      });
      return { answer: { grant: number, ...answer }, repeated };
    });
  }

  private move(movements: readonly Movement[]): void {
    this.books.move('', this.sources.live().release, this.now(), movements);
  }
}

function kindKnown({ teamKinds }: Economy, kind: string): void {
  if (teamKinds.has(kind)) return;
  const near = nearestName(kind, teamKinds.keys());
  const known = [...teamKinds.keys()].join(', ');
  const fix = near === undefined ? undefined : `Did you mean "${near}"?`;
  throw invalid('The live release has no such kind of team.', [
    {
      code: 'dangling-reference',
      pointer: '/kind',
      message: `there is no kind of team "${kind}"`,
      fix: fix ?? (known ? `Kinds: ${known}.` : 'Add one under Earning, Teams, and publish.'),
    },
  ]);
}

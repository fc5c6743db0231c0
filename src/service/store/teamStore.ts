/** Records of teams: who they are, who is in them, what they hold and what they have counted. Read once and then held. */
import { LRUCache } from 'lru-cache';
import { and, asc, eq, gt, gte, like, lt, or, sql } from 'drizzle-orm';
import type { Counters, Team } from '../../core/player/index.js';
import type { Caches } from '../held.js';
import { notFound } from '../problem.js';
import type { Database } from './database.js';
import { direct } from './direct.js';
import type { KeyStore } from './handledStore.js';
import { earnings, players, teamCounters, teamHandled, teamHoldings, teamMembers, teams } from './tables.js';

const MOST_HELD = 20_000;
/** Of so many ids that begin alike one may have been meant. */
const MOST_ALIKE = 200;

/** What a team is, without what it holds. */
export type TeamRow = Pick<Team, 'id' | 'kind' | 'name' | 'startedMs'> & { members: number };

export class TeamStore {
  private readonly held = new LRUCache<string, Team>({ max: MOST_HELD });
  private readonly statements: ReturnType<typeof prepareStatements>;
  /** What was granted, by key. */
  readonly granted: KeyStore;

  constructor(
    private readonly database: Database,
    caches: Caches,
  ) {
    const statements = prepareStatements(database);
    this.statements = statements;
    this.granted = {
      find: (_kind, team, key) => statements.grant.get({ team, key }),
      add: (_kind, { player: team, ...row }) => statements.addGrant.get({ team, ...row }).number,
    };
    caches.onForget(() => this.held.clear());
  }

  get(id: string): Team | undefined {
    const held = this.held.get(id) ?? this.read(id);
    if (held) this.held.set(id, held);
    return held;
  }

  /** Throws where there is no such team, with the one that may have been meant. */
  find(id: string): Team {
    const team = this.get(id);
    if (team) return team;
    const begin = id.slice(0, 2);
    const alike = this.database.db
      .select({ id: teams.id })
      .from(teams)
      .where(and(gte(teams.id, begin), lt(teams.id, `${begin}\u{10ffff}`)))
      .limit(MOST_ALIKE)
      .all();
    throw notFound(
      'team',
      id,
      alike.map((team) => team.id),
    );
  }

  private read(id: string): Team | undefined {
    const { statements } = this;
    const row = statements.team.get({ id });
    if (!row) return undefined;
    const holdings = statements.holdings.all({ id }).map(({ asset, units }) => [asset, units] as const);
    const counted = statements.counters
      .all({ id })
      .map(({ key, count, startMs }) => [key, { count, startMs }] as const);
    return { ...row, holdings: Object.fromEntries(holdings), counters: Object.fromEntries(counted) as Counters };
  }

  /** The teams that a player is in, by kind, as they stand. */
  of(player: string): Record<string, Team> {
    return Object.fromEntries(this.statements.teamsOf.all({ player }).map(({ kind, team }) => [kind, this.get(team)!]));
  }

  /** Inside the writer only. */
  create(team: Team): void {
    const { id, kind, name, startedMs } = team;
    this.statements.create.run({ id, kind, name, startedMs });
    this.save({ ...team, holdings: {}, counters: {} }, team);
  }

  /** Inside the writer only. `before` is the state that `after` was made from. */
  save(before: Team, after: Team): void {
    const { id } = after;
    for (const asset in after.holdings)
      if (after.holdings[asset] !== before.holdings[asset])
        this.statements.saveHolding.run(id, asset, after.holdings[asset]!);
    for (const [key, counter] of Object.entries(after.counters))
      if (counter !== (before.counters as Record<string, unknown>)[key])
        this.statements.saveCounter.run(id, key, counter.count, counter.startMs);
    this.held.set(id, after);
  }

  /** Inside the writer only. */
  rename(team: Team, name: string): void {
    this.statements.rename.run({ id: team.id, name });
    this.held.set(team.id, { ...team, name });
  }

  /** Inside the writer only: with its members, and all that it had. */
  remove(id: string): void {
    for (const statement of this.statements.remove) statement.run({ id });
    this.held.delete(id);
  }

  /** Inside the writer only. */
  join({ id, kind }: Team, player: string, joinedMs: number): void {
    this.statements.join.run({ player, kind, team: id, joinedMs });
  }

  /** Inside the writer only. */
  leave({ kind }: Team, player: string): void {
    this.statements.leave.run({ player, kind });
  }

  membersCount(team: string): number {
    return this.statements.membersCount.get({ team })!.count;
  }

  /** By player. */
  members(team: string): { player: string; name: string; joinedMs: number }[] {
    return this.statements.members.all({ team });
  }

  /** Teams whose id or name holds `search`, by id, after `cursor`. */
  search(search: string, kind: string | undefined, cursor: string, limit: number): TeamRow[] {
    const pattern = `%${search.replace(/[%_\\]/g, '\\$&')}%`;
    const matches = or(like(teams.id, sql`${pattern} ESCAPE '\\'`), like(teams.name, sql`${pattern} ESCAPE '\\'`));
    return this.database.db
      .select({
        id: teams.id,
        kind: teams.kind,
        name: teams.name,
        startedMs: teams.startedMs,
        members: sql<number>`(SELECT count(*) FROM ${teamMembers} WHERE ${teamMembers.team} = ${teams.id})`,
      })
      .from(teams)
      .where(
        and(
          gt(teams.id, cursor),
          kind === undefined ? undefined : eq(teams.kind, kind),
          search === '' ? undefined : matches,
        ),
      )
      .orderBy(asc(teams.id))
      .limit(limit)
      .all();
  }
}

function prepareStatements(database: Database) {
  const { db } = database;
  const at = (name: string) => sql.placeholder(name);
  return {
    team: db
      .select()
      .from(teams)
      .where(eq(teams.id, at('id')))
      .prepare(),
    holdings: db
      .select()
      .from(teamHoldings)
      .where(eq(teamHoldings.team, at('id')))
      .prepare(),
    counters: db
      .select()
      .from(teamCounters)
      .where(eq(teamCounters.team, at('id')))
      .prepare(),
    teamsOf: db
      .select({ kind: teamMembers.kind, team: teamMembers.team })
      .from(teamMembers)
      .where(eq(teamMembers.player, at('player')))
      .orderBy(asc(teamMembers.kind))
      .prepare(),
    create: db
      .insert(teams)
      .values({ id: at('id'), kind: at('kind'), name: at('name'), startedMs: at('startedMs') })
      .prepare(),
    rename: db
      .update(teams)
      .set({ name: sql`${at('name')}` })
      .where(eq(teams.id, at('id')))
      .prepare(),
    remove: [
      ...[teamMembers, teamHoldings, teamCounters, teamHandled].map((table) =>
        db
          .delete(table)
          .where(eq(table.team, at('id')))
          .prepare(),
      ),
      // Players have ids of their own: only sums of teams are meant.
      db
        .delete(earnings)
        .where(and(eq(earnings.who, at('id')), like(earnings.sum, 'team %')))
        .prepare(),
      db
        .delete(teams)
        .where(eq(teams.id, at('id')))
        .prepare(),
    ],
    saveHolding: direct<[id: string, asset: string, units: number]>(
      database,
      ['id', 'asset', 'units'],
      db
        .insert(teamHoldings)
        .values({ team: at('id'), asset: at('asset'), units: at('units') })
        .onConflictDoUpdate({ target: [teamHoldings.team, teamHoldings.asset], set: { units: sql`excluded.units` } }),
    ),
    saveCounter: direct<[id: string, key: string, count: number, startMs: number]>(
      database,
      ['id', 'key', 'count', 'startMs'],
      db
        .insert(teamCounters)
        .values({ team: at('id'), key: at('key'), count: at('count'), startMs: at('startMs') })
        .onConflictDoUpdate({
          target: [teamCounters.team, teamCounters.key],
          set: { count: sql`excluded.count`, startMs: sql`excluded.start_ms` },
        }),
    ),
    join: db
      .insert(teamMembers)
      .values({ player: at('player'), kind: at('kind'), team: at('team'), joinedMs: at('joinedMs') })
      .prepare(),
    leave: db
      .delete(teamMembers)
      .where(and(eq(teamMembers.player, at('player')), eq(teamMembers.kind, at('kind'))))
      .prepare(),
    membersCount: db
      .select({ count: sql<number>`count(*)` })
      .from(teamMembers)
      .where(eq(teamMembers.team, at('team')))
      .prepare(),
    members: db
      .select({ player: teamMembers.player, name: players.name, joinedMs: teamMembers.joinedMs })
      .from(teamMembers)
      .innerJoin(players, eq(players.id, teamMembers.player))
      .where(eq(teamMembers.team, at('team')))
      .orderBy(asc(teamMembers.player))
      .prepare(),
    grant: db
      .select({ number: teamHandled.number, request: teamHandled.request, answer: teamHandled.answer })
      .from(teamHandled)
      .where(and(eq(teamHandled.team, at('team')), eq(teamHandled.key, at('key'))))
      .prepare(),
    addGrant: db
      .insert(teamHandled)
      .values({
        team: at('team'),
        key: at('key'),
        request: at('request'),
        atMs: at('atMs'),
        answer: at('answer'),
      })
      .returning({ number: teamHandled.number })
      .prepare(),
  };
}

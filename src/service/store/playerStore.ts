/**
 * Players' records. A player is read once and then held; what a change touched is told by identity, since
 * core never alters a state in place, and only those rows are written.
 */
import { LRUCache } from 'lru-cache';
import { and, asc, eq, gt, gte, isNull, like, lt, or, sql } from 'drizzle-orm';
import type { Basket } from '../../core/amount/index.js';
import { playerWith } from '../../core/player/index.js';
import type { Player, Stack } from '../../core/player/index.js';
import type { Counter, Level } from '../../core/schedule/index.js';
import type { Caches } from '../held.js';
import { Problem, notFound } from '../problem.js';
import type { Database } from './database.js';
import { direct } from './direct.js';
import { balances, counters, earnings, players, stacks, stocks, teamMembers } from './tables.js';
import type { TeamStore } from './teamStore.js';

/** Players held in memory at most; those whose last use is longest ago are read again when needed. */
const MOST_HELD = 20_000;
/** Of so many ids that begin alike one may have been meant. */
const MOST_ALIKE = 200;

export interface Held {
  player: Player;
  version: number;
}

export class PlayerStore {
  private readonly held = new LRUCache<string, Held>({ max: MOST_HELD });
  private versions = 0;
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(
    private readonly database: Database,
    private readonly teams: TeamStore,
    caches: Caches,
  ) {
    this.statements = prepareStatements(database);
    caches.onForget(() => this.forget());
  }

  /** Drops what is held; the next read comes from disk. */
  private forget(): void {
    this.held.clear();
  }

  get(id: string): Held | undefined {
    const held = this.held.get(id);
    if (!held) {
      const player = this.read(id);
      return player && this.hold(player);
    }
    // What other members did to a team that the player is in.
    const { teams } = held.player;
    for (const kind in teams)
      if (this.teams.get(teams[kind]!.id) !== teams[kind])
        return this.hold(playerWith(held.player, { teams: this.teams.of(id) }));
    return held;
  }

  /** Reads it again when it is asked for next: its teams are others now. */
  teamsChanged(id: string): void {
    this.held.delete(id);
  }

  wasErased(id: string): boolean {
    const row = this.statements.player.get({ id });
    return row !== undefined && row.erasedMs !== null;
  }

  /** Throws where there is no such player, with the one that may have been meant. */
  find(id: string): Held {
    const held = this.get(id);
    if (held) return held;
    if (this.wasErased(id))
      throw new Problem('not-found', `The player "${id}" was erased. What is left of them is their ledger.`);
    const begin = id.slice(0, 2);
    const alike = this.database.db
      .select({ id: players.id })
      .from(players)
      .where(and(gte(players.id, begin), lt(players.id, `${begin}\u{10ffff}`), isNull(players.erasedMs)))
      .limit(MOST_ALIKE)
      .all();
    throw notFound(
      'player',
      id,
      alike.map((player) => player.id),
    );
  }

  private hold(player: Player): Held {
    const held = { player, version: ++this.versions };
    this.held.set(player.id, held);
    return held;
  }

  private read(id: string): Player | undefined {
    const { statements } = this;
    const row = statements.player.get({ id });
    if (!row || row.erasedMs !== null) return undefined;
    return {
      id,
      name: row.name,
      startedMs: row.startedMs,
      attributes: JSON.parse(row.attributes) as Player['attributes'],
      balances: Object.fromEntries(
        statements.balances.all({ id }).map(({ currency, units, sinceMs }) => [currency, { units, sinceMs }]),
      ),
      stacks: statements.stacks.all({ id }).map(({ player: _player, paid, ...stack }) => ({
        ...stack,
        paid: paid === null ? null : (JSON.parse(paid) as Basket),
      })),
      counters: Object.fromEntries(
        statements.counters.all({ id }).map(({ key, count, startMs }) => [key, { count, startMs }]),
      ),
      stocks: this.readStocks(id),
      teams: this.teams.of(id),
    };
  }

  private readStocks(player: string): Record<string, Level> {
    return Object.fromEntries(
      this.statements.stocks.all({ id: player }).map(({ offer, units, sinceMs }) => [offer, { units, sinceMs }]),
    );
  }

  /** Inside the writer only. */
  create(player: Player): void {
    const { id, name, startedMs, attributes } = player;
    this.statements.createPlayer.run(id, name, startedMs, JSON.stringify(attributes));
    this.saveRows(playerWith(player, { balances: {}, stacks: [], counters: {}, stocks: {} }), player);
    this.hold(player);
  }

  /** Inside the writer only: who they are, all that they have, and what was counted. Their movements stay. */
  erase(id: string, erasedMs: number): void {
    for (const statement of this.statements.erase) statement.run({ id, erasedMs });
    this.held.delete(id);
  }

  /** Inside the writer only. `before` is the state that `after` was made from. */
  save(before: Player, after: Player): void {
    if (after === before) return;
    if (after.attributes !== before.attributes || after.name !== before.name)
      this.statements.updatePlayer.run(after.name, JSON.stringify(after.attributes), after.id);
    this.saveRows(before, after);
    for (const kind in after.teams)
      if (after.teams[kind] !== before.teams[kind]) this.teams.save(before.teams[kind]!, after.teams[kind]!);
    this.hold(after);
  }

  private saveRows(before: Player, after: Player): void {
    const { statements } = this;
    const { id } = after;
    for (const currency in after.balances) {
      const level = after.balances[currency]!;
      if (level !== before.balances[currency]) statements.saveBalance.run(id, currency, level.units, level.sinceMs);
    }
    if (after.stacks !== before.stacks) this.saveStacks(id, before.stacks, after.stacks);
    const counted = after.counters as Record<string, Counter>;
    for (const key in counted) {
      const counter = counted[key]!;
      if (counter !== (before.counters as Record<string, Counter>)[key])
        statements.saveCounter.run(id, key, counter.count, counter.startMs);
    }
    for (const offer in after.stocks) {
      const level = after.stocks[offer]!;
      if (level !== before.stocks[offer]) statements.saveStock.run(id, offer, level.units, level.sinceMs);
    }
  }

  private saveStacks(id: string, before: readonly Stack[], after: readonly Stack[]): void {
    const old = new Map(before.map((stack) => [stack.slot, stack]));
    for (const stack of after) {
      if (old.get(stack.slot) !== stack)
        this.statements.saveStack.run(
          id,
          stack.slot,
          stack.item,
          stack.units,
          stack.place,
          stack.cause,
          stack.usesLeft,
          stack.expiresMs,
          stack.paid === null ? null : JSON.stringify(stack.paid),
        );
      old.delete(stack.slot);
    }
    for (const slot of old.keys()) this.statements.removeStack.run(id, slot);
  }

  /** Players whose id or name holds `search`, by id, after `cursor`. */
  search(search: string, cursor: string, limit: number): { id: string; name: string; startedMs: number }[] {
    const pattern = `%${search.replace(/[%_\\]/g, '\\$&')}%`;
    const matches = or(like(players.id, sql`${pattern} ESCAPE '\\'`), like(players.name, sql`${pattern} ESCAPE '\\'`));
    return this.database.db
      .select({ id: players.id, name: players.name, startedMs: players.startedMs })
      .from(players)
      .where(and(gt(players.id, cursor), isNull(players.erasedMs), search === '' ? undefined : matches))
      .orderBy(asc(players.id))
      .limit(limit)
      .all();
  }
}

/** Prepared once: the hot path of a purchase writes about eight rows. */
function prepareStatements(database: Database) {
  const { db } = database;
  const at = (name: string) => sql.placeholder(name);
  const level = { units: sql`excluded.units`, sinceMs: sql`excluded.since_ms` };
  return {
    player: db
      .select()
      .from(players)
      .where(eq(players.id, at('id')))
      .prepare(),
    balances: db
      .select()
      .from(balances)
      .where(eq(balances.player, at('id')))
      .prepare(),
    stacks: db
      .select()
      .from(stacks)
      .where(eq(stacks.player, at('id')))
      .orderBy(asc(stacks.slot))
      .prepare(),
    counters: db
      .select()
      .from(counters)
      .where(eq(counters.player, at('id')))
      .prepare(),
    stocks: db
      .select()
      .from(stocks)
      .where(eq(stocks.player, at('id')))
      .prepare(),
    createPlayer: direct<[id: string, name: string, startedMs: number, attributes: string]>(
      database,
      ['id', 'name', 'startedMs', 'attributes'],
      db
        .insert(players)
        .values({ id: at('id'), name: at('name'), startedMs: at('startedMs'), attributes: at('attributes') }),
    ),
    updatePlayer: direct<[name: string, attributes: string, id: string]>(
      database,
      ['name', 'attributes', 'id'],
      db
        .update(players)
        .set({ name: sql`${at('name')}`, attributes: sql`${at('attributes')}` })
        .where(eq(players.id, at('id'))),
    ),
    erase: [
      ...[balances, stacks, counters, stocks, teamMembers].map((table) =>
        db
          .delete(table)
          .where(eq(table.player, at('id')))
          .prepare(),
      ),
      // Teams have ids of their own: only sums of players are meant.
      db
        .delete(earnings)
        .where(and(eq(earnings.who, at('id')), like(earnings.sum, 'player %')))
        .prepare(),
      db
        .update(players)
        .set({ name: '', attributes: '{}', erasedMs: sql`${at('erasedMs')}` })
        .where(eq(players.id, at('id')))
        .prepare(),
    ],
    saveBalance: direct<[id: string, currency: string, units: number, sinceMs: number | null]>(
      database,
      ['id', 'currency', 'units', 'sinceMs'],
      db
        .insert(balances)
        .values({ player: at('id'), currency: at('currency'), units: at('units'), sinceMs: at('sinceMs') })
        .onConflictDoUpdate({ target: [balances.player, balances.currency], set: level }),
    ),
    saveStack: direct<
      [
        id: string,
        slot: number,
        item: string,
        units: number,
        place: string,
        cause: string,
        usesLeft: number | null,
        expiresMs: number | null,
        paid: string | null,
      ]
    >(
      database,
      ['id', 'slot', 'item', 'units', 'place', 'cause', 'usesLeft', 'expiresMs', 'paid'],
      db
        .insert(stacks)
        .values({
          player: at('id'),
          slot: at('slot'),
          item: at('item'),
          units: at('units'),
          place: at('place'),
          cause: at('cause'),
          usesLeft: at('usesLeft'),
          expiresMs: at('expiresMs'),
          paid: at('paid'),
        })
        .onConflictDoUpdate({
          target: [stacks.player, stacks.slot],
          set: {
            item: sql`excluded.item`,
            units: sql`excluded.units`,
            place: sql`excluded.place`,
            cause: sql`excluded.cause`,
            usesLeft: sql`excluded.uses_left`,
            expiresMs: sql`excluded.expires_ms`,
            paid: sql`excluded.paid`,
          },
        }),
    ),
    removeStack: direct<[id: string, slot: number]>(
      database,
      ['id', 'slot'],
      db.delete(stacks).where(and(eq(stacks.player, at('id')), eq(stacks.slot, at('slot')))),
    ),
    saveCounter: direct<[id: string, key: string, count: number, startMs: number]>(
      database,
      ['id', 'key', 'count', 'startMs'],
      db
        .insert(counters)
        .values({ player: at('id'), key: at('key'), count: at('count'), startMs: at('startMs') })
        .onConflictDoUpdate({
          target: [counters.player, counters.key],
          set: { count: sql`excluded.count`, startMs: sql`excluded.start_ms` },
        }),
    ),
    saveStock: direct<[id: string, offer: string, units: number, sinceMs: number | null]>(
      database,
      ['id', 'offer', 'units', 'sinceMs'],
      db
        .insert(stocks)
        .values({ player: at('id'), offer: at('offer'), units: at('units'), sinceMs: at('sinceMs') })
        .onConflictDoUpdate({ target: [stocks.player, stocks.offer], set: level }),
    ),
  };
}

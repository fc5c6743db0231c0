/**
 * The records of the service. Amounts are smallest units, instants epoch milliseconds, documents JSON text.
 * The migrations in `migrations/` are generated from here (npm run migration) and made STRICT.
 */
import { sql } from 'drizzle-orm';
import { blob, index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';

/** Every saved state of the draft; the highest revision is the draft. */
export const draftRevisions = sqliteTable('draft_revisions', {
  revision: integer().primaryKey(),
  /** The whole document, or, where there is a `splice_at`, what stands in the place of a part of the revision before. */
  document: text().notNull(),
  savedMs: integer('saved_ms').notNull(),
  savedBy: text('saved_by').notNull(),
  why: text().notNull(),
  spliceAt: integer('splice_at'),
  spliceRemoved: integer('splice_removed'),
});

export const releases = sqliteTable('releases', {
  number: integer().primaryKey({ autoIncrement: true }),
  /** Empty: versions before kept the document here. */
  document: text().notNull(),
  /** JSON, compressed by gzip: a release stays for ever, since what was bought names it. */
  packed: blob('document_gzip', { mode: 'buffer' }),
  note: text().notNull(),
  draftRevision: integer('draft_revision').notNull(),
  publishedMs: integer('published_ms').notNull(),
  publishedBy: text('published_by').notNull(),
});

/**
 * Where a channel points, as the list of all moves: one made at once holds from then on, one that was scheduled from
 * `at_ms` on (`reached_ms`: when it was seen to). Nothing is ever changed in a move but that it was taken back.
 */
export const channelMoves = sqliteTable(
  'channel_moves',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    channel: text().notNull(),
    release: integer()
      .notNull()
      .references(() => releases.number),
    atMs: integer('at_ms').notNull(),
    scheduled: integer({ mode: 'boolean' }).notNull(),
    reachedMs: integer('reached_ms'),
    note: text().notNull(),
    madeMs: integer('made_ms').notNull(),
    madeBy: text('made_by').notNull(),
    /** Cancelled, or its channel was deleted. */
    endedMs: integer('ended_ms'),
    endedBy: text('ended_by'),
  },
  (table) => [index('channel_moves_channel').on(table.channel, table.atMs)],
);

/** What was decided for single periods of rotations: an offer pinned into one, or taken out of it. */
export const rotationRecords = sqliteTable(
  'rotation_records',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    /** `SHOP/SHELF`. */
    shelf: text().notNull(),
    period: integer().notNull(),
    startMs: integer('start_ms').notNull(),
    endMs: integer('end_ms').notNull(),
    kind: text().notNull(),
    offer: text().notNull(),
    why: text().notNull(),
    madeMs: integer('made_ms').notNull(),
    madeBy: text('made_by').notNull(),
    endedMs: integer('ended_ms'),
    endedBy: text('ended_by'),
  },
  (table) => [index('rotation_records_shelf').on(table.shelf, table.offer)],
);

/** Only hashes of tokens are kept. A session of the console is one that was opened with another, its `parent`. */
export const tokens = sqliteTable('tokens', {
  hash: text().primaryKey(),
  name: text().notNull(),
  role: text().notNull(),
  createdMs: integer('created_ms').notNull(),
  expiresMs: integer('expires_ms'),
  parent: text(),
});

/** Who did what, when and why. */
export const trail = sqliteTable(
  'trail',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    atMs: integer('at_ms').notNull(),
    who: text().notNull(),
    action: text().notNull(),
    subject: text().notNull(),
    why: text().notNull(),
  },
  // By player, whose reasons go when they are erased.
  (table) => [
    index('trail_grants')
      .on(table.subject)
      .where(sql`action = 'player.grant'`),
  ],
);

export const players = sqliteTable(
  'players',
  {
    id: text().primaryKey(),
    name: text().notNull(),
    startedMs: integer('started_ms').notNull(),
    attributes: text().notNull(),
    /** Of somebody who was erased nothing else is left here; the id is not used again. */
    erasedMs: integer('erased_ms'),
  },
  (table) => [index('players_name').on(table.name)],
);

/** Players who were erased and of whom something is left in what is kept of requests: it goes in portions. */
export const erasures = sqliteTable('erasures', { player: text().primaryKey() });

export const balances = sqliteTable(
  'balances',
  {
    player: text()
      .notNull()
      .references(() => players.id),
    currency: text().notNull(),
    units: integer().notNull(),
    sinceMs: integer('since_ms'),
  },
  (table) => [primaryKey({ columns: [table.player, table.currency] })],
);

export const stacks = sqliteTable(
  'stacks',
  {
    player: text()
      .notNull()
      .references(() => players.id),
    slot: integer().notNull(),
    item: text().notNull(),
    units: integer().notNull(),
    place: text().notNull(),
    cause: text().notNull(),
    usesLeft: integer('uses_left'),
    expiresMs: integer('expires_ms'),
    paid: text(),
  },
  (table) => [primaryKey({ columns: [table.player, table.slot] })],
);

export const counters = sqliteTable(
  'counters',
  {
    player: text()
      .notNull()
      .references(() => players.id),
    key: text().notNull(),
    /** What counts towards goals may have parts. */
    count: real().notNull(),
    startMs: integer('start_ms').notNull(),
  },
  (table) => [primaryKey({ columns: [table.player, table.key] })],
);

/** What is left of stock that each player has of their own. */
export const stocks = sqliteTable(
  'stocks',
  {
    player: text()
      .notNull()
      .references(() => players.id),
    offer: text().notNull(),
    units: integer().notNull(),
    sinceMs: integer('since_ms'),
  },
  (table) => [primaryKey({ columns: [table.player, table.offer] })],
);

export const teams = sqliteTable(
  'teams',
  {
    id: text().primaryKey(),
    kind: text().notNull(),
    name: text().notNull(),
    startedMs: integer('started_ms').notNull(),
  },
  (table) => [index('teams_name').on(table.name)],
);

/** Who is in which team: one of each kind. */
export const teamMembers = sqliteTable(
  'team_members',
  {
    player: text()
      .notNull()
      .references(() => players.id),
    kind: text().notNull(),
    team: text()
      .notNull()
      .references(() => teams.id),
    joinedMs: integer('joined_ms').notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.player, table.kind] }),
    index('team_members_team').on(table.team, table.player),
  ],
);

export const teamHoldings = sqliteTable(
  'team_holdings',
  {
    team: text()
      .notNull()
      .references(() => teams.id),
    asset: text().notNull(),
    units: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.team, table.asset] })],
);

export const teamCounters = sqliteTable(
  'team_counters',
  {
    team: text()
      .notNull()
      .references(() => teams.id),
    key: text().notNull(),
    count: real().notNull(),
    startMs: integer('start_ms').notNull(),
  },
  (table) => [primaryKey({ columns: [table.team, table.key] })],
);

/** What was granted to teams, once per key. */
export const teamHandled = sqliteTable(
  'team_handled',
  {
    number: integer().primaryKey({ autoIncrement: true }),
    team: text().notNull(),
    key: text().notNull(),
    request: text().notNull(),
    atMs: integer('at_ms').notNull(),
    answer: text().notNull(),
  },
  (table) => [uniqueIndex('team_handled_key').on(table.team, table.key)],
);

/** What rankings go by that go by an amount earned: `sum` says of whom, of which currency, within which periods. */
export const earnings = sqliteTable(
  'earnings',
  {
    sum: text().notNull(),
    startMs: integer('start_ms').notNull(),
    who: text().notNull(),
    units: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.sum, table.startMs, table.who] }), index('earnings_who').on(table.who)],
);

/** What is left of stock that all players share. */
export const sharedStocks = sqliteTable('shared_stocks', {
  offer: text().primaryKey(),
  units: integer().notNull(),
  sinceMs: integer('since_ms'),
});

/** Cash on hand, since it first changed. */
export const tills = sqliteTable(
  'tills',
  {
    shop: text().notNull(),
    asset: text().notNull(),
    units: integer().notNull(),
    sinceMs: integer('since_ms'),
  },
  (table) => [primaryKey({ columns: [table.shop, table.asset] })],
);

/** What was handled once for a player's key: what was asked, when, and what was answered. */
export const handled = sqliteTable(
  'handled',
  {
    kind: text().notNull(),
    /** Counts the rows of a kind from 1; games are told it. */
    number: integer().notNull(),
    player: text()
      .notNull()
      .references(() => players.id),
    key: text().notNull(),
    request: text().notNull(),
    atMs: integer('at_ms').notNull(),
    answer: text().notNull(),
  },
  (table) => [
    uniqueIndex('handled_key').on(table.player, table.kind, table.key),
    uniqueIndex('handled_number').on(table.kind, table.number),
  ],
);

/** Icon pictures, by file name. */
export const pictures = sqliteTable('pictures', {
  name: text().primaryKey(),
  type: text().notNull(),
  bytes: blob({ mode: 'buffer' }).notNull(),
  hash: text().notNull(),
  savedMs: integer('saved_ms').notNull(),
  savedBy: text('saved_by').notNull(),
  /** Since when neither the draft nor a release has named it, as far as was looked. */
  unnamedMs: integer('unnamed_ms'),
});

/** The ledger: append only. `player` is the player whose request caused the movement. */
export const movements = sqliteTable(
  'movements',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    player: text().notNull(),
    asset: text().notNull(),
    units: integer().notNull(),
    fromAccount: text('from_account').notNull(),
    toAccount: text('to_account').notNull(),
    cause: text().notNull(),
    release: integer().notNull(),
    atMs: integer('at_ms').notNull(),
  },
  (table) => [
    index('movements_player').on(table.player, table.id),
    // What teams are given and lose is little of it all.
    index('movements_to_team')
      .on(table.toAccount, table.id)
      .where(sql`to_account LIKE 'team:%'`),
    index('movements_from_team')
      .on(table.fromAccount, table.id)
      .where(sql`from_account LIKE 'team:%'`),
  ],
);

/** Months of movements that are in files; what they come to stands in the ledger as opening balances. */
export const archives = sqliteTable('archives', {
  /** `2026-03`. */
  month: text().primaryKey(),
  file: text().notNull(),
  sha256: text().notNull(),
  rows: integer().notNull(),
  /** The last movement that is in it; what was before is in this file or an earlier one. */
  lastId: integer('last_id').notNull(),
  untilMs: integer('until_ms').notNull(),
  madeMs: integer('made_ms').notNull(),
  /** When the last of its movements had become part of an opening balance. */
  openedMs: integer('opened_ms'),
});

export const runs = sqliteTable('runs', {
  id: integer().primaryKey({ autoIncrement: true }),
  name: text().notNull(),
  setup: text().notNull(),
  status: text().notNull(),
  day: integer().notNull(),
  days: integer().notNull(),
  createdMs: integer('created_ms').notNull(),
  createdBy: text('created_by').notNull(),
  error: text(),
  /** JSON, compressed by gzip: it repeats itself much. */
  result: blob('result_gzip', { mode: 'buffer' }),
  /** JSON: how many targets it met, missed and left open; nothing of a run that is not done, or was before there were any. */
  marks: text(),
});

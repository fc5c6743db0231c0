/** What rankings go by, read in pages by id, and the sums of what was earned, which are kept for them alone. */
import { MAX_UNITS } from '../../core/amount/index.js';
import type { Contest, Earning, Places } from '../../core/ranking/index.js';
import { counterKey } from '../../core/player/index.js';
import type { Level } from '../../core/schedule/index.js';
import type { Database } from './database.js';
import { StoredPlaces, placesPrepare } from './storedPlaces.js';

/** A null score is that of somebody who has none. */
export interface ScoreRow {
  who: string;
  score: number | null;
}

export interface LevelRow extends ScoreRow {
  /** When the refill that runs began, epoch ms. */
  sinceMs: number | null;
}

interface Asked {
  /** The kind of teams. */
  kind: string;
  /** The currency, the counter's key, or the sum. */
  of: string;
  startMs: number;
  endMs: number;
}

interface PageAsked extends Asked {
  after: string;
  limit: number;
}

type By = 'balance' | 'goal' | 'earned';
type Holder = 'player' | 'team';

/** Who has a score, by what is compared: each row is of somebody else. Of teams of every kind. */
const SCORED: Record<By, Record<Holder, string>> = {
  balance: {
    player: 'SELECT player AS who, units AS score FROM balances WHERE currency = @of AND units > 0',
    team: 'SELECT team AS who, units AS score FROM team_holdings WHERE asset = @of AND units > 0',
  },
  goal: {
    player:
      'SELECT player AS who, count AS score FROM counters WHERE key = @of AND start_ms >= @startMs AND start_ms < @endMs AND count > 0',
    team: 'SELECT team AS who, count AS score FROM team_counters WHERE key = @of AND start_ms >= @startMs AND start_ms < @endMs AND count > 0',
  },
  earned: {
    player: 'SELECT who, units AS score FROM earnings WHERE sum = @of AND start_ms = @startMs AND units > 0',
    team: 'SELECT who, units AS score FROM earnings WHERE sum = @of AND start_ms = @startMs AND units > 0',
  },
};

/** Some players or teams by id, each with the row of `rows` that is theirs: never more rows are looked at than are given. */
const pageOf = (holder: Holder, columns: string, rows: string): string => `
  SELECT p.id AS who, ${columns}
  FROM (SELECT id FROM ${holder}s WHERE id > @after ${holder === 'team' ? 'AND kind = @kind' : ''} ORDER BY id LIMIT @limit) p
  LEFT JOIN (${rows}) t ON t.who = p.id ORDER BY p.id`;

export class RankingStore {
  private readonly statements: Statements;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  /** Who is compared, by id, after `after`: `limit` of them, or all that there are. */
  page(contest: Contest, after: string, limit: number): ScoreRow[] {
    return this.of(contest).page.all({ ...askedOf(contest), after, limit });
  }

  /** What is stored now, looked through for each question: for rankings that nobody keeps in order. */
  places(contest: Contest): Places {
    return new StoredPlaces(this.of(contest).places, askedOf(contest));
  }

  private of({ by, holder }: Contest): Statements['scored'][By][Holder] {
    return this.statements.scored[by][holder === 'player' ? 'player' : 'team'];
  }

  /** What players have of each of some currencies, by id, after `after`: `limit` of them, or all that there are. */
  levels(
    currencies: readonly string[],
    after: string,
    limit: number,
  ): { who: string; levels: Record<string, Level> }[] {
    const pages = currencies.map((of) => this.statements.levels.all({ after, limit, of }));
    return (pages[0] ?? []).map(({ who }, row) => {
      const levels: Record<string, Level> = {};
      currencies.forEach((currency, at) => {
        const { score, sinceMs } = pages[at]![row]!;
        if (score !== null) levels[currency] = { units: score, sinceMs };
      });
      return { who, levels };
    });
  }

  /** Inside the writer only. Returns what it comes to. */
  earn({ contest, who, units }: Earning): number {
    const { startMs } = contest;
    return this.statements.earn.get({ sum: sumOf(contest), startMs, who, units, most: MAX_UNITS })!.units;
  }

  /** The names of players or teams, by id. */
  names(holder: 'player' | 'team', ids: readonly string[]): Map<string, string> {
    return new Map(this.statements.names[holder].all(JSON.stringify(ids)).map(({ id, name }) => [id, name]));
  }
}

const sumOf = ({ holder, currency, every }: Earning['contest']): string => `${holder} ${currency} ${every}`;

/** What is bound where a contest's scores are asked for. */
function askedOf(contest: Contest): Asked {
  const [, kind = ''] = contest.holder.split(' ');
  switch (contest.by) {
    case 'balance':
      return { kind, of: contest.currency, startMs: 0, endMs: 0 };
    case 'goal':
      return { kind, of: counterKey.goal(contest.goal), startMs: contest.startMs, endMs: contest.endMs };
    case 'earned':
      return { kind, of: sumOf(contest), startMs: contest.startMs, endMs: contest.endMs };
  }
}

type Statements = ReturnType<typeof prepareStatements>;

function prepareStatements(database: Database) {
  const { raw } = database;
  const names = (table: string) =>
    raw.prepare<[string], { id: string; name: string }>(
      `SELECT id, name FROM ${table} WHERE id IN (SELECT value FROM json_each(?))`,
    );
  const places = placesPrepare(database);
  const scored = (by: By, holder: Holder) => {
    const all = SCORED[by][holder];
    // Sums tell of which teams they are.
    const own =
      by === 'earned' || holder === 'player' ? all : `${all} AND team IN (SELECT id FROM teams WHERE kind = @kind)`;
    const page =
      by === 'earned'
        ? `SELECT who, score FROM (${all}) WHERE who > @after ORDER BY who LIMIT @limit`
        : pageOf(holder, 't.score', all);
    return { page: raw.prepare<[PageAsked], ScoreRow>(page), places: places(own) };
  };
  const holders = (by: By) => ({ player: scored(by, 'player'), team: scored(by, 'team') });
  return {
    scored: { balance: holders('balance'), goal: holders('goal'), earned: holders('earned') },
    levels: raw.prepare<[Pick<PageAsked, 'after' | 'limit' | 'of'>], LevelRow>(
      pageOf(
        'player',
        't.units AS score, t.since_ms AS sinceMs',
        'SELECT player AS who, units, since_ms FROM balances WHERE currency = @of',
      ),
    ),
    earn: raw.prepare<[{ sum: string; startMs: number; who: string; units: number; most: number }], { units: number }>(
      `INSERT INTO earnings (sum, start_ms, who, units) VALUES (@sum, @startMs, @who, @units)
       ON CONFLICT DO UPDATE SET units = min(@most, earnings.units + excluded.units) RETURNING units`,
    ),
    names: { player: names('players'), team: names('teams') },
  };
}

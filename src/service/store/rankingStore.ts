/** What rankings go by, read in pages by id, and the sums of what was earned, which are kept for them alone. */
import { MAX_UNITS } from '../../core/amount/index.js';
import type { Contest, Earning } from '../../core/ranking/index.js';
import { counterKey } from '../../core/player/index.js';
import type { Level } from '../../core/schedule/index.js';
import type { Database } from './database.js';

/** `startMs` of a counter: when its period began; of a balance: when the refill that runs did. */
export interface ScoreRow {
  who: string;
  score: number | null;
  startMs: number | null;
}

interface PageAsked {
  after: string;
  limit: number;
  /** Of teams. */
  kind: string;
  /** The currency, the counter's key, or the sum. */
  of: string;
  startMs: number;
}

/** Some players or teams, each with its row of a table: never more rows are looked at than are given. */
const pageOf = (holder: 'player' | 'team', table: string, column: string, score: string, startMs: string): string => `
  SELECT p.id AS who, t.${score} AS score, ${startMs} AS startMs
  FROM (SELECT id FROM ${holder}s WHERE id > @after ${holder === 'team' ? 'AND kind = @kind' : ''} ORDER BY id LIMIT @limit) p
  LEFT JOIN ${table} t ON t.${holder} = p.id AND t.${column} = @of ORDER BY p.id`;

export class RankingStore {
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  /** Who is compared, by id, after `after`: `limit` of them, or all that there are. Who has no score is told with null. */
  page(contest: Contest, after: string, limit: number): ScoreRow[] {
    const [holder, kind = ''] = contest.holder.split(' ') as ['player' | 'team', string?];
    switch (contest.by) {
      case 'balance':
        return this.statements.balances[holder].all({ after, limit, kind, of: contest.currency, startMs: 0 });
      case 'goal':
        return this.statements.counters[holder].all({
          after,
          limit,
          kind,
          of: counterKey.goal(contest.goal),
          startMs: 0,
        });
      case 'earned':
        return this.statements.earnings.all({ after, limit, kind, of: sumOf(contest), startMs: contest.startMs });
    }
  }

  /** What players have of each of some currencies, by id, after `after`: `limit` of them, or all that there are. */
  levels(
    currencies: readonly string[],
    after: string,
    limit: number,
  ): { who: string; levels: Record<string, Level> }[] {
    const pages = currencies.map((of) =>
      this.statements.balances.player.all({ after, limit, kind: '', of, startMs: 0 }),
    );
    return (pages[0] ?? []).map(({ who }, row) => {
      const levels: Record<string, Level> = {};
      currencies.forEach((currency, at) => {
        const { score, startMs } = pages[at]![row]!;
        if (score !== null) levels[currency] = { units: score, sinceMs: startMs };
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

function prepareStatements({ raw }: Database) {
  const page = (sql: string) => raw.prepare<[PageAsked], ScoreRow>(sql);
  const names = (table: string) =>
    raw.prepare<[string], { id: string; name: string }>(
      `SELECT id, name FROM ${table} WHERE id IN (SELECT value FROM json_each(?))`,
    );
  return {
    balances: {
      player: page(pageOf('player', 'balances', 'currency', 'units', 't.since_ms')),
      team: page(pageOf('team', 'team_holdings', 'asset', 'units', 'NULL')),
    },
    counters: {
      player: page(pageOf('player', 'counters', 'key', 'count', 't.start_ms')),
      team: page(pageOf('team', 'team_counters', 'key', 'count', 't.start_ms')),
    },
    earnings: page(
      `SELECT who, units AS score, NULL AS startMs FROM earnings
       WHERE sum = @of AND start_ms = @startMs AND who > @after ORDER BY who LIMIT @limit`,
    ),
    earn: raw.prepare<[{ sum: string; startMs: number; who: string; units: number; most: number }], { units: number }>(
      `INSERT INTO earnings (sum, start_ms, who, units) VALUES (@sum, @startMs, @who, @units)
       ON CONFLICT DO UPDATE SET units = min(@most, earnings.units + excluded.units) RETURNING units`,
    ),
    names: { player: names('players'), team: names('teams') },
  };
}

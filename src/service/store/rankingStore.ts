/** What rankings go by, read in pages by id, and the sums of what was earned, which are kept for them alone. */
import { MAX_UNITS } from '../../core/amount/index.js';
import type { Units } from '../../core/amount/index.js';
import type { Contest, Earning, Places, Scored } from '../../core/ranking/index.js';
import { counterKey } from '../../core/player/index.js';
import type { Level } from '../../core/schedule/index.js';
import type { Database } from './database.js';
import { StoredPlaces, placesPrepare } from './storedPlaces.js';

interface LevelRow {
  who: string;
  currency: string;
  level: Level;
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
  after: number | string;
  upTo: number;
}

/** Who and how many, one list beside the other, in JSON: rows by themselves take three times as long to be handed out. */
interface PageRow {
  whos: string;
  scores: string;
}

type By = 'balance' | 'goal' | 'earned';
type Holder = 'player' | 'team';

const IN_PERIOD = 'start_ms >= @startMs AND start_ms < @endMs';
const OF_KIND = 'team IN (SELECT id FROM teams WHERE kind = @kind)';
/** A sum says of whom it is. */
const EARNED =
  'SELECT who AS at, who, units AS score FROM earnings WHERE sum = @of AND start_ms = @startMs AND units > 0';

/** All who have a score, by what is compared, and where each stands for reading on: each row is of somebody else. */
const SCORED: Record<By, Record<Holder, string>> = {
  balance: {
    player: 'SELECT rowid AS at, player AS who, units AS score FROM balances WHERE currency = @of AND units > 0',
    team: `SELECT rowid AS at, team AS who, units AS score FROM team_holdings WHERE asset = @of AND units > 0 AND ${OF_KIND}`,
  },
  goal: {
    player: `SELECT rowid AS at, player AS who, count AS score FROM counters WHERE key = @of AND count > 0 AND ${IN_PERIOD}`,
    team: `SELECT rowid AS at, team AS who, count AS score FROM team_counters WHERE key = @of AND count > 0 AND ${IN_PERIOD} AND ${OF_KIND}`,
  },
  earned: { player: EARNED, team: EARNED },
};

/** The tables that are read by the number of their rows. */
const TABLES: Record<Exclude<By, 'earned'>, Record<Holder, string>> = {
  balance: { player: 'balances', team: 'team_holdings' },
  goal: { player: 'counters', team: 'team_counters' },
};

/** Rows that are looked at for a page: a few milliseconds. */
const PAGE = 8192;

export class RankingStore {
  private readonly statements: Statements;

  constructor(database: Database) {
    this.statements = prepareStatements(database);
  }

  /** All who have a score, page by page. Who changes meanwhile may be in two of them, or in none. */
  *pages(contest: Contest): Generator<Scored[], void, undefined> {
    const asked = askedOf(contest);
    const { page, last } = this.of(contest);
    if (contest.by === 'earned') {
      for (let after = ''; ;) {
        const found = scoredOf(page.get({ ...asked, after, upTo: PAGE })!);
        yield found;
        if (found.length < PAGE) return;
        after = found.at(-1)!.who;
      }
    }
    const upTo = last?.get() ?? 0;
    for (let after = 0; after < upTo; after += PAGE) yield scoredOf(page.get({ ...asked, after, upTo: after + PAGE })!);
  }

  /** What is stored now, looked through for each question: for rankings that nobody keeps in order. */
  places(contest: Contest): Places {
    return new StoredPlaces(this.of(contest).places, askedOf(contest));
  }

  private of({ by, holder }: Contest): Statements['scored'][By][Holder] {
    return this.statements.scored[by][holder === 'player' ? 'player' : 'team'];
  }

  /** What players have of some currencies, page by page. What changes meanwhile may be in two of them, or in none. */
  *levels(currencies: readonly string[]): Generator<LevelRow[], void, undefined> {
    const { levels, lastBalance } = this.statements;
    const upTo = lastBalance.get() ?? 0;
    const of = JSON.stringify(currencies);
    for (let after = 0; after < upTo; after += PAGE) {
      const found = levels.get({ of, after, upTo: after + PAGE })!;
      const [whos, kinds, units, since] = [found.whos, found.currencies, found.units, found.since].map(
        (list) => JSON.parse(list) as unknown[],
      ) as [string[], string[], Units[], (number | null)[]];
      yield whos.map((who, at) => ({
        who,
        currency: kinds[at]!,
        level: { units: units[at]!, sinceMs: since[at]! },
      }));
    }
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

function scoredOf({ whos, scores }: PageRow): Scored[] {
  const units = JSON.parse(scores) as Units[];
  return (JSON.parse(whos) as string[]).map((who, at) => ({ who, score: units[at]! }));
}

type Statements = ReturnType<typeof prepareStatements>;

function prepareStatements(database: Database) {
  const { raw } = database;
  const names = (table: string) =>
    raw.prepare<[string], { id: string; name: string }>(
      `SELECT id, name FROM ${table} WHERE id IN (SELECT value FROM json_each(?))`,
    );
  const places = placesPrepare(database);
  const last = (table: string) => raw.prepare<[], number | null>(`SELECT max(rowid) FROM ${table}`).pluck();
  const scored = (by: By, holder: Holder) => {
    const all = SCORED[by][holder];
    const page =
      by === 'earned'
        ? `SELECT who, score FROM (${all}) WHERE at > @after ORDER BY at LIMIT @upTo`
        : `SELECT who, score FROM (${all}) WHERE at > @after AND at <= @upTo`;
    return {
      page: raw.prepare<[PageAsked], PageRow>(
        `SELECT json_group_array(who) AS whos, json_group_array(score) AS scores FROM (${page})`,
      ),
      last: by === 'earned' ? undefined : last(TABLES[by][holder]),
      places: places(all),
    };
  };
  const holders = (by: By) => ({ player: scored(by, 'player'), team: scored(by, 'team') });
  return {
    scored: { balance: holders('balance'), goal: holders('goal'), earned: holders('earned') },
    levels: raw.prepare<
      [{ after: number; upTo: number; of: string }],
      Record<'whos' | 'currencies' | 'units' | 'since', string>
    >(
      `SELECT json_group_array(player) AS whos, json_group_array(currency) AS currencies,
         json_group_array(units) AS units, json_group_array(since_ms) AS since
       FROM balances WHERE rowid > @after AND rowid <= @upTo AND currency IN (SELECT value FROM json_each(@of))`,
    ),
    lastBalance: last('balances'),
    earn: raw.prepare<[{ sum: string; startMs: number; who: string; units: number; most: number }], { units: number }>(
      `INSERT INTO earnings (sum, start_ms, who, units) VALUES (@sum, @startMs, @who, @units)
       ON CONFLICT DO UPDATE SET units = min(@most, earnings.units + excluded.units) RETURNING units`,
    ),
    names: { player: names('players'), team: names('teams') },
  };
}

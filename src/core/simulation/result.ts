/** What a run gives: columnar data, the same bytes for the same set-up. Days count from 0; amounts are smallest units. */

export interface SimulationResult {
  /** Of this structure; raised when a column changes its meaning. */
  version: 1;
  scenario: string;
  name: string;
  economy: string;
  zone: string;
  seed: number;
  startMs: number;
  days: number;
  personas: { id: string; name: string; players: number }[];
  currencies: { id: string; name: string; decimals: number }[];
  /** One row for each day, persona and currency, at the end of the day; null where nobody is left, and an interval of one player's too. `persona` and `currency` index the lists above. */
  balances: {
    day: number[];
    persona: number[];
    currency: number[];
    p5: (number | null)[];
    p25: (number | null)[];
    p50: (number | null)[];
    p75: (number | null)[];
    p95: (number | null)[];
    mean: (number | null)[];
    meanLow: (number | null)[];
    meanHigh: (number | null)[];
    n: number[];
  };
  /** Sums over all players: `in` is what came to players, `out` what left them, by cause such as `earning:race_prize`. */
  flows: {
    day: number[];
    persona: number[];
    currency: number[];
    direction: ('in' | 'out')[];
    cause: string[];
    units: number[];
  };
  /** One row for each offer that was bought or wanted. `refused` counts player-days by reason. */
  offers: {
    offer: string[];
    name: string[];
    times: number[];
    players: number[];
    firstDay: (number | null)[];
    refused: Record<string, number>[];
  };
  /** Days until owned, by item and persona, with players who left or ran out of days as censored. `share[row][day]`. */
  items: {
    item: string[];
    name: string[];
    persona: number[];
    n: number[];
    owners: number[];
    median: (number | null)[];
    medianLow: (number | null)[];
    medianHigh: (number | null)[];
    share: number[][];
  };
  /** One row for each player, in a fixed order, so that two runs can be compared player by player. `balance[currency][player]`. */
  players: { persona: number[]; lastDay: number[]; balance: number[][]; ownedDay: Record<string, (number | null)[]> };
  totals: { playerDays: number; sessions: number; events: number; purchases: number; movements: number };
}

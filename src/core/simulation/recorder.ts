/** Collects what happens in a run and makes the result's columns of it. */
import type { Economy } from '../economy/index.js';
import { isPlayerAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { REASON_CODES } from '../trade/index.js';
import type { SimulationResult } from './result.js';
import type { RunSetup } from './scenario.js';
import { PERCENTILES, meanWithInterval, percentile, survivalEstimate } from './statistics.js';

export interface PersonaInfo {
  id: string;
  name: string;
  players: number;
}

interface OfferTally {
  times: number;
  players: Set<number>;
  firstDay: number | null;
  refused: Record<string, number>;
}

/** Statistics are kept to six decimals: more would be noise, and longer files. */
const tidy = (value: number): number => Math.round(value * 1e6) / 1e6;
const tidyOrNone = (value: number | null): number | null => (value === null ? null : tidy(value));

export class Recorder {
  readonly totals: SimulationResult['totals'] = { playerDays: 0, sessions: 0, events: 0, purchases: 0, movements: 0 };
  private readonly balances: SimulationResult['balances'] = {
    day: [],
    persona: [],
    currency: [],
    p5: [],
    p25: [],
    p50: [],
    p75: [],
    p95: [],
    mean: [],
    meanLow: [],
    meanHigh: [],
    n: [],
  };
  private readonly flows: SimulationResult['flows'] = {
    day: [],
    persona: [],
    currency: [],
    direction: [],
    cause: [],
    units: [],
  };
  private today = new Map<string, number>();
  private readonly offers = new Map<string, OfferTally>();
  /** Item to player to the day it was first owned. */
  private readonly owned = new Map<string, (number | null)[]>();
  private readonly currencies: string[];

  constructor(
    private readonly setup: RunSetup,
    private readonly personas: readonly PersonaInfo[],
    private readonly playerCount: number,
  ) {
    this.currencies = [...setup.economy.currencies.keys()];
    for (const item of setup.economy.items.keys())
      this.owned.set(item, new Array<number | null>(playerCount).fill(null));
  }

  /** Notes movements of one player: money by cause, and items that are owned for the first time. */
  moved(player: number, persona: number, day: number, movements: readonly Movement[]): void {
    for (const { asset, units, from, to, cause } of movements) {
      const inward = isPlayerAccount(to);
      // What a till or a stock does by itself is no player's.
      if (!inward && !isPlayerAccount(from)) continue;
      this.totals.movements++;
      if (this.owned.has(asset)) {
        if (inward) this.owns(player, asset, day);
      } else
        this.flow(
          persona,
          this.currencies.indexOf(asset),
          inward ? 'in' : 'out',
          to === 'world:over-cap' ? `over-cap:${asset}` : cause,
          units,
        );
    }
  }

  /** Adds to what flows today. */
  flow(persona: number, currency: number, direction: 'in' | 'out', cause: string, units: number): void {
    const key = `${persona} ${currency} ${direction} ${cause}`;
    this.today.set(key, (this.today.get(key) ?? 0) + units);
  }

  /** A player has an item on a day, for the first time if it is. */
  owns(player: number, item: string, day: number): void {
    this.owned.get(item)![player] ??= day;
  }

  bought(player: number, day: number, offer: string): void {
    const tally = this.tally(offer);
    tally.times++;
    tally.players.add(player);
    tally.firstDay ??= day;
    this.totals.purchases++;
  }

  /** One was wanted and refused: each of the reasons. */
  refused(offer: string, codes: readonly string[]): void {
    const { refused } = this.tally(offer);
    for (const code of codes) refused[code] = (refused[code] ?? 0) + 1;
  }

  private tally(offer: string): OfferTally {
    let tally = this.offers.get(offer);
    if (!tally) this.offers.set(offer, (tally = { times: 0, players: new Set(), firstDay: null, refused: {} }));
    return tally;
  }

  /** Closes a day: `held[persona][currency]` are the balances of the players who are still there. */
  dayEnds(day: number, held: readonly (readonly number[][])[]): void {
    for (const [persona, byCurrency] of held.entries())
      for (const [currency, values] of byCurrency.entries()) this.balanceRow(day, persona, currency, values);
    for (const key of [...this.today.keys()].sort()) {
      const [persona, currency, direction, cause] = key.split(' ') as [string, string, 'in' | 'out', string];
      this.flows.day.push(day);
      this.flows.persona.push(Number(persona));
      this.flows.currency.push(Number(currency));
      this.flows.direction.push(direction);
      this.flows.cause.push(cause);
      this.flows.units.push(this.today.get(key)!);
    }
    this.today = new Map();
  }

  private balanceRow(day: number, persona: number, currency: number, values: readonly number[]): void {
    const { balances } = this;
    const ascending = Float64Array.from(values).sort();
    const mean = meanWithInterval(values);
    balances.day.push(day);
    balances.persona.push(persona);
    balances.currency.push(currency);
    for (const p of PERCENTILES) balances[`p${p}`].push(tidyOrNone(percentile(ascending, p)));
    balances.mean.push(tidyOrNone(mean.mean));
    balances.meanLow.push(tidyOrNone(mean.low));
    balances.meanHigh.push(tidyOrNone(mean.high));
    balances.n.push(values.length);
  }

  /** The result; `players` lists for each player its persona, last day in the game and balances at the end. */
  result(players: readonly { persona: number; lastDay: number; balances: number[] }[]): SimulationResult {
    const { setup, currencies } = this;
    const { economy } = setup;
    return {
      version: 1,
      scenario: setup.scenarioId,
      name: setup.name,
      economy: economy.name,
      zone: economy.zone,
      seed: setup.seed,
      startMs: setup.startMs,
      days: setup.days,
      personas: [...this.personas],
      currencies: currencies.map((id) => ({
        id,
        name: economy.currencies.get(id)!.name,
        decimals: economy.currencies.get(id)!.decimals,
      })),
      balances: this.balances,
      flows: this.flows,
      offers: this.offerColumns(economy),
      items: this.itemColumns(players),
      players: {
        persona: players.map(({ persona }) => persona),
        lastDay: players.map(({ lastDay }) => lastDay),
        balance: currencies.map((_, index) => players.map(({ balances }) => balances[index]!)),
        ownedDay: Object.fromEntries([...this.owned].filter(([, days]) => days.some((day) => day !== null))),
      },
      totals: this.totals,
    };
  }

  private offerColumns(economy: Economy): SimulationResult['offers'] {
    const rows = [...economy.offers.values()].flatMap(({ id, name }) =>
      this.offers.has(id) ? [{ id, name, ...this.offers.get(id)! }] : [],
    );
    return {
      offer: rows.map(({ id }) => id),
      name: rows.map(({ name }) => name),
      times: rows.map(({ times }) => times),
      players: rows.map(({ players }) => players.size),
      firstDay: rows.map(({ firstDay }) => firstDay),
      // In the order in which a check tells them, not in that in which they came up.
      refused: rows.map(({ refused }) =>
        Object.fromEntries(REASON_CODES.flatMap((code) => (refused[code] ? [[code, refused[code]]] : []))),
      ),
    };
  }

  private itemColumns(players: readonly { persona: number; lastDay: number }[]): SimulationResult['items'] {
    const columns: SimulationResult['items'] = {
      item: [],
      name: [],
      persona: [],
      n: [],
      owners: [],
      median: [],
      medianLow: [],
      medianHigh: [],
      share: [],
    };
    for (const [item, days] of this.owned) {
      if (days.every((day) => day === null)) continue;
      for (const persona of this.personas.keys()) {
        const observations = [];
        for (let player = 0; player < this.playerCount; player++) {
          if (players[player]!.persona !== persona) continue;
          const day = days[player] ?? null;
          observations.push(
            day === null ? { time: players[player]!.lastDay, happened: false } : { time: day, happened: true },
          );
        }
        const estimate = survivalEstimate(observations, this.setup.days);
        columns.item.push(item);
        columns.name.push(this.setup.economy.items.get(item)!.name);
        columns.persona.push(persona);
        columns.n.push(estimate.n);
        columns.owners.push(estimate.happened);
        columns.median.push(estimate.median);
        columns.medianLow.push(estimate.low);
        columns.medianHigh.push(estimate.high);
        columns.share.push(estimate.share.map(tidy));
      }
    }
    return columns;
  }
}

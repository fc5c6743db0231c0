/** Makes the result's columns of what was counted, day by day and at the end. */
import type { Economy, Persona } from '../economy/index.js';
import { REASON_CODES } from '../trade/index.js';
import { DayColumns } from './dayColumns.js';
import { runEndMs } from './days.js';
import type { Slots, Step } from './engine/slots.js';
import type { Holdings, PlayerEnds } from './holdings.js';
import { RESULT_VERSION } from './result.js';
import type { SimulationResult } from './result.js';
import type { RunSetup } from './scenario.js';
import {
  Lives,
  PERCENTILES,
  meanOfSums,
  percentile,
  shareInterval,
  survivalEstimate,
  tidy,
  tidyOrNone,
} from './statistics.js';
import type { Survival } from './statistics.js';
import { TOTALS } from './tally.js';
import type { DayTally, RunTally } from './tally.js';
import { stepKey, targetsJudge, targetsOf, walletDays } from './targets.js';
import { unplayedOf } from './unplayed.js';
import type { Measurable } from './targets.js';

type Waiting = SimulationResult['items']['owned'];

export class ResultMaker {
  private readonly personas: Persona[];
  /** Where the players of each persona begin, and at the end how many there are in all; they follow each other. */
  private readonly starts: readonly number[];
  private readonly days: DayColumns;
  private readonly wallets: SimulationResult['players']['wallets'];

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
  ) {
    this.personas = setup.crowd.map(({ persona }) => setup.economy.personas.get(persona)!);
    let start = 0;
    this.starts = [0, ...setup.crowd.map(({ players }) => (start += players))];
    this.days = new DayColumns(this.starts, slots);
    this.wallets = walletDays(setup).map(({ currency, day }) => ({
      currency: slots.assetOf.get(currency)!,
      day,
      units: [],
    }));
  }

  dayEnds(day: number, tally: DayTally, holdings: Holdings): void {
    this.days.dayEnds(day, tally, holdings);
    const { balances, here } = holdings;
    for (const wallet of this.wallets)
      if (wallet.day === day)
        wallet.units = Array.from(here, (isHere, player) =>
          isHere === 1 ? balances[player * this.slots.currencies + wallet.currency]! : null,
        );
  }

  result(tally: RunTally, ends: PlayerEnds): SimulationResult {
    const { setup, slots } = this;
    const { economy } = setup;
    const currencies = [...economy.currencies.values()];
    const ownedDay = this.byItem(ends.ownedDay);
    const affordedDay = this.byItem(ends.affordedDay);
    const every = <T>(of: (player: number) => T): T[] =>
      Array.from({ length: this.players }, (_, player) => of(player));
    const result: Measurable = {
      version: RESULT_VERSION,
      scenario: setup.scenarioId,
      name: setup.name,
      economy: economy.name,
      zone: economy.zone,
      seed: setup.seed,
      startMs: setup.startMs,
      days: setup.days,
      personas: setup.crowd.map(({ persona, players: count }, index) => ({
        id: persona,
        name: this.personas[index]!.name,
        players: count,
      })),
      currencies: currencies.map(({ id, name, decimals }) => ({ id, name, decimals })),
      balances: this.days.balances,
      supply: this.days.supply,
      flows: this.days.flows,
      caps: this.days.caps,
      offers: this.offerColumns(tally),
      sales: this.saleColumns(tally),
      items: this.itemColumns(economy, ownedDay, affordedDay, ends),
      ...this.progressColumns(ends),
      prices: this.days.prices(),
      activities: this.activityColumns(tally),
      dry: this.dryColumns(ownedDay, ends),
      players: {
        persona: setup.crowd.flatMap(({ players }, persona) => Array.from({ length: players }, () => persona)),
        lastDay: [...ends.lastDay],
        balance: currencies.map((_, currency) =>
          every((player) => ends.balances[player * slots.currencies + currency]!),
        ),
        ownedDay,
        affordedDay,
        ...this.stepDays(ends),
        shopDays: [...ends.shopDays],
        reasonDays: Object.fromEntries(
          slots.watched.map((reason, place) => [
            reason,
            every((player) => ends.reasonDays[player * slots.watched.length + place]!),
          ]),
        ),
        wallets: this.wallets,
      },
      totals: Object.fromEntries(TOTALS.map((name, at) => [name, tally.totals[at]!])) as SimulationResult['totals'],
    };
    const unplayed = unplayedOf(economy, result.offers);
    return { ...result, ...(unplayed ? { unplayed } : {}), targets: targetsJudge(targetsOf(setup), result) };
  }

  private get players(): number {
    return this.starts.at(-1)!;
  }

  /** One of several columns of days, by player. */
  private daysOf(days: Int32Array, columns: number, column: number): (number | null)[] {
    const by: (number | null)[] = [];
    for (let at = column; at < days.length; at += columns) by.push(dayFrom(days[at]!));
    return by;
  }

  /** By item, the day of each player; of items that nobody has there is nothing. */
  private byItem(days: Int32Array): Record<string, (number | null)[]> {
    const items = this.slots.assets.slice(this.slots.currencies);
    const isHad = (item: number): boolean => {
      for (let at = item; at < days.length; at += items.length) if (days[at] !== 0) return true;
      return false;
    };
    return Object.fromEntries(
      items.flatMap(({ id }, item) => (isHad(item) ? [[id, this.daysOf(days, items.length, item)]] : [])),
    );
  }

  /** By goal and by level, the day of each player. */
  private stepDays({ stepDay }: PlayerEnds): Pick<SimulationResult['players'], 'goalDay' | 'levelDay'> {
    const { steps, goals, tracks } = this.slots;
    const daysOf = (kind: Step['kind']): Record<string, (number | null)[]> =>
      Object.fromEntries(
        steps.flatMap((step, place) =>
          step.kind === kind ? [[stepKey(step), this.daysOf(stepDay, steps.length, place)]] : [],
        ),
      );
    return {
      ...(goals.length > 0 ? { goalDay: daysOf('goal') } : {}),
      ...(tracks.length > 0 ? { levelDay: daysOf('level') } : {}),
    };
  }

  /** Goals and levels, of an economy that has any. */
  private progressColumns(ends: PlayerEnds): Pick<SimulationResult, 'goals' | 'levels' | 'heights'> {
    const { steps, goals, tracks } = this.slots;
    const { stepDay, lastDay } = ends;
    const [ofGoals, ofLevels] = [waiting(), waiting()];
    const reached: NonNullable<SimulationResult['goals']> = {
      goal: [],
      name: [],
      persona: [],
      share: [],
      reached: ofGoals,
    };
    const levels: NonNullable<SimulationResult['levels']> = {
      track: [],
      name: [],
      level: [],
      persona: [],
      reached: ofLevels,
    };
    for (const [place, step] of steps.entries())
      for (const persona of this.personas.keys()) {
        const estimate = this.waitingOf(persona, lastDay, (player) => dayFrom(stepDay[player * steps.length + place]!));
        if (step.kind === 'goal') {
          reached.goal.push(step.goal.id);
          reached.name.push(step.goal.name);
          reached.persona.push(persona);
          reached.share.push(estimate.share.map(tidy));
          waitingPush(ofGoals, estimate);
        } else if (estimate.happened > 0) {
          levels.track.push(step.track.id);
          levels.name.push(step.track.name);
          levels.level.push(step.level);
          levels.persona.push(persona);
          waitingPush(ofLevels, estimate);
        }
      }
    return {
      ...(goals.length > 0 ? { goals: reached } : {}),
      ...(tracks.length > 0 ? { levels, heights: this.heightColumns(ends) } : {}),
    };
  }

  /** How high players are at the end of each day: the highest level that they had reached. */
  private heightColumns({ stepDay, lastDay }: PlayerEnds): NonNullable<SimulationResult['heights']> {
    const { slots, setup } = this;
    const columns: NonNullable<SimulationResult['heights']> = {
      day: [],
      track: [],
      name: [],
      persona: [],
      p5: [],
      p25: [],
      p50: [],
      p75: [],
      p95: [],
      n: [],
    };
    for (const { track, firstStep } of slots.tracks) {
      const heights = new Float64Array(this.players).fill(track.start);
      /** How many levels each has reached: they are reached one after the other. */
      const reached = new Int32Array(this.players);
      const here = new Float64Array(this.players);
      for (let day = 0; day < setup.days; day++)
        for (const persona of this.personas.keys()) {
          let count = 0;
          for (let player = this.starts[persona]!; player < this.starts[persona + 1]!; player++) {
            if (lastDay[player]! < day) continue;
            for (let place = reached[player]!; place < track.levels.length; place++) {
              const reachedOn = stepDay[player * slots.steps.length + firstStep + place]!;
              if (reachedOn === 0 || reachedOn > day + 1) break;
              heights[player] = track.levels[place]!.level;
              reached[player] = place + 1;
            }
            here[count++] = heights[player]!;
          }
          const ascending = here.subarray(0, count).sort();
          columns.day.push(day);
          columns.track.push(track.id);
          columns.name.push(track.name);
          columns.persona.push(persona);
          for (const p of PERCENTILES) columns[`p${p}`].push(tidyOrNone(percentile(ascending, p)));
          columns.n.push(count);
        }
    }
    return columns;
  }

  private offerColumns(tally: RunTally): SimulationResult['offers'] {
    const { slots, setup } = this;
    const rows = slots.deals.flatMap(({ offer }, deal) =>
      setup.crowd.flatMap(({ players: all }, persona) => {
        const at = persona * slots.deals.length + deal;
        const refused: Record<string, number> = {};
        REASON_CODES.forEach((code, index) => {
          const playerDays = tally.refused[at * REASON_CODES.length + index]!;
          if (playerDays > 0) refused[code] = playerDays;
        });
        const [times, players] = [tally.times[at]!, tally.buyers[at]!];
        if (times === 0 && Object.keys(refused).length === 0) return [];
        const share = shareInterval(players, all);
        return [{ offer, persona, times, players, share, refused }];
      }),
    );
    return {
      offer: rows.map(({ offer }) => offer.id),
      name: rows.map(({ offer }) => offer.name),
      persona: rows.map(({ persona }) => persona),
      times: rows.map(({ times }) => times),
      players: rows.map(({ players }) => players),
      share: rows.map(({ share }) => tidyOrNone(share.mean)),
      shareLow: rows.map(({ share }) => tidyOrNone(share.low)),
      shareHigh: rows.map(({ share }) => tidyOrNone(share.high)),
      refused: rows.map(({ refused }) => refused),
    };
  }

  private saleColumns(tally: RunTally): SimulationResult['sales'] {
    const { slots, setup } = this;
    const lastedMs = runEndMs(setup) - setup.startMs;
    const rows = slots.deals.flatMap(({ offer, sharedStock }, deal) =>
      tally.firstDay[deal] === Infinity ? [] : [{ offer, deal, isShared: sharedStock !== undefined }],
    );
    const times = (deal: number) =>
      this.personas.reduce((sum, _, persona) => sum + tally.times[persona * slots.deals.length + deal]!, 0);
    const outAt = (deal: number) => tally.firstOut[deal]!;
    return {
      offer: rows.map(({ offer }) => offer.id),
      name: rows.map(({ offer }) => offer.name),
      times: rows.map(({ deal }) => times(deal)),
      firstDay: rows.map(({ deal }) => tally.firstDay[deal]!),
      soldOutMs: rows.map(({ deal }) => (outAt(deal) === Infinity ? null : outAt(deal))),
      soldOutShare: rows.map(({ deal, isShared }) => (isShared ? tidy(tally.soldOut[deal]! / lastedMs) : null)),
    };
  }

  private itemColumns(
    economy: Economy,
    ownedDay: Record<string, (number | null)[]>,
    affordedDay: Record<string, (number | null)[]>,
    { lastDay }: PlayerEnds,
  ): SimulationResult['items'] {
    const columns: SimulationResult['items'] = {
      item: [],
      name: [],
      persona: [],
      share: [],
      owned: waiting(),
      afforded: waiting(),
    };
    for (const { id, name } of economy.items.values()) {
      const [owned, afforded] = [ownedDay[id], affordedDay[id]];
      if (!owned && !afforded) continue;
      for (const persona of this.personas.keys()) {
        const estimate = this.waitingOf(persona, lastDay, (player) => owned?.[player] ?? null);
        columns.item.push(id);
        columns.name.push(name);
        columns.persona.push(persona);
        columns.share.push(estimate.share.map(tidy));
        waitingPush(columns.owned, estimate);
        waitingPush(
          columns.afforded,
          this.waitingOf(persona, lastDay, (player) => afforded?.[player] ?? null),
        );
      }
    }
    return columns;
  }

  /** How long the players of a persona wait for something that comes on a day, or is not seen up to their last. */
  private waitingOf(persona: number, lastDay: Int32Array, dayOf: (player: number) => number | null): Survival {
    const lives = new Lives(this.setup.days);
    for (let player = this.starts[persona]!; player < this.starts[persona + 1]!; player++)
      lives.add(dayOf(player), lastDay[player]!);
    return survivalEstimate(lives);
  }

  private activityColumns(tally: RunTally): SimulationResult['activities'] {
    const { slots } = this;
    const columns: SimulationResult['activities'] = {
      activity: [],
      name: [],
      persona: [],
      currency: [],
      plays: [],
      perMinute: [],
      low: [],
      high: [],
    };
    const activities = [...slots.activities.values()];
    for (const [index, { activity }] of activities.entries())
      for (const persona of this.personas.keys()) {
        const at = persona * activities.length + index;
        const plays = tally.plays[at]!;
        for (let currency = 0; currency < slots.currencies; currency++) {
          const squares = tally.paySquares[at * slots.currencies + currency]!;
          if (squares === 0) continue;
          const pay = meanOfSums(plays, tally.pay[at * slots.currencies + currency]!, squares);
          columns.activity.push(activity.id);
          columns.name.push(activity.name);
          columns.persona.push(persona);
          columns.currency.push(currency);
          columns.plays.push(plays);
          columns.perMinute.push(tidy(pay.mean! / activity.minutes));
          columns.low.push(pay.low === null ? null : tidy(pay.low / activity.minutes));
          columns.high.push(pay.high === null ? null : tidy(pay.high / activity.minutes));
        }
      }
    return columns;
  }

  private dryColumns(ownedDay: Record<string, (number | null)[]>, { lastDay }: PlayerEnds): SimulationResult['dry'] {
    const columns: SimulationResult['dry'] = { persona: [], wants: [], ...waiting() };
    for (const [index, persona] of this.personas.entries()) {
      const wants = wantsOf(this.slots, persona);
      if (wants.length === 0) continue;
      columns.persona.push(index);
      columns.wants.push(wants);
      waitingPush(
        columns,
        this.waitingOf(index, lastDay, (player) => {
          let last = 0;
          for (const item of wants) {
            const day = ownedDay[item]?.[player] ?? null;
            if (day === null) return null;
            last = Math.max(last, day);
          }
          return last;
        }),
      );
    }
    return columns;
  }
}

/** What a persona saves for; one that saves for nothing wants whatever is sold for good in the game's own money. */
function wantsOf({ deals, assets, currencies }: Slots, { spending }: Persona): string[] {
  if (spending.wishes.length > 0) return [...spending.wishes];
  const sold = deals.filter(
    ({ offer: { hidden, shelf, shop }, ways }) => !hidden && !shelf.hidden && !shop.hidden && ways.length > 0,
  );
  const given = new Set(sold.flatMap(({ items }) => items));
  return assets
    .slice(currencies)
    .filter(({ item }, place) => item?.kind === 'durable' && given.has(place + currencies))
    .map(({ id }) => id);
}

/** Columns of the engine count days from 1, results from 0; null where never. */
const dayFrom = (day: number): number | null => (day === 0 ? null : day - 1);

const waiting = (): Waiting => ({
  n: [],
  happened: [],
  median: [],
  medianLow: [],
  medianHigh: [],
  mean: [],
  meanLow: [],
  meanHigh: [],
});

function waitingPush(columns: Waiting, { n, happened, median, low, high, mean }: Survival): void {
  columns.n.push(n);
  columns.happened.push(happened);
  columns.median.push(median);
  columns.medianLow.push(low);
  columns.medianHigh.push(high);
  columns.mean.push(tidyOrNone(mean.mean));
  columns.meanLow.push(tidyOrNone(mean.low));
  columns.meanHigh.push(tidyOrNone(mean.high));
}

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
  PERCENTILES,
  meanOfSums,
  percentile,
  shareInterval,
  survivalEstimate,
  tidy,
  tidyOrNone,
} from './statistics.js';
import type { Observation, Survival } from './statistics.js';
import { TOTALS } from './tally.js';
import type { DayTally, RunTally } from './tally.js';
import { stepKey, targetsJudge, targetsOf, walletDays } from './targets.js';
import type { Measurable } from './targets.js';

type Waiting = SimulationResult['items']['owned'];

export class ResultMaker {
  private readonly personas: Persona[];
  /** Of each player. */
  private readonly personaOf: Int32Array;
  private readonly days: DayColumns;
  private readonly wallets: SimulationResult['players']['wallets'];

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
  ) {
    this.personas = setup.crowd.map(({ persona }) => setup.economy.personas.get(persona)!);
    this.personaOf = Int32Array.from(
      setup.crowd.flatMap(({ players }, persona) => Array.from({ length: players }, () => persona)),
    );
    this.days = new DayColumns(setup, slots);
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
    const { setup, slots, personaOf } = this;
    const { economy } = setup;
    const players = [...personaOf.keys()];
    const currencies = [...economy.currencies.values()];
    const ownedDay = this.byItem(ends.ownedDay);
    const affordedDay = this.byItem(ends.affordedDay);
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
        persona: [...personaOf],
        lastDay: [...ends.lastDay],
        balance: currencies.map((_, currency) =>
          players.map((player) => ends.balances[player * slots.currencies + currency]!),
        ),
        ownedDay,
        affordedDay,
        ...this.stepDays(ends),
        shopDays: [...ends.shopDays],
        reasonDays: Object.fromEntries(
          slots.watched.map((reason, place) => [
            reason,
            players.map((player) => ends.reasonDays[player * slots.watched.length + place]!),
          ]),
        ),
        wallets: this.wallets,
      },
      totals: Object.fromEntries(TOTALS.map((name, at) => [name, tally.totals[at]!])) as SimulationResult['totals'],
    };
    return { ...result, targets: targetsJudge(targetsOf(setup), result) };
  }

  /** By item, the day of each player; of items that nobody has there is nothing. */
  private byItem(days: Int32Array): Record<string, (number | null)[]> {
    const { slots, personaOf } = this;
    const items = slots.assets.slice(slots.currencies);
    const some = new Uint8Array(items.length);
    for (let at = 0; at < days.length; at++) if (days[at] !== 0) some[at % items.length] = 1;
    return Object.fromEntries(
      items.flatMap(({ id }, item) =>
        some[item] === 0
          ? []
          : [
              [
                id,
                Array.from({ length: personaOf.length }, (_, player) => {
                  const day = days[player * items.length + item]!;
                  return day === 0 ? null : day - 1;
                }),
              ],
            ],
      ),
    );
  }

  /** The day on which a player reached a goal or level first; null where never. */
  private stepDay({ stepDay }: Pick<PlayerEnds, 'stepDay'>, player: number, step: number): number | null {
    const day = stepDay[player * this.slots.steps.length + step]!;
    return day === 0 ? null : day - 1;
  }

  /** By goal and by level, the day of each player. */
  private stepDays(ends: PlayerEnds): Pick<SimulationResult['players'], 'goalDay' | 'levelDay'> {
    const { steps, goals, tracks } = this.slots;
    const daysOf = (kind: Step['kind']): Record<string, (number | null)[]> =>
      Object.fromEntries(
        steps.flatMap((step, place) =>
          step.kind === kind
            ? [[stepKey(step), Array.from(this.personaOf, (_, player) => this.stepDay(ends, player, place))]]
            : [],
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
        const estimate = this.waitingOf(persona, ends.lastDay, (player) => this.stepDay(ends, player, place));
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
  private heightColumns(ends: PlayerEnds): NonNullable<SimulationResult['heights']> {
    const { slots, setup, personaOf } = this;
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
      const heights = new Float64Array(personaOf.length).fill(track.start);
      /** How many levels each has reached: they are reached one after the other. */
      const reached = new Int32Array(personaOf.length);
      const here = new Float64Array(personaOf.length);
      for (let day = 0; day < setup.days; day++) {
        for (let player = 0; player < heights.length; player++)
          for (let place = reached[player]!; place < track.levels.length; place++) {
            const reachedOn = this.stepDay(ends, player, firstStep + place);
            if (reachedOn === null || reachedOn > day) break;
            heights[player] = track.levels[place]!.level;
            reached[player] = place + 1;
          }
        for (const persona of this.personas.keys()) {
          let count = 0;
          for (let player = 0; player < heights.length; player++)
            if (personaOf[player] === persona && ends.lastDay[player]! >= day) here[count++] = heights[player]!;
          const ascending = here.slice(0, count).sort();
          columns.day.push(day);
          columns.track.push(track.id);
          columns.name.push(track.name);
          columns.persona.push(persona);
          for (const p of PERCENTILES) columns[`p${p}`].push(tidyOrNone(percentile(ascending, p)));
          columns.n.push(ascending.length);
        }
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
    const observations: Observation[] = [];
    for (let player = 0; player < this.personaOf.length; player++) {
      if (this.personaOf[player] !== persona) continue;
      const day = dayOf(player);
      observations.push(day === null ? { time: lastDay[player]!, happened: false } : { time: day, happened: true });
    }
    return survivalEstimate(observations, this.setup.days);
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

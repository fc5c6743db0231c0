/** The columns that have a row for each day. */
import type { Slots } from './engine/slots.js';
import type { Holdings } from './holdings.js';
import type { SimulationResult } from './result.js';
import { PERCENTILES, gini, meanWithInterval, percentile, tidy, tidyOrNone } from './statistics.js';
import { flowAt } from './tally.js';
import type { DayTally } from './tally.js';

export class DayColumns {
  readonly balances: SimulationResult['balances'] = {
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
  readonly supply: SimulationResult['supply'] = {
    day: [],
    currency: [],
    units: [],
    gini: [],
    giniLow: [],
    giniHigh: [],
    n: [],
  };
  readonly flows: SimulationResult['flows'] = {
    day: [],
    persona: [],
    currency: [],
    direction: [],
    cause: [],
    units: [],
  };
  readonly caps: SimulationResult['caps'] = { day: [], persona: [], currency: [], times: [], dropped: [] };
  /** By day: what was sold, and what was paid for it. */
  private readonly sold: Pick<DayTally, 'sold' | 'paid'>[] = [];
  /** Causes of flows in the order in which they are told. */
  private readonly causes: readonly number[];

  /** `starts`: where the players of each persona begin, and how many there are in all. */
  constructor(
    private readonly starts: readonly number[],
    private readonly slots: Slots,
  ) {
    const { causes } = slots;
    this.causes = [...causes.keys()].sort((a, b) => (causes[a]! < causes[b]! ? -1 : 1));
  }

  dayEnds(day: number, tally: DayTally, holdings: Holdings): void {
    const { slots, starts } = this;
    const here = holdings.here.reduce((sum, one) => sum + one, 0);
    for (let currency = 0; currency < slots.currencies; currency++) {
      const all = new Float64Array(here);
      let from = 0;
      let ascending = new Float64Array();
      for (let persona = 0; persona < starts.length - 1; persona++) {
        let to = from;
        for (let player = starts[persona]!; player < starts[persona + 1]!; player++)
          if (holdings.here[player] === 1) all[to++] = holdings.balances[player * slots.currencies + currency]!;
        const own = all.subarray(from, to).sort();
        this.balanceRow(day, persona, currency, own);
        ascending = merged(ascending, own);
        from = to;
      }
      this.supplyRow(day, currency, ascending);
    }
    this.flowRows(day, tally);
    this.capRows(day, tally);
    this.sold.push({ sold: tally.sold, paid: tally.paid });
  }

  private balanceRow(day: number, persona: number, currency: number, ascending: Float64Array): void {
    const { balances } = this;
    const mean = meanWithInterval(ascending);
    balances.day.push(day);
    balances.persona.push(persona);
    balances.currency.push(currency);
    for (const p of PERCENTILES) balances[`p${p}`].push(tidyOrNone(percentile(ascending, p)));
    balances.mean.push(tidyOrNone(mean.mean));
    balances.meanLow.push(tidyOrNone(mean.low));
    balances.meanHigh.push(tidyOrNone(mean.high));
    balances.n.push(ascending.length);
  }

  private supplyRow(day: number, currency: number, ascending: Float64Array): void {
    const { supply } = this;
    const uneven = gini(ascending);
    supply.day.push(day);
    supply.currency.push(currency);
    supply.units.push(ascending.reduce((sum, units) => sum + units, 0));
    supply.gini.push(tidyOrNone(uneven.mean));
    supply.giniLow.push(tidyOrNone(uneven.low));
    supply.giniHigh.push(tidyOrNone(uneven.high));
    supply.n.push(ascending.length);
  }

  private flowRows(day: number, tally: DayTally): void {
    const { slots, flows } = this;
    for (let persona = 0; persona < this.starts.length - 1; persona++)
      for (let currency = 0; currency < slots.currencies; currency++)
        for (const way of [0, 1] as const) {
          const at = flowAt(slots, persona, currency, way);
          for (const cause of this.causes) {
            const units = tally.flows[at + cause]!;
            if (units === 0) continue;
            flows.day.push(day);
            flows.persona.push(persona);
            flows.currency.push(currency);
            flows.direction.push(way === 0 ? 'in' : 'out');
            flows.cause.push(slots.causes[cause]!);
            flows.units.push(units);
          }
        }
  }

  private capRows(day: number, tally: DayTally): void {
    const { slots, caps } = this;
    tally.capped.forEach((times, at) => {
      if (times === 0) return;
      const [persona, currency] = [Math.floor(at / slots.currencies), at % slots.currencies];
      caps.day.push(day);
      caps.persona.push(persona);
      caps.currency.push(currency);
      caps.times.push(times);
      caps.dropped.push(tally.flows[flowAt(slots, persona, currency, 1) + slots.assets[currency]!.overCap]!);
    });
  }

  /** Lowe's index: what all that was bought in the run would have cost at the prices of each day, as far as they are known. */
  prices(): SimulationResult['prices'] {
    const { slots, sold } = this;
    const columns: SimulationResult['prices'] = { day: [], currency: [], index: [], spent: [] };
    for (let currency = 0; currency < slots.currencies; currency++) {
      const paidOn = (day: number, deal: number) => sold[day]!.paid[deal * slots.currencies + currency]!;
      const bought = [...slots.deals.keys()]
        .map((deal) => ({
          deal,
          times: sold.reduce((sum, one, day) => sum + (paidOn(day, deal) > 0 ? one.sold[deal]! : 0), 0),
          price: 0,
        }))
        .filter(({ times }) => times > 0);
      if (bought.length === 0) continue;
      // Before it is bought first, a thing has the price at which it is.
      for (const one of bought) {
        const first = sold.findIndex((_, day) => paidOn(day, one.deal) > 0);
        one.price = paidOn(first, one.deal) / sold[first]!.sold[one.deal]!;
      }
      const cost = () => bought.reduce((sum, { times, price }) => sum + times * price, 0);
      const base = cost();
      for (const day of sold.keys()) {
        let spent = 0;
        for (const one of bought) {
          const paid = paidOn(day, one.deal);
          if (paid === 0) continue;
          spent += paid;
          one.price = paid / sold[day]!.sold[one.deal]!;
        }
        columns.day.push(day);
        columns.currency.push(currency);
        columns.index.push(tidy(cost() / base));
        columns.spent.push(spent);
      }
    }
    return columns;
  }
}

/** Both are in order, and so is what they come to: sorting it anew would take longer. */
function merged(a: Float64Array, b: Float64Array): Float64Array<ArrayBuffer> {
  const all = new Float64Array(a.length + b.length);
  let [i, j] = [0, 0];
  for (let at = 0; at < all.length; at++)
    all[at] = j === b.length || (i < a.length && a[i]! <= b[j]!) ? a[i++]! : b[j++]!;
  return all;
}

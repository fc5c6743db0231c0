/** Counts what plain players do: movements of a ledger as a run's tallies have them. */
import { isPlayerAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { REASON_CODES } from '../trade/index.js';
import type { ReasonCode } from '../trade/index.js';
import type { Slots } from './engine/slots.js';
import { TOTAL, dayTally, flowAt, runTally } from './tally.js';
import type { DayTally, RunTally } from './tally.js';

export class Recorder {
  private today: DayTally;
  readonly run: RunTally;
  private readonly causeOf: ReadonlyMap<string, number>;
  private readonly activityOf: ReadonlyMap<string, number>;

  constructor(
    private readonly slots: Slots,
    private readonly personas: number,
  ) {
    this.today = dayTally(slots, personas);
    this.run = runTally(slots, personas);
    this.causeOf = new Map(slots.causes.map((cause, index) => [cause, index]));
    this.activityOf = new Map([...slots.activities.keys()].map((id, index) => [id, index]));
  }

  /** What was counted in the day; the next one begins. */
  dayEnds(): DayTally {
    const { today } = this;
    this.today = dayTally(this.slots, this.personas);
    return today;
  }

  count(total: keyof typeof TOTAL): void {
    this.run.totals[TOTAL[total]]!++;
  }

  /** Movements of one player: what a till or a stock does by itself is no player's. */
  moved(persona: number, movements: readonly Movement[]): void {
    const { slots, today } = this;
    for (const { asset, units, from, to, cause } of movements) {
      const inward = isPlayerAccount(to);
      if (!inward && !isPlayerAccount(from)) continue;
      this.count('movements');
      const currency = slots.assetOf.get(asset)!;
      if (currency >= slots.currencies) continue;
      const isOver = to === 'world:over-cap';
      if (isOver) today.capped[persona * slots.currencies + currency]!++;
      const told = this.causeOf.get(isOver ? `over-cap:${asset}` : cause)!;
      today.flows[flowAt(slots, persona, currency, inward ? 0 : 1) + told]! += units;
    }
  }

  /** An activity was played once: `movements` are what the rules paid and took for it. */
  played(persona: number, activity: string, movements: readonly Movement[]): void {
    const { slots, run } = this;
    const at = persona * slots.activities.size + this.activityOf.get(activity)!;
    run.plays[at]!++;
    const pay = new Float64Array(slots.currencies);
    for (const { asset, units, to, cause } of movements) {
      const currency = slots.assetOf.get(asset)!;
      if (cause.startsWith('earning:') && currency < slots.currencies)
        pay[currency]! += isPlayerAccount(to) ? units : -units;
    }
    pay.forEach((units, currency) => {
      run.pay[at * slots.currencies + currency]! += units;
      run.paySquares[at * slots.currencies + currency]! += units ** 2;
    });
  }

  /** An offer was bought; `isFirst` by this player. */
  bought(persona: number, day: number, offer: string, total: Readonly<Record<string, number>>, isFirst: boolean): void {
    const { slots, run, today } = this;
    const deal = slots.dealOf.get(offer)!;
    this.count('purchases');
    run.times[persona * slots.deals.length + deal]!++;
    if (isFirst) run.buyers[persona * slots.deals.length + deal]!++;
    run.firstDay[deal] = Math.min(run.firstDay[deal]!, day);
    today.sold[deal]!++;
    for (const asset in total) {
      const currency = slots.assetOf.get(asset)!;
      if (currency < slots.currencies) today.paid[deal * slots.currencies + currency]! += total[asset]!;
    }
  }

  /** Shared stock of an offer was sold out from one instant to another. */
  soldOut(offer: string, fromMs: number, untilMs: number): void {
    const deal = this.slots.dealOf.get(offer)!;
    this.run.soldOut[deal]! += untilMs - fromMs;
    this.run.firstOut[deal] = Math.min(this.run.firstOut[deal]!, fromMs);
  }

  /** One was wanted and refused: each of the reasons. */
  refused(persona: number, offer: string, codes: readonly ReasonCode[]): void {
    const { slots, run } = this;
    const at = (persona * slots.deals.length + slots.dealOf.get(offer)!) * REASON_CODES.length;
    for (const code of codes) run.refused[at + REASON_CODES.indexOf(code)]!++;
  }
}

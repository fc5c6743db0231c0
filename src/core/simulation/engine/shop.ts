/** What a player sees on a visit, what stands against buying it, and buying it. */
import { MAX_UNITS } from '../../amount/index.js';
import type { Economy, Persona } from '../../economy/index.js';
import type { Value } from '../../formula/index.js';
import { basketArrivals, paidParts } from '../../player/index.js';
import { Luck } from '../../random/index.js';
import { levelChange, levelNextMs, levelSettle } from '../../schedule/index.js';
import type { Level } from '../../schedule/index.js';
import { REASON_CODES } from '../../trade/index.js';
import type { ReasonCode } from '../../trade/index.js';
import { runEndMs } from '../days.js';
import { LUCK } from '../luck.js';
import { POLICIES, priceShare } from '../policy.js';
import type { Answer, Visit, Way as Tempting } from '../policy.js';
import type { RunSetup } from '../scenario.js';
import { TOTAL } from '../tally.js';
import type { RunTally } from '../tally.js';
import type { Crowd } from './crowd.js';
import type { Play } from './earning.js';
import { NO_ITEM, OnShow, SEVERAL } from './onShow.js';
import { Pricing } from './pricing.js';
import type { Progress } from './progress.js';
import type { SharedStock } from './shared.js';
import type { Amounts, Deal, Slots, Terms, Untold, Way } from './slots.js';
import type { State } from './state.js';

interface EngineAnswer extends Answer {
  deal: Deal;
  way: Way;
  terms: Terms | Untold;
}

export interface PersonaSlot {
  persona: Persona;
  plays: readonly { play: Play; weight: number }[];
  /** How many sessions a day has, by weekday, drawn from the engine's luck. */
  sessions: readonly (() => number)[];
  /** Slots of what it saves for, in their order. */
  wishes: readonly number[];
  /** What is never spent of each asset. */
  keeps: Float64Array;
}

export class Shopping {
  private readonly visit: Visit<Deal, Way, EngineAnswer, number>;
  private readonly economy: Economy;
  /** When the run is over, epoch ms. */
  private readonly endMs: number;
  /** Whose visit it is. */
  private persona!: PersonaSlot;
  private readonly visitLuck = new Luck();
  private readonly luck = new Luck();
  /** Whether a shop serves the player: 0 not asked yet, 1 it does, 2 it does not. */
  private readonly serves: Uint8Array;
  private readonly onShow: OnShow;
  /** Places in the window of what is in reach; how many, or below 0 where that must be found anew. */
  private readonly reach: Int32Array;
  private reachCount = -1;
  private readonly pricing: Pricing;
  /** Conditions of offers by deal, and of shops. */
  private readonly dealWhen: readonly ((() => Value) | undefined)[];
  private readonly shopWhen: readonly ((() => Value) | undefined)[];

  constructor(
    setup: RunSetup,
    private readonly slots: Slots,
    private readonly crowd: Crowd,
    private readonly run: RunTally,
    private readonly state: State,
    private readonly shared: SharedStock,
    private readonly progress: Progress,
  ) {
    this.economy = setup.economy;
    this.endMs = runEndMs(setup);
    this.serves = new Uint8Array(slots.shops.length);
    this.dealWhen = slots.deals.map(({ offer: { when } }) => when && state.bound(when));
    this.shopWhen = slots.shops.map(({ when }) => when && state.bound(when));
    this.onShow = new OnShow(this.economy, slots);
    this.reach = new Int32Array(slots.deals.length);
    this.pricing = new Pricing(this.economy, slots, state, this.onShow);
    this.visit = this.visitMake();
  }

  private visitMake(): Visit<Deal, Way, EngineAnswer, number> {
    const { slots, crowd } = this;
    return {
      wishes: [],
      delayDays: 0,
      holds: (item) => crowd.units[this.state.player * crowd.assets + item]!,
      giving: (item) => this.onShow.giving(item),
      ways: ({ ways }) => ways,
      check: (deal, way) => {
        const terms = this.pricing.terms(deal, way);
        return this.answer(deal, way, terms, this.allows(deal, terms));
      },
      allowed: (deal, way) => this.allowed(deal, way),
      tempting: () => this.tempting(),
      buy: ({ deal, terms }) => {
        this.buy(deal, terms as Terms);
        return true;
      },
      refused: (answer) => this.refused(answer),
      incomePerDay: (asset) =>
        crowd.earned[this.state.player * crowd.assets + slots.assetOf.get(asset)!]! / (this.state.todayIs + 1),
    };
  }

  /** One visit of the player who acts, the `number`th session that began on `day`. */
  shop(persona: PersonaSlot, day: number, number: number, nowMs: number): void {
    const { crowd, state, visit } = this;
    this.persona = persona;
    this.visitLuck.high = crowd.luckHigh[state.player]!;
    this.visitLuck.low = crowd.luckLow[state.player]!;
    this.visitLuck.add(LUCK.visit).add(day).add(number);
    if (crowd.shopDay[state.player] !== state.todayIs + 1) {
      crowd.shopDay[state.player] = state.todayIs + 1;
      crowd.shopDays[state.player]!++;
    }
    this.servesForget();
    this.onShow.see(nowMs, () => `${persona.persona.id}-${crowd.number[state.player]}`);
    const { policy, delayDays } = persona.persona.spending;
    visit.wishes = persona.wishes;
    visit.delayDays = delayDays;
    // What came back meanwhile is booked with the first purchase.
    state.look(nowMs);
    this.reachFind();
    this.noteAfforded();
    POLICIES[policy](visit);
    state.enter(state.player);
  }

  /** Where in the window what is sold by shops that serve the player lies, and costs no more than is held as far as that is simple. */
  private reachFind(): void {
    const { state, reach, onShow } = this;
    const { units: held, at } = state;
    const { deals, slot, units } = onShow.window;
    let count = 0;
    for (let i = 0; i < slot.length; i++)
      if (held[at + slot[i]!]! >= units[i]! && this.shopServes(deals[i]!.shop)) reach[count++] = i;
    this.reachCount = count;
  }

  /** What luck turns to, of what is in reach. */
  private tempting(): Tempting<Deal, Way, EngineAnswer>[] {
    const { chance } = this.persona.persona.spending;
    const { luck, visitLuck, reach } = this;
    const { deals, luck: keys } = this.onShow.window;
    if (this.reachCount < 0) this.reachFind();
    const found: Tempting<Deal, Way, EngineAnswer>[] = [];
    for (let place = 0; place < this.reachCount; place++) {
      const i = reach[place]!;
      if (!(luck.from(visitLuck).add(keys[i]!).number() < chance)) continue;
      const deal = deals[i]!;
      for (const way of deal.ways) {
        const answer = this.allowed(deal, way);
        if (!answer) continue;
        found.push({ offer: deal, way, answer });
        break;
      }
    }
    return found;
  }

  /** What can be paid for where it is on sale, whatever else stands against it. */
  private noteAfforded(): void {
    const { reach, state } = this;
    const { affordedDay, items } = this.crowd;
    const { deals, item } = this.onShow.window;
    const row = state.player * items - this.slots.currencies;
    for (let place = 0; place < this.reachCount; place++) {
      const one = item[reach[place]!]!;
      if (one === NO_ITEM || (one !== SEVERAL && affordedDay[row + one] !== 0)) continue;
      const deal = deals[reach[place]!]!;
      if (one === SEVERAL && deal.items.every((each) => affordedDay[row + each] !== 0)) continue;
      if (!this.pricing.isPayable(deal)) continue;
      for (const each of deal.items) if (affordedDay[row + each] === 0) affordedDay[row + each] = state.todayIs + 1;
    }
  }

  private servesForget(): void {
    for (let shop = 0; shop < this.serves.length; shop++) this.serves[shop] = 0;
  }

  private shopServes(shop: number): boolean {
    if (this.serves[shop] === 0) {
      const when = this.shopWhen[shop];
      this.serves[shop] = this.onShow.isOpen(shop) && (when === undefined || when() === true) ? 1 : 2;
    }
    return this.serves[shop] === 1;
  }

  /** An answer where nothing stands against it and the reserve is spared; what is cheap to ask is asked first. */
  private allowed(deal: Deal, way: Way): EngineAnswer | undefined {
    if (this.pricing.isTooDear(deal, way)) return undefined;
    // A price that must be worked out is not, where something else stands against it.
    if (!way.fixed && !this.isOffered(deal)) return undefined;
    const terms = this.pricing.terms(deal, way);
    if (!this.allows(deal, terms)) return undefined;
    const answer = this.answer(deal, way, terms, true);
    return answer.spares ? answer : undefined;
  }

  /** Whether it can be bought at all, whatever it costs. */
  private isOffered(deal: Deal): boolean {
    const { limits, shop } = deal;
    for (let i = 0; i < limits.length; i++) if (this.state.isReached(limits[i]!)) return false;
    return this.shopServes(shop) && this.isFor(deal);
  }

  /** Whether the offer's condition holds. */
  private isFor({ slot }: Deal): boolean {
    const when = this.dealWhen[slot];
    return when === undefined || when() === true;
  }

  /**
   * Whether nothing stands against a purchase; what most often does is asked first. With `codes`, all that does is
   * written there, as the live check tells it.
   */
  private allows(deal: Deal, terms: Terms | Untold, codes?: ReasonCode[]): boolean {
    let allowed = true;
    /** True where nobody wants to know more. */
    const stops = (code: ReasonCode): boolean => {
      allowed = false;
      codes?.push(code);
      return codes === undefined;
    };
    if (typeof terms === 'string') {
      if (stops(terms)) return false;
    } else if (!this.state.holdsAll(terms.cost) || !this.hasRoom(terms)) {
      if (codes === undefined) return false;
      allowed = false;
      this.amountCodes(terms, codes);
    }
    for (const one of deal.limits) if (this.state.isReached(one) && stops('limit-reached')) return false;
    if (!this.onShow.isSold(deal) && stops('not-on-show')) return false;
    const stock = this.stockOf(deal);
    if (stock && stock.units < 1 && stops('out-of-stock')) return false;
    if (codes === undefined) {
      if (!this.shopServes(deal.shop)) return false;
    } else {
      const when = this.shopWhen[deal.shop];
      if (!this.onShow.isOpen(deal.shop)) stops('shop-closed');
      if (when && when() !== true) stops('not-for-this-player');
    }
    if (!this.isFor(deal)) stops('requirement-unmet');
    return allowed;
  }

  /** What would be held of something that arrives. */
  private heldAfter(slot: number, arriving: number, cost: Amounts): number {
    const paid = cost.slots.indexOf(slot);
    return this.state.heldOf(slot) - (paid < 0 ? 0 : cost.units[paid]!) + arriving;
  }

  private hasRoom({ cost, arrivals }: Terms): boolean {
    for (let i = 0; i < arrivals.slots.length; i++) {
      const { most, bounded } = this.slots.assets[arrivals.slots[i]!]!;
      const after = this.heldAfter(arrivals.slots[i]!, arrivals.units[i]!, cost);
      if (after > MAX_UNITS || (bounded && after > most)) return false;
    }
    return true;
  }

  /** What of the amounts stands against it: one reason for each asset. */
  private amountCodes({ cost, arrivals }: Terms, codes: ReasonCode[]): void {
    cost.slots.forEach((slot, i) => {
      if (this.state.heldOf(slot) < cost.units[i]!) codes.push('short-of');
    });
    let isTooLarge = false;
    arrivals.slots.forEach((slot, i) => {
      const { most, bounded, item } = this.slots.assets[slot]!;
      const after = this.heldAfter(slot, arrivals.units[i]!, cost);
      isTooLarge ||= after > MAX_UNITS;
      if (bounded && after > most) codes.push(item ? 'carry-full' : 'over-cap');
    });
    if (isTooLarge) codes.push('too-large');
  }

  /** What is left of an offer, restocked up to now; undefined where it never runs out. */
  private stockOf({ offer: { stock }, ownStock, sharedStock }: Deal): Level | undefined {
    if (!stock) return undefined;
    const written =
      ownStock === undefined ? this.shared.get(sharedStock!) : this.crowd.stock(this.state.player, ownStock);
    const level = written ?? { units: stock.units, sinceMs: null };
    return stock.restock ? levelSettle(level, stock.restock, this.state.nowMs) : level;
  }

  private answer(deal: Deal, way: Way, terms: Terms | Untold, allowed: boolean): EngineAnswer {
    if (typeof terms === 'string') return { deal, way, terms, allowed, share: 0, spares: true, total: undefined };
    const { total, cost, arrivals } = terms;
    const { keeps } = this.persona;
    let share = 0;
    let spares = true;
    for (let i = 0; i < cost.slots.length; i++) {
      const slot = cost.slots[i]!;
      const held = this.state.heldOf(slot);
      const arriving = arrivals.slots.indexOf(slot);
      share = Math.max(share, priceShare(cost.units[i]!, held));
      spares &&= held - cost.units[i]! + (arriving < 0 ? 0 : arrivals.units[arriving]!) >= keeps[slot]!;
    }
    return { deal, way, terms, allowed, share, spares, total };
  }

  private buy(deal: Deal, { total, gives, cost, bundles, arrivals }: Terms): void {
    const { slots, crowd, state, progress } = this;
    const { player, nowMs } = state;
    const { offer } = deal;
    if (state.isCopy) {
      state.enter(player);
      state.settle(nowMs);
    }
    const { cause } = deal;
    this.state.pay(cost, cause);
    if (progress.isAny) progress.begin(false);
    const stock = this.stockOf(deal);
    if (stock) {
      const left = levelChange(stock, -1, offer.stock!.restock, nowMs);
      if (deal.ownStock === undefined) this.sharedSet(deal, left);
      else crowd.stockSet(player, deal.ownStock, left);
    }
    this.state.unpack(bundles, cause);
    // Stacks that expire are told apart by what was paid; all others are one number.
    const remembers = arrivals.slots.some((slot) => slots.assets[slot]!.timed);
    const paid = remembers ? paidParts(this.economy, total, basketArrivals(this.economy, gives)) : undefined;
    for (let i = 0; i < arrivals.slots.length; i++)
      this.state.arrive(arrivals.slots[i]!, arrivals.units[i]!, cause, paid && { paid });
    this.bought(deal, cost);
    if (progress.isAny) progress.bought(deal.slot, cost.slots, cost.units);
    // What the player holds has changed, and shops may ask for it.
    this.servesForget();
    this.reachCount = -1;
  }

  private bought(deal: Deal, cost: Amounts): void {
    const { run, slots, crowd, state } = this;
    const at = state.persona * slots.deals.length + deal.slot;
    run.totals[TOTAL.purchases]!++;
    run.times[at]!++;
    if (crowd.count[crowd.countAt(state.player, deal.lifetime)] === 0) run.buyers[at]!++;
    if (state.todayIs < run.firstDay[deal.slot]!) run.firstDay[deal.slot] = state.todayIs;
    for (const limit of deal.counted) state.count(limit, 1);
    state.today.sold[deal.slot]!++;
    for (let i = 0; i < cost.slots.length; i++)
      if (cost.slots[i]! < slots.currencies)
        state.today.paid[deal.slot * slots.currencies + cost.slots[i]!]! += cost.units[i]!;
  }

  /** Stock that this purchase used up is sold out until some comes back. */
  private sharedSet({ slot, offer, sharedStock }: Deal, left: Level): void {
    const { run, shared, state } = this;
    shared.set(sharedStock!, left);
    if (left.units > 0) return;
    const backMs = levelNextMs(left, offer.stock!.restock) ?? Infinity;
    run.soldOut[slot]! += Math.min(backMs, this.endMs) - state.nowMs;
    run.firstOut[slot] = Math.min(run.firstOut[slot]!, state.nowMs);
  }

  /** What is wanted and refused counts once a day. */
  private refused({ deal, terms }: EngineAnswer): void {
    const at = this.state.player * this.slots.deals.length + deal.slot;
    if (this.crowd.refusedDay[at] === this.state.todayIs + 1) return;
    this.crowd.refusedDay[at] = this.state.todayIs + 1;
    const codes: ReasonCode[] = [];
    this.allows(deal, terms, codes);
    const row = (this.state.persona * this.slots.deals.length + deal.slot) * REASON_CODES.length;
    for (const code of codes) this.run.refused[row + REASON_CODES.indexOf(code)]!++;
    this.noteWatched(codes);
  }

  /** A day counts once for each reason. */
  private noteWatched(codes: readonly ReasonCode[]): void {
    const { crowd, slots, state } = this;
    slots.watched.forEach((reason, place) => {
      const at = state.player * slots.watched.length + place;
      if (!codes.includes(reason) || crowd.reasonDay[at] === state.todayIs + 1) return;
      crowd.reasonDay[at] = state.todayIs + 1;
      crowd.reasonDays[at]!++;
    });
  }
}

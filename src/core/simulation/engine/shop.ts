/** What a player sees on a visit, what stands against buying it, and buying it. */
import type { Basket } from '../../amount/index.js';
import { MAX_UNITS } from '../../amount/index.js';
import type { Economy, Offer, Persona, PriceChoice } from '../../economy/index.js';
import { firstOf, keyDigits, keyEnd, keyNext, keyText } from '../../random/index.js';
import { isOnShow, shelfShown, shownUntilMs } from '../../rotation/index.js';
import { levelChange, levelSettle, openingIsOpen } from '../../schedule/index.js';
import type { Level, Limit, Period } from '../../schedule/index.js';
import { quoteMake } from '../../trade/index.js';
import type { ReasonCode } from '../../trade/index.js';
import { POLICIES, priceShare } from '../policy.js';
import type { Answer, Visit } from '../policy.js';
import type { Recorder } from '../recorder.js';
import type { Crowd } from './crowd.js';
import { termsOf } from './slots.js';
import type { ActivitySlot, Amounts, Deal, Slots, Terms, Untold, Way } from './slots.js';
import type { State } from './state.js';

const LIFETIME: Limit = { period: 'lifetime', most: Infinity, span: { kind: 'lifetime' } };

interface EngineAnswer extends Answer {
  deal: Deal;
  way: Way;
  terms: Terms | Untold;
}

/** What is on show, and until when; by item, what of it gives one, as far as that was asked. */
interface Seen extends Period {
  offers: readonly Deal[];
  giving: Map<string, readonly Deal[]>;
}

export interface PersonaSlot {
  persona: Persona;
  plays: readonly { slot: ActivitySlot; weight: number }[];
  /** What is never spent of each asset. */
  keeps: Float64Array;
}

/** Until somebody visits. */
const NO_SPENDING: Persona['spending'] = { policy: 'impulse', wishes: [], delayDays: 0, chance: 0, keeps: {} };

export class Shopping {
  private readonly visit: Visit<Deal, Way, EngineAnswer>;
  /** Whose visit it is. */
  private persona!: PersonaSlot;
  private visitLuck = 0;
  /** What is left of stock that all share; undefined while it is untouched. */
  private readonly sharedStock: (Level | undefined)[];
  /** Whether a shop serves the player: 0 not asked yet, 1 it does, 2 it does not. */
  private readonly serves: Uint8Array;
  /** Whether a sale is on: 1 where it is; and whether any is. */
  private readonly runs: Uint8Array;
  private anyRuns = false;
  private seen: Seen = { startMs: 0, endMs: 0, offers: [], giving: new Map() };

  constructor(
    private readonly economy: Economy,
    private readonly slots: Slots,
    private readonly crowd: Crowd,
    private readonly recorder: Recorder,
    private readonly state: State,
  ) {
    this.sharedStock = Array.from({ length: slots.sharedStocks }, () => undefined);
    this.serves = new Uint8Array(slots.shops);
    this.runs = new Uint8Array(slots.sales.length);
    this.visit = this.visitMake();
  }

  private visitMake(): Visit<Deal, Way, EngineAnswer> {
    const { slots, crowd } = this;
    return {
      offers: [],
      parameters: NO_SPENDING,
      holds: (asset) => crowd.units[this.state.player * crowd.assets + slots.assetOf.get(asset)!]!,
      giving: (item) => {
        const { offers, giving } = this.seen;
        const known = giving.get(item);
        if (known) return known;
        const found = offers.filter(({ offer }) => offer.gives.some(({ asset }) => asset === item));
        giving.set(item, found);
        return found;
      },
      ways: ({ ways }) => ways,
      check: (deal, way) => {
        const terms = this.terms(deal, way);
        return this.answer(deal, way, terms, this.allows(deal, terms));
      },
      allowed: (deal, way) => this.allowed(deal, way),
      inReach: (deal) => {
        const { ways } = deal;
        for (let i = 0; i < ways.length; i++) if (!this.isTooDear(deal, ways[i]!)) return true;
        return false;
      },
      firstAllowed: (deal) => {
        const { ways } = deal;
        for (let i = 0; i < ways.length; i++) {
          const answer = this.allowed(deal, ways[i]!);
          if (answer) return { offer: deal, way: ways[i]!, answer };
        }
        return undefined;
      },
      buy: ({ deal, terms }) => {
        this.buy(deal, terms as Terms);
        return true;
      },
      refused: (answer) => this.refused(answer),
      luck: ({ offer }) => firstOf(keyEnd(keyNext(keyText(this.visitLuck, offer.id)))),
      incomePerDay: (asset) =>
        crowd.earned[this.state.player * crowd.assets + slots.assetOf.get(asset)!]! / (this.state.todayIs + 1),
    };
  }

  /** One visit of the player who acts, the `number`th session that began on `day`. */
  shop(persona: PersonaSlot, day: number, number: number, nowMs: number): void {
    const { crowd, state, visit } = this;
    this.persona = persona;
    this.state.fields = undefined;
    const luck = keyNext(keyText(crowd.luck[state.player]!, 'visit'));
    this.visitLuck = keyNext(keyDigits(keyNext(keyDigits(luck, day)), number));
    this.serves.fill(0);
    this.anyRuns = false;
    this.slots.sales.forEach(({ opening }, sale) => {
      const runs = openingIsOpen(opening, nowMs);
      this.runs[sale] = runs ? 1 : 0;
      this.anyRuns ||= runs;
    });
    visit.offers = this.offersSeen(nowMs);
    visit.parameters = this.persona.persona.spending;
    // What came back meanwhile is booked with the first purchase.
    state.look(nowMs);
    POLICIES[visit.parameters.policy](visit);
    state.holder = state.own;
  }

  private offersSeen(nowMs: number): readonly Deal[] {
    if (nowMs >= this.seen.startMs && nowMs < this.seen.endMs) return this.seen.offers;
    const { economy, slots } = this;
    let startMs = -Infinity;
    let endMs = Infinity;
    const offers: Deal[] = [];
    for (const { shelf, deals: all } of slots.shelves) {
      const shown = shelfShown(economy, shelf, this.crowd.keys[this.state.player]!, nowMs);
      endMs = Math.min(endMs, shownUntilMs(shown) ?? Infinity);
      if (shown.kind === 'all') {
        offers.push(...all);
        continue;
      }
      startMs = Math.max(startMs, shown.period.startMs);
      offers.push(...all.filter(({ offer }) => isOnShow(shown, offer.id)));
      // What each player sees is asked each time.
      if (shown.rotation.perPlayer) endMs = -Infinity;
    }
    this.seen = { startMs, endMs, offers, giving: new Map() };
    return offers;
  }

  private shopServes({ shop, offer }: Deal): boolean {
    if (this.serves[shop] === 0) {
      const { hidden, opening, when } = offer.shop;
      const does =
        !hidden &&
        openingIsOpen(opening, this.state.nowMs) &&
        (when === undefined || when.run(this.state.scope) === true);
      this.serves[shop] = does ? 1 : 2;
    }
    return this.serves[shop] === 1;
  }

  /** An answer where nothing stands against it and the reserve is spared; what is cheap to ask is asked first. */
  private allowed(deal: Deal, way: Way): EngineAnswer | undefined {
    if (this.isTooDear(deal, way)) return undefined;
    // A price that must be worked out is not, where something else stands against it.
    if (!way.fixed && !this.isOffered(deal)) return undefined;
    const terms = this.terms(deal, way);
    if (!this.allows(deal, terms)) return undefined;
    const answer = this.answer(deal, way, terms, true);
    return answer.spares ? answer : undefined;
  }

  /** Whether it can be bought at all, whatever it costs. */
  private isOffered(deal: Deal): boolean {
    const { offer, limits } = deal;
    for (let i = 0; i < limits.length; i++) if (this.state.isReached(limits[i]!)) return false;
    return this.shopServes(deal) && (offer.when === undefined || offer.when.run(this.state.scope) === true);
  }

  /** What one time costs and gives now, or why that cannot be worked out. */
  private terms({ offer, sales }: Deal, { fixed, choice, reduced }: Way): Terms | Untold {
    let running = 0;
    if (this.anyRuns) for (let i = 0; i < sales.length; i++) if (this.runs[sales[i]!] === 1) running |= 1 << i;
    if (fixed && running === 0) return fixed;
    // While the same sales run for everybody, everybody is told the same.
    if (!reduced) return this.quoted(offer, choice);
    const known = reduced.get(running);
    if (known) return known;
    const terms = this.quoted(offer, choice);
    reduced.set(running, terms);
    return terms;
  }

  /** No sale lowers it, and its price is more than is held: known without working anything out. */
  private isTooDear(deal: Deal, { least }: Way): boolean {
    return (
      least !== undefined &&
      this.state.holder.units[this.state.holder.at + least.slot]! < least.units &&
      !(this.anyRuns && this.isLowered(deal))
    );
  }

  private isLowered({ sales }: Deal): boolean {
    for (let i = 0; i < sales.length; i++) if (this.runs[sales[i]!] === 1) return true;
    return false;
  }

  private quoted(offer: Offer, choice: PriceChoice): Terms | Untold {
    const { economy, slots } = this;
    const result = quoteMake(economy, offer, choice, 1, this.state.scope, this.state.nowMs);
    return result.ok ? termsOf(slots.assetOf, economy, result.quote.total, result.quote.gives) : result.why;
  }

  /**
   * Whether nothing stands against a purchase; what most often does is asked first. With `codes`, all that does is
   * written there, as the live check tells it.
   */
  private allows(deal: Deal, terms: Terms | Untold, codes?: ReasonCode[]): boolean {
    const { offer } = deal;
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
    const isOffered = !offer.hidden && !offer.shelf.hidden && openingIsOpen(offer.opening, this.state.nowMs);
    if (!isOffered && stops('not-on-show')) return false;
    const stock = this.stockOf(deal);
    if (stock && stock.units < 1 && stops('out-of-stock')) return false;
    if (codes === undefined) {
      if (!this.shopServes(deal)) return false;
    } else {
      const { hidden, opening, when } = offer.shop;
      if (hidden || !openingIsOpen(opening, this.state.nowMs)) stops('shop-closed');
      if (when && when.run(this.state.scope) !== true) stops('not-for-this-player');
    }
    if (offer.when && offer.when.run(this.state.scope) !== true) stops('requirement-unmet');
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
      ownStock === undefined ? this.sharedStock[sharedStock!] : this.crowd.stock(this.state.player, ownStock);
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

  private buy(deal: Deal, { total, gives, cost, arrivals, hasBundle }: Terms): void {
    const { slots, crowd, state } = this;
    const { player, nowMs } = state;
    const { offer } = deal;
    if (this.state.holder.isCopy) {
      this.state.holder = this.state.own;
      this.state.settle(nowMs);
    }
    const cause = slots.causeOf.get(`purchase:${offer.id}`)!;
    this.state.pay(cost, cause);
    const stock = this.stockOf(deal);
    if (stock) {
      const left = levelChange(stock, -1, offer.stock!.restock, nowMs);
      if (deal.ownStock === undefined) this.sharedStock[deal.sharedStock!] = left;
      else crowd.stockSet(player, deal.ownStock, left);
    }
    if (hasBundle) this.state.unpack(gives, cause);
    for (let i = 0; i < arrivals.slots.length; i++) {
      const slot = arrivals.slots[i]!;
      // Stacks are told apart by what was paid; all others are one number.
      const paid = slots.assets[slot]!.timed ? paidForEach(total, gives) : null;
      this.state.arrive(slot, arrivals.units[i]!, cause, paid);
    }
    for (const { limit, counter } of deal.limits) this.state.countOnce(limit, counter);
    if (!deal.limits.some(({ counter }) => counter === deal.lifetime)) this.state.countOnce(LIFETIME, deal.lifetime);
    this.recorder.bought(player, this.state.todayIs, offer.id);
    // What the player holds has changed, and shops may ask for it.
    this.serves.fill(0);
  }

  /** What is wanted and refused counts once a day. */
  private refused({ deal, terms }: EngineAnswer): void {
    const at = this.state.player * this.slots.deals.length + deal.slot;
    if (this.crowd.refusedDay[at] === this.state.todayIs) return;
    this.crowd.refusedDay[at] = this.state.todayIs;
    const codes: ReasonCode[] = [];
    this.allows(deal, terms, codes);
    this.recorder.refused(deal.offer.id, codes);
  }
}

/** What each unit cost, rounded down, where one kind of thing was bought: stacks are told apart by it. */
function paidForEach(total: Readonly<Basket>, gives: Readonly<Basket>): Basket | null {
  const [asset, ...others] = Object.keys(gives);
  if (asset === undefined || others.length > 0 || gives[asset]! < 1) return null;
  return Object.fromEntries(Object.keys(total).map((paid) => [paid, Math.floor(total[paid]! / gives[asset]!)]));
}

/** What is on show and the sales that run: the same for all who come by while neither changes. */
import type { Economy } from '../../economy/index.js';
import { isOnShow, shelfShown, shownUntilMs } from '../../rotation/index.js';
import { openingIsOpen } from '../../schedule/index.js';
import type { Period } from '../../schedule/index.js';
import type { Deal, Slots } from './slots.js';

/** Offers of a shop that are not hidden, with what is asked of all of them at every visit in columns. */
export interface ShopWindow {
  shop: number;
  deals: readonly Deal[];
  /** What luck is keyed by. */
  luck: Int32Array;
  /** Whoever holds less than `units` of `slot` cannot pay; -1 where that is not so simple. */
  slot: Int32Array;
  units: Float64Array;
  /** The one item that is given; `SEVERAL` or `NO_ITEM` otherwise. */
  item: Int32Array;
}

export const SEVERAL = -1;
export const NO_ITEM = -2;

export class OnShow {
  /** All of it, in the order of the storefront. */
  offers: readonly Deal[] = [];
  shops: readonly ShopWindow[] = [];
  /** Whether a sale is on: 1 where it is. */
  readonly runs: Uint8Array;
  private holds: Period = { startMs: 0, endMs: 0 };
  private readonly givings = new Map<string, readonly Deal[]>();
  private isSeen = false;

  constructor(
    private readonly economy: Economy,
    private readonly slots: Slots,
  ) {
    this.runs = new Uint8Array(slots.sales.length);
  }

  /** Brings it up to an instant, as a player sees it. */
  see(nowMs: number, playerKey: () => string): void {
    let isNew = !this.isSeen;
    for (let sale = 0; sale < this.runs.length; sale++) {
      const runs = openingIsOpen(this.slots.sales[sale]!.opening, nowMs) ? 1 : 0;
      isNew ||= runs !== this.runs[sale];
      this.runs[sale] = runs;
    }
    if (nowMs < this.holds.startMs || nowMs >= this.holds.endMs) {
      this.offersFind(nowMs, playerKey());
      isNew = true;
    }
    if (isNew) this.shops = this.slots.shops.map((_, shop) => this.windowOf(shop));
    this.isSeen = true;
  }

  /** What is on show and gives an item. */
  giving(item: string): readonly Deal[] {
    const known = this.givings.get(item);
    if (known) return known;
    const found = this.offers.filter(({ offer }) => offer.gives.some(({ asset }) => asset === item));
    this.givings.set(item, found);
    return found;
  }

  private offersFind(nowMs: number, playerKey: string): void {
    let startMs = -Infinity;
    let endMs = Infinity;
    const offers: Deal[] = [];
    for (const { shelf, deals } of this.slots.shelves) {
      const shown = shelfShown(this.economy, shelf, playerKey, nowMs);
      endMs = Math.min(endMs, shownUntilMs(shown) ?? Infinity);
      if (shown.kind === 'all') {
        offers.push(...deals);
        continue;
      }
      startMs = Math.max(startMs, shown.period.startMs);
      offers.push(...deals.filter(({ offer }) => isOnShow(shown, offer.id)));
      // What each player sees is asked each time.
      if (shown.rotation.perPlayer) endMs = -Infinity;
    }
    this.offers = offers;
    this.holds = { startMs, endMs };
    this.givings.clear();
  }

  private windowOf(shop: number): ShopWindow {
    const deals = this.offers.filter((deal) => deal.shop === shop && !deal.offer.hidden && !deal.offer.shelf.hidden);
    const least = deals.map((deal) =>
      this.isLowered(deal) || deal.ways.length !== 1 ? undefined : deal.ways[0]!.least,
    );
    return {
      shop,
      deals,
      luck: Int32Array.from(deals, ({ luck }) => luck),
      slot: Int32Array.from(least, (one) => one?.slot ?? -1),
      units: Float64Array.from(least, (one) => one?.units ?? 0),
      item: Int32Array.from(deals, ({ items }) =>
        items.length === 1 ? items[0]! : items.length === 0 ? NO_ITEM : SEVERAL,
      ),
    };
  }

  /** Whether a sale may lower its price. */
  isLowered({ sales }: Deal): boolean {
    for (let i = 0; i < sales.length; i++) if (this.runs[sales[i]!] === 1) return true;
    return false;
  }
}

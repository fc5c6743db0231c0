/** What is on show, open and lowered: the same for all who come by until one of these changes. */
import type { Economy } from '../../economy/index.js';
import { isOnShow, shelfShown, shownUntilMs } from '../../rotation/index.js';
import { openingChangesMs, openingIsOpen } from '../../schedule/index.js';
import type { Opening, Period } from '../../schedule/index.js';
import type { Deal, Slots } from './slots.js';

/** What is open and on: it holds from an instant on that was asked for, until the first change. */
interface Times extends Period {
  /** By sale, shop and deal: 1 where it is on, open, and for sale. */
  runs: Uint8Array;
  open: Uint8Array;
  sold: Uint8Array;
  /** By deal: 1 where a sale may lower its price. */
  lowered: Uint8Array;
}

/** The same with what shelves have on show. */
interface Scene extends Period {
  times: Times;
  /** Undefined where something is drawn for each player. */
  shown: Shown | undefined;
}

interface Shown {
  /** All of it, in the order of the storefront. */
  offers: readonly Deal[];
  givings: Map<number, readonly Deal[]>;
  window: Window;
}

/** What is sold in open shops, with what is asked of all of it at every visit in columns. */
export interface Window {
  deals: readonly Deal[];
  /** What luck is keyed by. */
  luck: Int32Array;
  /** Whoever holds less than `units` of `slot` cannot pay; less than nothing where that is not so simple. */
  slot: Int32Array;
  units: Float64Array;
  /** The one item that is given; `SEVERAL` or `NO_ITEM` otherwise. */
  item: Int32Array;
}

export const SEVERAL = -1;
export const NO_ITEM = -2;

/** Players who share nothing play a day one after the other, and time steps back between two of them. */
const MOST_KNOWN = 16;

/** What was worked out for the time around some instants. */
class Known<T extends Period> {
  private last: T | undefined;
  private all: readonly T[] = [];

  at(nowMs: number, make: () => T): T {
    const holds = ({ startMs, endMs }: T): boolean => nowMs >= startMs && nowMs < endMs;
    if (this.last === undefined || !holds(this.last)) this.last = this.all.find(holds) ?? this.made(make());
    return this.last;
  }

  /** The same, known from an earlier moment on, takes the place of the later one. */
  private made(one: T): T {
    this.all = [one, ...this.all.filter(({ endMs }) => endMs !== one.endMs).slice(0, MOST_KNOWN - 1)];
    return one;
  }
}

export class OnShow {
  /** As it is when the player looks, and for the player who looks. */
  private scene!: Scene;
  private shown!: Shown;
  private readonly times = new Known<Times>();
  private readonly scenes = new Known<Scene>();
  private readonly openings: readonly Opening[];

  constructor(
    private readonly economy: Economy,
    private readonly slots: Slots,
  ) {
    const { sales, shops, deals } = slots;
    this.openings = [...sales, ...shops, ...deals.map(({ offer }) => offer)].map(({ opening }) => opening);
  }

  /** Brings it up to an instant, as a player sees it. */
  see(nowMs: number, playerKey: () => string): void {
    this.scene = this.scenes.at(nowMs, () => this.sceneMake(nowMs, playerKey()));
    this.shown = this.scene.shown ?? this.shownMake(this.scene.times, nowMs, playerKey()).shown;
  }

  get window(): Window {
    return this.shown.window;
  }

  /** What is on show and gives an item. */
  giving(item: number): readonly Deal[] {
    const { givings, offers } = this.shown;
    const known = givings.get(item);
    if (known) return known;
    const found = offers.filter(({ items }) => items.includes(item));
    givings.set(item, found);
    return found;
  }

  isOpen(shop: number): boolean {
    return this.scene.times.open[shop] === 1;
  }

  /** Neither hidden nor before or after its time, as its shelf. */
  isSold({ slot }: Deal): boolean {
    return this.scene.times.sold[slot] === 1;
  }

  /** Whether a sale may lower its price. */
  isLowered({ slot }: Deal): boolean {
    return this.scene.times.lowered[slot] === 1;
  }

  /** Which of the sales of a deal are on, as bits in their order. */
  running({ sales }: Deal): number {
    return sales.reduce((bits, sale, place) => (this.scene.times.runs[sale] === 1 ? bits | (1 << place) : bits), 0);
  }

  private sceneMake(nowMs: number, playerKey: string): Scene {
    const times = this.times.at(nowMs, () => this.timesMake(nowMs));
    const { shown, untilMs, isOwn } = this.shownMake(times, nowMs, playerKey);
    return { startMs: nowMs, endMs: Math.min(untilMs, times.endMs), times, shown: isOwn ? undefined : shown };
  }

  private timesMake(nowMs: number): Times {
    const { sales, shops, deals } = this.slots;
    const isOpen = ({ opening }: { opening: Opening }): boolean => openingIsOpen(opening, nowMs);
    const runs = Uint8Array.from(sales, (sale) => Number(isOpen(sale)));
    return {
      startMs: nowMs,
      endMs: this.openings.reduce(
        (endMs, opening) => Math.min(endMs, openingChangesMs(opening, nowMs) ?? Infinity),
        Infinity,
      ),
      runs,
      open: Uint8Array.from(shops, (shop) => Number(!shop.hidden && isOpen(shop))),
      sold: Uint8Array.from(deals, ({ offer }) => Number(!offer.hidden && !offer.shelf.hidden && isOpen(offer))),
      lowered: Uint8Array.from(deals, (deal) => Number(deal.sales.some((sale) => runs[sale] === 1))),
    };
  }

  /** What shelves have on show to a player, until when, and whether it is that player's own. */
  private shownMake(
    { open, sold, lowered }: Times,
    nowMs: number,
    playerKey: string,
  ): { shown: Shown; untilMs: number; isOwn: boolean } {
    let untilMs = Infinity;
    let isOwn = false;
    const offers = this.slots.shelves.flatMap(({ shelf, deals }) => {
      const shown = shelfShown(this.economy, shelf, playerKey, nowMs);
      untilMs = Math.min(untilMs, shownUntilMs(shown) ?? Infinity);
      if (shown.kind === 'all') return deals;
      isOwn ||= shown.rotation.perPlayer;
      return deals.filter(({ offer }) => isOnShow(shown, offer.id));
    });
    const inWindow = offers.filter(({ slot, shop }) => sold[slot] === 1 && open[shop] === 1);
    return { shown: { offers, givings: new Map(), window: windowOf(inWindow, lowered) }, untilMs, isOwn };
  }
}

function windowOf(deals: readonly Deal[], lowered: Uint8Array): Window {
  const least = deals.map(({ slot, ways }) => (lowered[slot] === 1 || ways.length !== 1 ? undefined : ways[0]!.least));
  return {
    deals,
    luck: Int32Array.from(deals, ({ luck }) => luck),
    slot: Int32Array.from(least, (one) => one?.slot ?? 0),
    units: Float64Array.from(least, (one) => one?.units ?? -Infinity),
    item: Int32Array.from(deals, ({ items }) =>
      items.length === 1 ? items[0]! : items.length === 0 ? NO_ITEM : SEVERAL,
    ),
  };
}

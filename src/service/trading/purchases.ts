/** Buying. What is allowed, and what it does, core decides. */
import type { PurchaseAnswer, PurchaseRow } from '../../contract/index.js';
import { verdictExplain } from '../../core/texts/index.js';
import { playerSettle } from '../../core/player/index.js';
import { isDrawn } from '../../core/rotation/index.js';
import { offerReads, purchaseApply, purchaseCheck } from '../../core/trade/index.js';
import type { PurchaseRequest } from '../../core/trade/index.js';
import { Problem } from '../problem.js';
import type { HandledStore } from '../store/handledStore.js';
import type { Writer } from '../store/writer.js';
import type { Books } from './books.js';
import { requestWords } from './once.js';
import type { Done, Once, OncePerKey } from './once.js';

export class Purchases {
  constructor(
    private readonly writer: Writer,
    private readonly books: Books,
    private readonly once: OncePerKey,
    private readonly handled: HandledStore,
  ) {}

  /** Buys once per key: a repeat of the same request gives the first answer again, and takes nothing. */
  buy(player: string, request: PurchaseRequest, key: string, channel?: string): Promise<Once<PurchaseAnswer>> {
    return this.writer.submit(() => {
      const { number, answer, repeated } = this.once.run(
        'purchase',
        { player, key, asked: words(request, channel) },
        () => this.buyNow(player, request, channel),
      );
      return { answer: { purchase: number, ...answer }, repeated };
    });
  }

  /** Purchases that were made, oldest first, after the one of number `cursor`. */
  made(cursor: number, limit: number): PurchaseRow[] {
    return this.handled.purchases(cursor, limit).map(({ number, player, atMs, answer, attributes }) => {
      const { release, verdict, reads, pinned = false } = JSON.parse(answer) as Omit<PurchaseAnswer, 'purchase'>;
      const { offer, times, price, before, after, stock } = verdict;
      const [pay, paid] = price ? [price.pay, price.total] : [null, {}];
      return {
        purchase: number,
        player,
        atMs,
        release,
        offer,
        times,
        pay,
        paid,
        attributes: JSON.parse(attributes) as PurchaseRow['attributes'],
        ...(reads ? { known: { before, after, reads, left: stock?.left ?? null, pinned } } : {}),
      };
    });
  }

  private buyNow(player: string, request: PurchaseRequest, channel?: string): Done<Omit<PurchaseAnswer, 'purchase'>> {
    const standing = this.books.open(player, channel);
    const { economy, shared, release, atMs } = standing;
    const verdict = purchaseCheck(economy, standing.player, shared, request, atMs);
    const explained = verdictExplain(economy, verdict);
    if (!verdict.allowed)
      throw new Problem('purchase-refused', explained.reasons.map(({ sentence }) => sentence).join(' '), {
        verdict: explained,
      });
    const bought = purchaseApply(economy, standing.player, shared, verdict);
    this.books.write(standing, bought);
    const offer = economy.offers.get(request.offer)!;
    const reads = offerReads(economy, playerSettle(economy, standing.player, atMs).player, offer, atMs);
    const pinned = !isDrawn(economy, offer.shelf, offer.id, player, atMs);
    const answer = { release, verdict: explained, progress: bought.progress, reads, ...(pinned ? { pinned } : {}) };
    return { kept: true, atMs, answer };
  }
}

const words = ({ offer, times = 1, pay, expect }: PurchaseRequest, channel: string | undefined): string =>
  requestWords([offer, times, pay ?? null, expect ? Object.entries(expect).sort() : null], channel);

/** "All frames +10%, round up to 5": many prices at once. */
import { isMoney } from '../document/index.js';
import type { EconomyDocument, OfferDocument } from '../document/index.js';
import { pointerOf } from '../issue/index.js';
import { amountScaled, decimalsIn, percentFactor } from './amounts.js';
import type { RoundTo } from './amounts.js';
import type { Edited } from './outcome.js';
import { refuse } from './outcome.js';

/** Which items and offers: all that fit every word given. An offer fits by the single item that it gives. */
export interface Where {
  ids?: string[];
  group?: string;
  tag?: string;
  shop?: string;
}

export interface RepriceEdit {
  kind: 'reprice';
  where: Where;
  /** Of items their worth, of offers their own prices; both by default. */
  of?: 'items' | 'offers' | 'both';
  /** Only amounts in this asset or money code. */
  asset?: string;
  /** Such as 10 or -15. */
  percent: number;
  round?: RoundTo;
}

export function reprice(document: EconomyDocument, edit: RepriceEdit): Edited {
  if (!(edit.percent > -100) || edit.percent > 1_000_000)
    return refuse('', `${edit.percent} % is not possible`, 'Write more than -100 and at most 1,000,000.');
  if (edit.round && !(edit.round.to >= 0)) return refuse('', 'prices cannot be rounded to that', 'Write 0 or more.');
  const change: Change = { document, edit, notes: [], changed: 0 };
  if (edit.of !== 'offers' && edit.where.shop === undefined) {
    for (const [id, item] of Object.entries(document.items ?? {}))
      if (item.worth && itemFits(document, edit.where, id, id))
        item.worth = basketScaled(change, item.worth, pointerOf(['items', id, 'worth']));
  }
  if (edit.of !== 'items')
    for (const [shop, { shelves }] of Object.entries(document.shops ?? {}))
      for (const [shelf, { offers }] of Object.entries(shelves))
        for (const [id, offer] of Object.entries(offers))
          offerReprice(change, shop, id, offer, pointerOf(['shops', shop, 'shelves', shelf, 'offers', id, 'price']));
  if (change.changed === 0 && change.notes.length === 0)
    return refuse('', 'no price fits that', 'Name another group, tag, shop or asset; see the catalog.');
  return { ok: true, document, notes: change.notes };
}

interface Change {
  document: EconomyDocument;
  edit: RepriceEdit;
  notes: string[];
  changed: number;
}

function itemFits(document: EconomyDocument, { ids, group, tag }: Where, itemId: string, ownId: string): boolean {
  const item = document.items?.[itemId];
  return (
    (ids === undefined || ids.includes(ownId) || ids.includes(itemId)) &&
    (group === undefined || item?.group === group) &&
    (tag === undefined || (item?.tags ?? []).includes(tag))
  );
}

function offerReprice(change: Change, shop: string, id: string, offer: OfferDocument, pointer: string): void {
  const { where } = change.edit;
  if (where.shop !== undefined && where.shop !== shop) return;
  if (!itemFits(change.document, where, typeof offer.gives === 'string' ? offer.gives : '', id)) return;
  if (offer.price === undefined || offer.price === 'free') return;
  const list = Array.isArray(offer.price) ? offer.price : [offer.price];
  const scaled = list.map((price, index) => {
    const at = list.length > 1 ? `${pointer}/${index}` : pointer;
    return isMoney(price)
      ? { ...price, money: basketScaled(change, price.money, `${at}/money`) as Record<string, number> }
      : basketScaled(change, price, at);
  });
  offer.price = Array.isArray(offer.price) ? scaled : scaled[0]!;
}

function basketScaled(
  change: Change,
  basket: Readonly<Record<string, number | string>>,
  pointer: string,
): Record<string, number | string> {
  const { edit, document, notes } = change;
  return Object.fromEntries(
    Object.entries(basket).map(([asset, amount]) => {
      if (edit.asset !== undefined && asset !== edit.asset) return [asset, amount];
      if (typeof amount === 'string') {
        notes.push(`${pointer}/${asset} is a formula and stays: ${amount}`);
        return [asset, amount];
      }
      const round = edit.round ?? { to: 0, way: 'nearest' };
      const scaled = amountScaled(amount, percentFactor(edit.percent), round, decimalsIn(document, asset));
      if (scaled === undefined) {
        notes.push(`${pointer}/${asset} stays: ${amount} cannot be changed so and remain an amount`);
        return [asset, amount];
      }
      if (scaled !== amount) change.changed++;
      return [asset, scaled];
    }),
  );
}

/** "All frames +10%, round up to 5": many prices at once. */
import { valueAt } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { pointerOf } from '../issue/index.js';
import { amountScaled, decimalsIn, percentFactor } from './amounts.js';
import type { RoundTo } from './amounts.js';
import type { Edited } from './outcome.js';
import { refuse } from './outcome.js';
import { pricePlaces } from './pricePlaces.js';
import type { Where } from './pricePlaces.js';

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

const TO_UNITS: RoundTo = { to: 0, way: 'nearest' };

export function reprice(document: EconomyDocument, edit: RepriceEdit): Edited {
  const { where, of, asset: only, percent, round = TO_UNITS } = edit;
  if (!(percent > -100) || percent > 1_000_000)
    return refuse('', `${percent} % is not possible`, 'Write more than -100 and at most 1,000,000.');
  if (!(round.to >= 0)) return refuse('', 'prices cannot be rounded to that', 'Write 0 or more.');
  const notes: string[] = [];
  let changed = 0;
  for (const path of pricePlaces(document, where, of)) {
    const asset = path.at(-1)!;
    if (only !== undefined && asset !== only) continue;
    const basket = valueAt(document, path.slice(0, -1)) as Record<string, number | string>;
    const amount = basket[asset]!;
    if (typeof amount === 'string') {
      notes.push(`${pointerOf(path)} is a formula and stays: ${amount}`);
      continue;
    }
    const scaled = amountScaled(amount, percentFactor(percent), round, decimalsIn(document, asset));
    if (scaled === undefined)
      notes.push(`${pointerOf(path)} stays: ${amount} cannot be changed so and remain an amount`);
    else if (scaled !== amount) {
      basket[asset] = scaled;
      changed++;
    }
  }
  if (changed === 0 && notes.length === 0)
    return refuse('', 'no price fits that', 'Name another group, tag, shop or asset; see the catalog.');
  return { ok: true, document, notes };
}

/** What was due and was kept out, in words. */
import type { Basket } from '../amount/index.js';
import type { Economy } from '../economy/index.js';
import { keptOutOf } from '../player/index.js';
import type { KeptOut } from '../player/index.js';
import { amountText, economyLabels } from './amounts.js';

export type KeptOutTold = KeptOut & { sentence: string };

const BECAUSE: Record<KeptOut['by'], string> = {
  cap: 'its cap',
  carry: 'the most that may be carried',
  slots: 'the most that its stacks hold',
  ceiling: 'the most that any amount may be',
};

/** Each thing that was kept out, with a sentence for a designer. */
export function keptOutTold(economy: Economy, dropped: Readonly<Basket>): KeptOutTold[] {
  const label = economyLabels(economy);
  return keptOutOf(economy, dropped).map((one) => {
    const { asset, units, by, most } = one;
    const whole = economy.currencies.get(asset)?.overCap === 'refuse' ? ', and it takes all or nothing' : '';
    return {
      ...one,
      sentence: `${amountText(label, asset, units)} kept out: ${amountText(label, asset, most)} is ${BECAUSE[by]}${whole}.`,
    };
  });
}

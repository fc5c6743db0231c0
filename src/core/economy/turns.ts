/** What things turn into: loops, what can be reached, and the flows of an asset are all worked out from here. */
import type { Basket } from '../amount/index.js';
import type { ItemAct, KindField } from '../document/index.js';
import { itemOnUse, itemYields } from './types.js';
import type { Item, QuantityBasket } from './types.js';

/** One way in which a thing that a player holds gives others. */
export interface Turn {
  /** Bundles unpack by themselves, when they arrive. */
  act: ItemAct | 'unpack';
  /** The field of the item that says what it gives. */
  field: KindField;
  /** Each time. */
  gives: QuantityBasket;
  /** A table that is drawn from as well. */
  loot: string | undefined;
  /** What else it takes, which is used up unless it `keeps`, and the field that says so. */
  needs: { field: KindField; item: string; keeps: boolean } | undefined;
  /** How often one piece does it before it is gone; `Infinity` where it stays. */
  times: number;
}

/** Everything that a piece of an item can turn into, whatever it takes. */
export function itemTurns(item: Item): Turn[] {
  const plain = { loot: undefined, needs: undefined };
  const turns: Turn[] = [];
  if (item.kind === 'bundle')
    turns.push({ ...plain, act: 'unpack', field: 'gives', gives: fixedQuantities(item.gives), times: 1 });
  if (item.kind === 'box')
    turns.push({
      act: 'open',
      field: 'gives',
      gives: fixedQuantities(item.gives),
      loot: item.loot,
      needs: item.opensWith && { field: 'opensWith', ...item.opensWith },
      times: 1,
    });
  const onUse = itemOnUse(item);
  if (onUse) {
    const times = item.kind === 'consumable' ? item.uses : Infinity;
    turns.push({ ...plain, act: 'use', field: 'onUse', gives: onUse.gives, times });
  }
  const yields = itemYields(item);
  if (yields)
    turns.push({ ...plain, act: 'collect', field: 'yields', gives: fixedQuantities(yields.gives), times: Infinity });
  return turns;
}

const fixedQuantities = (basket: Readonly<Basket>): QuantityBasket =>
  Object.entries(basket).map(([asset, units]) => ({ kind: 'fixed', asset, units }));

/** Which assets a player can come to have at all. */
import { basketArrivals } from '../player/index.js';
import { choiceBasket, fixedUnits, itemTurns } from '../economy/index.js';
import type { Economy, Item, QuantityBasket } from '../economy/index.js';
import { buybackTakes, buybackUnit } from '../trade/index.js';
import { offerIsHidden } from './finding.js';

/**
 * A fixed point: what players start with, what comes back by itself, what is sold for money (premium), what earning
 * rules, goals and levels with their tables give; then whatever offers, openings, uses, yields, buybacks and the ends of currencies turn
 * that into, until nothing new is found. At most one pass over everything for each asset.
 */
export function obtainableAssets(economy: Economy): Set<string> {
  const reached = new Set<string>();
  const reach = (assets: Iterable<string>): void => {
    for (const asset of assets) {
      reached.add(asset);
      for (const part in basketArrivals(economy, { [asset]: 1 })) reached.add(part);
    }
  };
  const given = (quantities: QuantityBasket) =>
    quantities.filter((one) => fixedUnits(one) !== 0).map(({ asset }) => asset);
  for (const { id, start, refill, premium } of economy.currencies.values())
    if (start > 0 || refill || premium) reach([id]);
  for (const rule of economy.earning.values()) {
    reach(given(rule.gives));
    if (rule.loot !== undefined) reach(tableAssets(economy, rule.loot));
  }
  const rewards = [...economy.goals.values(), ...[...economy.tracks.values()].flatMap(({ levels }) => levels)];
  for (const reward of rewards) {
    reach(Object.keys(reward.gives));
    if ('loot' in reward && reward.loot !== undefined) reach(tableAssets(economy, reward.loot));
  }
  for (let before = -1; before !== reached.size;) {
    before = reached.size;
    for (const offer of economy.offers.values()) {
      const payable = (offer.prices ?? []).some((choice) =>
        choiceBasket(choice).every(({ asset }) => reached.has(asset)),
      );
      if (payable && !offerIsHidden(offer)) reach(given(offer.gives));
    }
    for (const item of economy.items.values()) if (reached.has(item.id)) reach(itemGives(economy, item, reached));
    for (const { id, ends } of economy.currencies.values())
      if (ends?.into !== undefined && reached.has(id)) reach([ends.into]);
  }
  return reached;
}

/** What an item that a player has turns into, and what it is sold back for. */
function itemGives(economy: Economy, item: Item, reached: ReadonlySet<string>): string[] {
  const turned = itemTurns(item)
    .filter(({ needs }) => !needs || reached.has(needs.item))
    .flatMap(({ gives, loot }) => [
      ...gives.map(({ asset }) => asset),
      ...(loot === undefined ? [] : tableAssets(economy, loot)),
    ]);
  const sold = [...economy.shops.values()]
    .filter(({ hidden, buyback }) => !hidden && buyback && item.sellable && buybackTakes(buyback, item))
    .flatMap(({ buyback }) => Object.keys(buybackUnit(buyback!, item, item.worth)));
  return [...turned, ...sold];
}

/** Every asset that a table can give, whatever the conditions. */
function tableAssets(economy: Economy, id: string): string[] {
  return economy.loot
    .get(id)!
    .entries.filter(({ weight }) => weight > 0)
    .flatMap(({ gives, table }) => [
      ...gives.filter(({ to }) => to > 0).map(({ asset }) => asset),
      ...(table === undefined ? [] : tableAssets(economy, table)),
    ]);
}

/**
 * What made-up players do not do, though the economy has it: figures leave it out, so the run says it. Nothing is told
 * that does not matter to the run: boxes that nobody bought need not be opened.
 */
import { fixedUnits, itemOnUse, itemYields } from '../economy/index.js';
import type { Economy } from '../economy/index.js';
import { basketArrivals } from '../player/index.js';
import type { SimulationResult, Unplayed, UnplayedAct } from './result.js';

/** Undefined where the run plays all that there is. Linear in the offers that were bought. */
export function unplayedOf(economy: Economy, { offer, times }: SimulationResult['offers']): Unplayed | undefined {
  const told: Unplayed = { act: [], name: [], units: [] };
  const tell = (act: UnplayedAct, name: string, units: number | null): void => {
    told.act.push(act);
    told.name.push(name);
    told.units.push(units);
  };
  const bought = new Map<string, number>();
  for (const [row, id] of offer.entries()) {
    const gives = Object.fromEntries(economy.offers.get(id)!.gives.map((one) => [one.asset, fixedUnits(one) ?? 1]));
    const arrivals = basketArrivals(economy, gives);
    for (const asset in arrivals) bought.set(asset, (bought.get(asset) ?? 0) + arrivals[asset]! * times[row]!);
  }
  for (const item of economy.items.values()) {
    const units = bought.get(item.id) ?? 0;
    if (units === 0) continue;
    if (item.kind === 'box') tell('open', item.name, units);
    else if (item.kind === 'consumable' || itemOnUse(item)) tell('use', item.name, units);
    if (itemYields(item)) tell('collect', item.name, units);
  }
  for (const { name, hidden, buyback } of economy.shops.values()) if (buyback && !hidden) tell('sell', name, null);
  for (const { name, share } of [...economy.earning.values(), ...economy.goals.values()])
    if (share.size > 0) tell('share', name, null);
  const forMoney = [...economy.offers.values()].filter(({ prices }) => prices?.every(({ kind }) => kind === 'money'));
  if (forMoney.length > 0) tell('money', `${forMoney.length}`, null);
  return told.act.length > 0 ? told : undefined;
}

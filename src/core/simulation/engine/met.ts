/** What the players of a run may come by at all: the rest of a catalog, however large, costs it nothing. */
import type { Basket } from '../../amount/index.js';
import type { Economy, Offer, QuantityBasket } from '../../economy/index.js';
import type { Opening } from '../../schedule/index.js';
import { runEndMs } from '../days.js';
import type { RunSetup } from '../scenario.js';

export interface Met {
  items: ReadonlySet<string>;
  offers: ReadonlySet<string>;
}

export function metIn(setup: RunSetup): Met {
  const { economy, crowd } = setup;
  const personas = crowd.map(({ persona }) => economy.personas.get(persona)!);
  const wishes = new Set(personas.flatMap(({ spending }) => spending.wishes));
  const endMs = runEndMs(setup);
  const comes = ({ fromMs = -Infinity, untilMs = Infinity }: Opening): boolean =>
    fromMs < endMs && untilMs > setup.startMs;
  /** What is wished for and cannot be had is told as refused, so it is looked at. */
  const isMet = ({ hidden, shelf, shop, opening, gives }: Offer): boolean =>
    gives.some(({ asset }) => wishes.has(asset)) ||
    (!hidden && !shelf.hidden && !shop.hidden && comes(opening) && comes(shop.opening));
  const offers = [...economy.offers.values()].filter(isMet);
  const items = new Set<string>();
  const meet = (asset: string): void => {
    const item = economy.items.get(asset);
    if (!item || items.has(asset)) return;
    items.add(asset);
    if (item.kind === 'bundle') for (const inner in item.contents) meet(inner);
  };
  const meetAll = (baskets: readonly (QuantityBasket | Readonly<Basket>)[]): void => {
    for (const basket of baskets)
      for (const asset of Array.isArray(basket)
        ? (basket as QuantityBasket).map((one) => one.asset)
        : Object.keys(basket))
        meet(asset);
  };
  for (const wish of wishes) meet(wish);
  for (const { gives, prices = [] } of offers)
    meetAll([gives, ...prices.flatMap((price) => (price.kind === 'assets' ? [price.basket] : []))]);
  for (const { gives, takes } of economy.earning.values()) meetAll([gives, takes]);
  meetAll([...economy.goals.values()].map(({ gives }) => gives));
  meetAll([...economy.tracks.values()].flatMap(({ levels }) => levels.map(({ gives }) => gives)));
  for (const loot of lootOf(economy)) meet(loot);
  for (const { needs } of economy.activities.values()) meetAll([needs]);
  for (const { spending } of personas) meetAll([spending.keeps]);
  return { items, offers: new Set(offers.map(({ id }) => id)) };
}

/** What the tables of earning rules and goals may give, tables in tables included. */
function lootOf({ earning, goals, loot }: Economy): string[] {
  const tables = new Set<string>();
  const follow = (id: string): void => {
    if (tables.has(id)) return;
    tables.add(id);
    for (const { table } of loot.get(id)!.entries) if (table !== undefined) follow(table);
  };
  for (const one of [...earning.values(), ...goals.values()]) if (one.loot !== undefined) follow(one.loot);
  return [...tables].flatMap((id) => loot.get(id)!.entries.flatMap(({ gives }) => gives.map(({ asset }) => asset)));
}

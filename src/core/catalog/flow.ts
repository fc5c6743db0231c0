/** Where an asset comes from, where it goes, and what it buys: the view that a designer of a currency needs. */
import { amountText, basketText, economyLabels } from '../texts/index.js';
import { ITEM_ACTS, pointerWords } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import type { Basket } from '../amount/index.js';
import type { AssetLabels } from '../texts/index.js';
import { choiceBasket, fixedUnits, itemTurns } from '../economy/index.js';
import type { Economy, Offer, Quantity, QuantityBasket } from '../economy/index.js';
import { pointerOf } from '../issue/index.js';

export interface FlowLine {
  pointer: string;
  /** Who or what: "Race prize", "Purse of shells at Lantern Wagon". */
  name: string;
  /** How much, and how: "1 Pearl, chance 0.2". */
  words: string;
}

export interface AssetFlow {
  asset: string;
  name: string;
  sources: FlowLine[];
  sinks: FlowLine[];
  /** Offers that it pays for, cheapest first; formulas last. */
  buys: (FlowLine & { units: number | null })[];
}

/** Linear in the economy. */
export function assetFlow(document: EconomyDocument, economy: Economy, asset: string): AssetFlow {
  const labels = economyLabels(economy);
  const flow: AssetFlow = { asset, name: labels(asset)?.name ?? asset, sources: [], sinks: [], buys: [] };
  const line = (segments: (string | number)[], words: string): FlowLine => ({
    pointer: pointerOf(segments),
    name: pointerWords(pointerOf(segments.slice(0, segments[0] === 'shops' ? 6 : 2)), document).subject,
    words,
  });
  const asked = { document, economy, asset, labels, flow, line };
  currencyLines(asked);
  itemLines(asked);
  for (const table of economy.loot.values())
    for (const entry of table.entries)
      for (const given of entry.gives.filter((one) => one.asset === asset)) {
        const range = given.from === given.to ? '' : `${labelled(labels, asset, given.from)} to `;
        flow.sources.push(
          line(
            ['loot', table.id, 'entries', entry.id],
            `${range}${labelled(labels, asset, given.to)}, weight ${entry.weight}`,
          ),
        );
      }
  for (const rule of economy.earning.values()) {
    const chance =
      rule.chance === 1 ? '' : `, chance ${typeof rule.chance === 'number' ? rule.chance : rule.chance.text}`;
    for (const given of of(rule.gives, asset))
      flow.sources.push(line(['earning', rule.id], `${quantityText(labels, given)} on ${rule.on}${chance}`));
    for (const taken of of(rule.takes, asset))
      flow.sinks.push(line(['earning', rule.id], `${quantityText(labels, taken)} on ${rule.on}${chance}`));
  }
  for (const { id, name, gives } of economy.goals.values())
    if (gives[asset] !== undefined)
      flow.sources.push(line(['goals', id], `${labelled(labels, asset, gives[asset])} for ${name}`));
  for (const { id, levels } of economy.tracks.values())
    for (const { level, gives } of levels)
      if (gives[asset] !== undefined)
        flow.sources.push(line(['tracks', id], `${labelled(labels, asset, gives[asset])} at level ${level}`));
  for (const [id, activity] of Object.entries(document.activities ?? {}))
    if (activity.needs?.[asset] !== undefined)
      flow.sinks.push(line(['activities', id], `${activity.needs[asset]} ${flow.name} each time`));
  for (const offer of economy.offers.values()) offerLines(offer, asset, labels, flow, line);
  for (const shop of economy.shops.values())
    if (
      shop.buyback &&
      (shop.buyback.pays === asset || shop.buyback.pays === undefined) &&
      economy.currencies.has(asset)
    )
      flow.sources.push(
        line(
          ['shops', shop.id],
          `for what is sold back, at ${Number((Number(shop.buyback.numerator) / Number(shop.buyback.denominator)).toFixed(4))} of the ${shop.buyback.of === 'paid' ? 'price paid' : 'worth'}`,
        ),
      );
  flow.buys.sort((a, b) => (a.units ?? Infinity) - (b.units ?? Infinity));
  return flow;
}

type Line = (segments: (string | number)[], words: string) => FlowLine;

const of = (basket: QuantityBasket, asset: string): Quantity[] => basket.filter((quantity) => quantity.asset === asset);
const labelled = (labels: AssetLabels, asset: string, units: number): string => amountText(labels, asset, units);
const quantityText = (labels: AssetLabels, quantity: Quantity): string =>
  quantity.kind === 'formula'
    ? `${quantity.formula.text} ${labels(quantity.asset)?.name ?? quantity.asset}`
    : labelled(labels, quantity.asset, quantity.units);

interface Asked {
  document: EconomyDocument;
  economy: Economy;
  asset: string;
  labels: AssetLabels;
  flow: AssetFlow;
  line: Line;
}

function currencyLines({ document, economy, asset, labels, flow, line }: Asked): void {
  const currency = economy.currencies.get(asset);
  for (const { id, ends } of economy.currencies.values())
    if (ends?.into === asset) flow.sources.push(line(['currencies', id, 'ends'], 'what is left when it ends'));
  if (!currency) return;
  if (currency.start > 0)
    flow.sources.push(
      line(['currencies', asset, 'start'], `${labelled(labels, asset, currency.start)} for a new player`),
    );
  if (currency.refill)
    flow.sources.push(
      line(
        ['currencies', asset, 'refill'],
        `${labelled(labels, asset, currency.refill.amount)} every ${document.currencies![asset]!.refill!.every}, up to ${labelled(labels, asset, currency.refill.upTo)}`,
      ),
    );
  if (currency.ends) flow.sinks.push(line(['currencies', asset, 'ends'], 'what is left when it ends'));
}

function itemLines({ document, economy, asset, labels, flow, line }: Asked): void {
  for (const item of economy.items.values())
    for (const { act, field, gives, needs } of itemTurns(item)) {
      const done = act === 'unpack' ? 'unpacked' : ITEM_ACTS[act].done;
      const when = act === 'collect' ? `every ${document.items![item.id]!.yields!.every}` : `when ${done}`;
      for (const given of of(gives, asset))
        flow.sources.push(line(['items', item.id, field], `${quantityText(labels, given)} ${when}`));
      if (needs?.item === asset && !needs.keeps)
        flow.sinks.push(line(['items', item.id, needs.field], `used up when it is ${done}`));
    }
}

function offerLines(offer: Offer, asset: string, labels: AssetLabels, flow: AssetFlow, line: Line): void {
  const paid = (basket: QuantityBasket): string =>
    basket.every(({ kind }) => kind === 'fixed')
      ? basketText(labels, Object.fromEntries(basket.map((one) => [one.asset, fixedUnits(one)!])) as Basket)
      : basket.map((quantity) => quantityText(labels, quantity)).join(' and ');
  for (const given of of(offer.gives, asset)) {
    const prices = (offer.prices ?? [])
      .map((choice) => (choice.kind === 'money' ? 'real money' : paid(choiceBasket(choice))))
      .join(' or ');
    flow.sources.push(line(offer.pointer, `${quantityText(labels, given)} for ${prices || 'no price'}`));
  }
  for (const basket of (offer.prices ?? []).map(choiceBasket))
    for (const quantity of of(basket, asset)) {
      flow.buys.push({ ...line(offer.pointer, paid(basket)), units: fixedUnits(quantity) ?? null });
    }
}

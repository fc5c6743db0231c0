/** Amounts as people read them. The name and the decimals come from the economy, so a text can never state another price than the one charged. */
import { moneyDecimals, unitsFormat } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';

export interface AssetLabel {
  name: string;
  decimals: number;
}
/** How to find an asset's label; an unknown id is shown as it is. */
export type AssetLabels = (asset: string) => AssetLabel | undefined;

/** `900 Shells`, `2.50 Pearls`. */
export function amountText(labels: AssetLabels, asset: string, units: Units): string {
  const label = labels(asset);
  return `${unitsFormat(units, label?.decimals ?? 0)} ${label?.name ?? asset}`;
}

/** `900 Shells and 3 Ribbon`; an empty basket is "nothing". */
export function basketText(labels: AssetLabels, basket: Readonly<Basket>): string {
  const parts = Object.entries(basket).map(([asset, units]) => amountText(labels, asset, units));
  return parts.length < 2 ? (parts[0] ?? 'nothing') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;
}

/** The labels of a compiled economy. */
export function economyLabels(economy: {
  currencies: ReadonlyMap<string, AssetLabel>;
  items: ReadonlyMap<string, { name: string }>;
}): AssetLabels {
  return (asset) =>
    economy.currencies.get(asset) ??
    (economy.items.has(asset) ? { name: economy.items.get(asset)!.name, decimals: 0 } : undefined);
}

/** `EUR 4.99`. */
export const moneyText = (code: string, units: Units): string => `${code} ${unitsFormat(units, moneyDecimals(code))}`;

/** A price as players read it, wherever it is shown: `900 Shells`, `EUR 4.99 or USD 5.49`, `free`. */
export function priceText(
  labels: AssetLabels,
  { total, money }: { total: Readonly<Basket>; money?: Readonly<Record<string, Units>> | undefined },
): string {
  if (money)
    return Object.entries(money)
      .map(([code, units]) => moneyText(code, units))
      .join(' or ');
  return Object.keys(total).length === 0 ? 'free' : basketText(labels, total);
}

/** Amounts as people read them. The name and the decimals come from the economy, so a text can never state another price than the one charged. */
import { moneyDecimals, unitsFormat } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import type { EconomyDocument } from '../document/index.js';
import { nearestName } from '../issue/index.js';

export interface AssetLabel {
  name: string;
  /** The name of exactly one, where it differs. */
  singular?: string | undefined;
  decimals: number;
}
/** How to find an asset's label; an unknown id is shown as it is. */
export interface AssetLabels {
  (asset: string): AssetLabel | undefined;
  /** The id that may have been meant by one that is not there. */
  nearest(asset: string): string | undefined;
}

/** `900 Shells`, `2.50 Pearls`, `1 Pearl`. */
export function amountText(labels: AssetLabels, asset: string, units: Units): string {
  const label = labels(asset);
  return `${unitsFormat(units, label?.decimals ?? 0)} ${label ? amountName(label, units) : asset}`;
}

/** What an asset is called in this number. */
export const amountName = ({ name, singular, decimals }: AssetLabel, units: Units): string =>
  units === 10 ** decimals ? (singular ?? name) : name;

/** `900 Shells and 3 Ribbon`; an empty basket is "nothing". */
export function basketText(labels: AssetLabels, basket: Readonly<Basket>): string {
  const parts = Object.entries(basket).map(([asset, units]) => amountText(labels, asset, units));
  return parts.length < 2 ? (parts[0] ?? 'nothing') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;
}

interface Named {
  name: string;
  singular?: string | undefined;
}

const labelsMake = (find: (asset: string) => AssetLabel | undefined, ids: () => readonly string[]): AssetLabels =>
  Object.assign(find, { nearest: (asset: string) => nearestName(asset, ids()) });

/** The labels of a compiled economy. */
export const economyLabels = ({
  currencies,
  items,
}: {
  currencies: ReadonlyMap<string, AssetLabel>;
  items: ReadonlyMap<string, Named>;
}): AssetLabels =>
  labelsMake(
    (asset) => currencies.get(asset) ?? itemLabel(items.get(asset)),
    () => [...currencies.keys(), ...items.keys()],
  );

/** The labels of an economy as written. */
export const documentLabels = ({
  currencies = {},
  items = {},
}: Pick<EconomyDocument, 'currencies' | 'items'> = {}): AssetLabels =>
  labelsMake(
    (asset) => {
      const currency = currencies[asset];
      return currency ? { ...currency, decimals: currency.decimals ?? 0 } : itemLabel(items[asset]);
    },
    () => [...Object.keys(currencies), ...Object.keys(items)],
  );

const itemLabel = (item: Named | undefined): AssetLabel | undefined =>
  item && { name: item.name, singular: item.singular, decimals: 0 };

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

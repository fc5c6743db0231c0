/** Reads what people type as arguments: amounts by asset, fields, overrides. */
import { unitsParse } from '../core/amount/index.js';
import type { Basket } from '../core/amount/index.js';
import type { AssetLabels } from '../core/texts/index.js';
import { UsageProblem } from './context.js';

/** Collects an option that may be given several times. */
export const collect = (value: string, all: string[] = []): string[] => [...all, value];

function pairOf(written: string, example: string): [string, string] {
  const at = written.indexOf('=');
  if (at < 1 || at === written.length - 1) throw new UsageProblem(`"${written}" should look like ${example}.`);
  return [written.slice(0, at), written.slice(at + 1)];
}

/** `shells=120 pearls=2.50` as smallest units; the labels say how many decimals an asset has. */
export function parseBasket(written: readonly string[], labels: AssetLabels): Basket {
  const basket: Basket = {};
  for (const one of written) {
    const [asset, amount] = pairOf(one, 'shells=120');
    const label = labels(asset);
    if (!label) {
      const near = labels.nearest(asset);
      throw new UsageProblem(
        `There is no currency or item "${asset}".${near === undefined ? '' : ` Did you mean "${near}"?`}`,
      );
    }
    const parsed = unitsParse(amount, label.decimals);
    if (!parsed.ok) throw new UsageProblem(`${one}: ${parsed.message}. ${parsed.fix}`);
    basket[asset] = parsed.units;
  }
  return basket;
}

/** `place=1 mood=calm pilot=true` as numbers where they look like numbers, true and false, else texts. */
export function parseFields<T extends number | string | boolean = number | string>(
  written: readonly string[],
): Record<string, T> {
  return Object.fromEntries(
    written.map((one) => {
      const [name, value] = pairOf(one, 'place=1');
      const word = value === 'true' ? true : value === 'false' ? false : value;
      return [name, (/^-?\d+(\.\d+)?$/.test(value) ? Number(value) : word) as T];
    }),
  );
}

/** `/items/x/worth/shells=900`: the value is JSON, or a text where it is none. */
export function parseOverrides(written: readonly string[]): Record<string, unknown> {
  return Object.fromEntries(
    written.map((one) => {
      const [pointer, value] = pairOf(one, '/items/storm_frame/worth/shells=900');
      if (!pointer.startsWith('/'))
        throw new UsageProblem(
          `"${pointer}" is not a pointer: begin it with /, such as /items/storm_frame/worth/shells.`,
        );
      try {
        return [pointer, JSON.parse(value) as unknown];
      } catch {
        return [pointer, value];
      }
    }),
  );
}

export function parseNumber(least: number, most: number) {
  return (written: string): number => {
    const value = Number(written);
    if (!Number.isInteger(value) || value < least || value > most)
      throw new UsageProblem(`"${written}" should be a whole number from ${least} to ${most}.`);
    return value;
  };
}

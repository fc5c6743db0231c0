/** What an offer asks: nothing, the worth of its item, one price, or several of which the player picks one; real money too. */
import { CELLS } from '../../core/catalog/cell.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { PlayingTimeLine } from '../parts/playtime.js';
import { Button, Choice, Legend } from '../parts/ui.js';
import { Rows } from './Rows.js';
import { nameables } from './nameable.js';
import type { Nameable } from './nameable.js';

type Basket = Record<string, number | string>;
interface Money {
  money: Record<string, number>;
  products?: Record<string, string>;
}
type One = Basket | Money;
type Written = 'free' | One | One[] | undefined;

const isMoney = (one: One): one is Money => typeof one['money'] === 'object';

/** Currencies of the world that prices are often in; any other code can be typed. */
const CODES = 'EUR USD GBP JPY BRL CAD AUD CHF CNY DKK INR KRW MXN NOK NZD PLN SEK TRY ZAR';
let known: readonly Nameable[] | undefined;
function moneyCodes(): readonly Nameable[] {
  if (known) return known;
  const names = new Intl.DisplayNames('en', { type: 'currency' });
  return (known = CODES.split(' ').map((id) => ({ id, label: id, hint: names.of(id) ?? '' })));
}

const WAYS = { worth: 'Asks the worth of its item', free: 'Is free', asked: 'Asks a price of its own' } as const;
type Way = keyof typeof WAYS;

export const basketRows = (cell: 'basket' | 'loot') => ({
  write: (id: string, amount: unknown) => CELLS[cell].write({ [id]: amount }).replace(new RegExp(` ${id}$`), ''),
  read: (id: string, text: string) => {
    const read = CELLS[cell].read(`${text.trim()} ${id}`);
    return read.ok ? { ok: true as const, value: (read.value as Basket)[id] } : read;
  },
  first: 1,
  amounts: true,
});

export function Price({
  label,
  help,
  document,
  value,
  onKeep,
}: {
  label: string;
  help?: string | undefined;
  document: EconomyDocument;
  value: unknown;
  onKeep: (value: unknown) => void;
}) {
  const written = value as Written;
  const way: Way = written === undefined ? 'worth' : written === 'free' ? 'free' : 'asked';
  const choices: readonly One[] = way === 'asked' ? (Array.isArray(written) ? written : [written as One]) : [];
  const put = (index: number, one: One | undefined): void => {
    const after = choices.flatMap((before, at) => (at === index ? (one === undefined ? [] : [one]) : [before]));
    onKeep(after.length === 0 ? undefined : after.length === 1 ? after[0] : after);
  };
  const [first] = nameables(document, 'currency', []);
  const begin = (): One => ({ [first?.id ?? 'currency']: 1 });
  return (
    <fieldset className="flex min-w-0 flex-col gap-2 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={help} />
      <Choice
        label="It asks"
        value={way}
        options={Object.entries(WAYS).map(([one, words]) => ({ value: one, label: words }))}
        onChange={(next) => {
          if (next !== way) onKeep(next === 'worth' ? undefined : next === 'free' ? 'free' : begin());
        }}
      />
      {choices.map((one, index) => {
        const name = choices.length > 1 ? `Alternative ${index + 1}` : 'Price';
        return isMoney(one) ? (
          <div key={index} className="flex flex-col gap-1">
            <Rows
              label={`${name} in money`}
              options={moneyCodes()}
              word="currency code"
              value={one.money}
              {...moneyRows}
              onKeep={(money) => put(index, money && { ...one, money: money as Record<string, number> })}
              onMake={(typed, keep) => /^[a-z]{3}$/i.test(typed.trim()) && keep(typed.trim().toUpperCase())}
            />
            <Rows
              label="Product in each store"
              options={nameables(document, 'store', [])}
              word="store"
              value={one.products}
              {...productRows}
              onKeep={(products) => {
                const { products: _old, ...rest } = one;
                put(index, products ? { ...rest, products: products as Record<string, string> } : rest);
              }}
            />
          </div>
        ) : (
          <Rows
            key={index}
            label={name}
            options={nameables(document, 'asset', [])}
            word="currency or item"
            value={one}
            {...basketRows('basket')}
            formula={{ document }}
            tells={(basket) => <PlayingTimeLine written={basket} />}
            onKeep={(basket) => put(index, basket as Basket | undefined)}
          />
        );
      })}
      {way === 'asked' && (
        <span className="flex flex-wrap gap-2">
          <Button className="py-0 text-sm" onClick={() => onKeep([...choices, begin()])}>
            Add an alternative
          </Button>
          <Button className="py-0 text-sm" onClick={() => onKeep([...choices, { money: { EUR: 1 } }])}>
            Add one in real money
          </Button>
        </span>
      )}
    </fieldset>
  );
}

const moneyRows = {
  write: (_: string, amount: unknown) => CELLS.number.write(amount),
  read: (_: string, text: string) => CELLS.number.read(text),
  first: 1,
  amounts: true,
};
const productRows = {
  write: (_: string, product: unknown) => CELLS.text.write(product),
  read: (_: string, text: string) => CELLS.text.read(text),
  first: 'product',
};

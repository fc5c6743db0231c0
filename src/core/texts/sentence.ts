/** The one place where a reason becomes a sentence for a person. */
import { DateTime } from 'luxon';
import { MAX_UNITS, unitsFormat } from '../amount/index.js';
import { amountText, basketText, economyLabels, moneyText } from './amounts.js';
import type { Economy } from '../economy/index.js';
import type { FormulaInput } from '../formula/index.js';
import type { Reason, ReasonCode, Verdict } from '../trade/index.js';

type Sentence<C extends ReasonCode> = (reason: Extract<Reason, { code: C }>, economy: Economy) => string;

const SENTENCES: { [C in ReasonCode]: Sentence<C> } = {
  'unknown-offer': ({ offer, nearest }) =>
    `There is no offer "${offer}".${nearest ? ` Did you mean "${nearest}"?` : ''}`,
  'shop-closed': ({ shop, opensMs }, economy) =>
    `${economy.shops.get(shop)?.name ?? shop} is closed${opensMs === null ? '' : ` until ${when(economy, opensMs)}`}.`,
  'not-for-this-player': ({ shop, time, formula, inputs }, economy) =>
    `${economy.shops.get(shop)?.name ?? shop} serves players for whom ${formula.slice(1).trim()}${shown(inputs)}${numbered(time)}.`,
  'not-on-show': ({ fromMs }, economy) =>
    `It is not on show${fromMs === null ? '' : ` before ${when(economy, fromMs)}`}.`,
  'no-price': () => 'It has no price, so it cannot be sold. To give it away, its price must say free.',
  'zero-price': ({ time }) =>
    `Its price comes to 0${numbered(time)}, so it cannot be sold. To give it away, its price must say free.`,
  'gives-nothing': ({ id, time }, economy) =>
    `${economy.offers.has(id) ? 'It' : nameOf(economy, id)} would give nothing${numbered(time)}, so nothing is taken for it.`,
  'bad-formula': ({ problem }) => `Its price cannot be worked out: ${problem}.`,
  'requirement-unmet': ({ time, formula, inputs }) =>
    `It needs ${formula.slice(1).trim()}${shown(inputs)}${numbered(time)}.`,
  'short-of': ({ asset, short, needed, held, refilledMs }, economy) => {
    const label = economyLabels(economy)(asset);
    const [by, cost, has] = [short, needed, held].map((units) => unitsFormat(units, label?.decimals ?? 0));
    return `${label?.name ?? asset}: short by ${by}. It costs ${cost} and the player has ${has}.${refilledMs === null ? '' : ` There will be enough at ${when(economy, refilledMs)}.`}`;
  },
  'limit-reached': ({ period, most, used, left, resetsMs }, economy) =>
    `${left === 0 ? `The limit of ${most} ${per(period)} is reached` : `Only ${left} more can be bought: the limit is ${most} ${per(period)} and ${used} ${used === 1 ? 'is' : 'are'} used`}${resetsMs === null ? '' : `; it starts again at ${when(economy, resetsMs)}`}.`,
  'out-of-stock': ({ left, wanted, restocksMs }, economy) =>
    `${left === 0 ? 'It is sold out' : `Only ${left} left, and ${wanted} are wanted`}${restocksMs === null ? '' : `; more comes at ${when(economy, restocksMs)}`}.`,
  'carry-full': ({ item, most, held, arriving }, economy) =>
    `No room: at most ${amountText(economyLabels(economy), item, most)} can be held, ${held} ${held === 1 ? 'is' : 'are'} held and ${arriving} would arrive.`,
  'over-cap': ({ currency, cap, held, arriving }, economy) =>
    `It would pass the cap of ${amountText(economyLabels(economy), currency, cap)}: the player has ${amountText(economyLabels(economy), currency, held)} and ${amountText(economyLabels(economy), currency, arriving)} would arrive.`,
  'price-changed': ({ expected, actual }, economy) =>
    `The price is now ${basketText(economyLabels(economy), actual)}, not ${basketText(economyLabels(economy), expected)}.`,
  'pay-choice-needed': ({ choices }) => `Choose how to pay: ${choices.join(' or ')}.`,
  'receipt-needed': ({ money }) =>
    `It is bought with real money (${Object.entries(money)
      .map(([code, units]) => moneyText(code, units))
      .join(', ')}): the store's receipt is needed.`,
  'unknown-shop': ({ shop, nearest }) => `There is no shop "${shop}".${nearest ? ` Did you mean "${nearest}"?` : ''}`,
  'unknown-item': ({ item, nearest }) => `There is no item "${item}".${nearest ? ` Did you mean "${nearest}"?` : ''}`,
  'not-taken': ({ shop, item }, economy) =>
    `${economy.shops.get(shop)?.name ?? shop} does not take ${nameOf(economy, item)}.`,
  'not-sellable': ({ item }, economy) => `${nameOf(economy, item)} cannot be sold.`,
  'pays-nothing': ({ item }, economy) => `The shop would pay nothing for ${nameOf(economy, item)}.`,
  'not-held': ({ item, held, wanted, begun }, economy) =>
    `${nameOf(economy, item)}: ${wanted} wanted, ${held} held${begun ? '; one that has been begun does not count' : ''}.`,
  'till-short': ({ asset, held, needed, refilledMs }, economy) =>
    `The till holds ${amountText(economyLabels(economy), asset, held)} and ${amountText(economyLabels(economy), asset, needed)} would be due.${refilledMs === null ? '' : ` There will be enough at ${when(economy, refilledMs)}.`}`,
  'not-usable': ({ item, kind }, economy) =>
    `${nameOf(economy, item)} cannot be used${kind === 'box' ? '; it is opened' : ''}.`,
  'not-a-box': ({ item }, economy) => `${nameOf(economy, item)} is no box, so it cannot be opened.`,
  'key-needed': ({ key, held, needed }, economy) =>
    `It opens with ${amountText(economyLabels(economy), key, needed)}; ${held} ${held === 1 ? 'is' : 'are'} held.`,
  'nothing-to-collect': ({ item, nextMs }, economy) =>
    `${nameOf(economy, item)} has nothing to collect${nextMs === null ? '' : ` before ${when(economy, nextMs)}`}.`,
  'too-large': ({ times, most, over }, economy) =>
    Object.keys(over).length === 0
      ? `${times} at once is not possible: 1 to ${most} times.`
      : Object.entries(over)
          .map(
            ([asset, by]) =>
              `It would pass the most that any amount may be, ${amountText(economyLabels(economy), asset, MAX_UNITS)}, by ${amountText(economyLabels(economy), asset, by)}.`,
          )
          .join(' '),
};

const nameOf = (economy: Economy, item: string): string => economy.items.get(item)?.name ?? item;
const per = (period: string): string =>
  period === 'lifetime' ? 'per player' : period.startsWith('P') ? `in ${period}` : `per ${period}`;
const shown = (inputs: readonly FormulaInput[]): string =>
  inputs.length === 0 ? '' : ` (${inputs.map(({ name, value }) => `${name} is ${String(value)}`).join(', ')})`;
/** Which of several at once it is about. */
const numbered = (time: number): string => (time === 1 ? '' : ` for number ${time} of them`);
const when = (economy: Economy, ms: number): string => instantText(economy.zone, ms);

/** An instant as people write it, with its zone: `2027-03-01 09:00 WET`. */
export const instantText = (zone: string, ms: number): string =>
  DateTime.fromMillis(ms, { zone }).toFormat('yyyy-MM-dd HH:mm ZZZZ', { locale: 'en-GB' });

/** The reason as a sentence for a designer, with names, amounts in display values and local times. */
export function reasonSentence(economy: Economy, reason: Reason): string {
  return (SENTENCES[reason.code] as (reason: Reason, economy: Economy) => string)(reason, economy);
}

/** A verdict with a sentence beside each reason. */
export type Explained<V extends { reasons: Reason[] }> = Omit<V, 'reasons'> & {
  reasons: (Reason & { sentence: string })[];
};
export type ExplainedVerdict = Explained<Verdict>;

/** The verdict with a sentence beside each reason. */
export const verdictExplain = <V extends { reasons: Reason[] }>(economy: Economy, verdict: V): Explained<V> => ({
  ...verdict,
  reasons: verdict.reasons.map((reason) => ({ ...reason, sentence: reasonSentence(economy, reason) })),
});

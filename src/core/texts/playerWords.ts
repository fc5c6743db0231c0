/** What players read, in their language: names, the question before buying, thanks, refusals. Amounts, prices and names are filled in here, so that no text states a price by hand. */
import { DateTime } from 'luxon';
import { moneyDecimals, unitsFormat } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import { builtInMessage } from '../economy/index.js';
import type { BuiltInKey } from '../document/index.js';
import type { Economy } from '../economy/index.js';
import type { GoalStanding, TrackStanding } from '../progress/index.js';
import type { Reason, Verdict } from '../trade/index.js';
import { amountName, economyLabels } from './amounts.js';
import { amountFormat, languageChain, listFormat, moneyFormat, numberFormat } from './formats.js';

/** The language that texts are shown in where `language` is asked for: that one where any of it is written, else the economy's own. */
export function languageShown(economy: Economy, language: string): string {
  const { messages, language: own } = economy.texts;
  const base = language.split('-', 1)[0];
  const isKnown = [own, ...messages.keys()].some((tag) => tag.split('-', 1)[0] === base);
  return isKnown ? language : own;
}

type Filled = Record<string, string | number>;

/** A text by key, or what is written in the economy; undefined where neither is there. */
export function textFind(
  economy: Economy,
  language: string,
  key: string,
  written: string | undefined,
  filled: Filled = {},
): string | undefined {
  for (const tag of languageChain(language, economy.texts.language)) {
    const message = economy.texts.messages.get(tag)?.get(key);
    if (message !== undefined) return typeof message === 'string' ? message : String(message.format(filled));
    if (tag === economy.texts.language && written !== undefined) return written;
  }
  return written;
}

/** A text of the engine's own, worded anew by the economy or as it is built in. */
function engineText(economy: Economy, language: string, key: BuiltInKey, filled: Filled): string {
  return textFind(economy, language, key, undefined, filled) ?? String(builtInMessage(key).format(filled));
}

export function assetName(economy: Economy, language: string, asset: string): string {
  const currency = economy.currencies.get(asset);
  const kind = currency ? 'currency' : 'item';
  const written = (currency ?? economy.items.get(asset))?.name ?? asset;
  return textFind(economy, language, `${kind}.${asset}.name`, written)!;
}

/** `1,400 shells`: as the economy words amounts of it, or number and name. */
export function amountWords(economy: Economy, language: string, asset: string, units: Units): string {
  const currency = economy.currencies.get(asset);
  const decimals = currency?.decimals ?? 0;
  const shown = Number(unitsFormat(units, decimals));
  const amount = amountFormat(language, decimals).format(shown);
  const name = assetName(economy, language, asset);
  const key = `${currency ? 'currency' : 'item'}.${asset}.amount`;
  const told = textFind(economy, language, key, undefined, { units: shown, amount, name });
  if (told !== undefined) return told;
  const label = economyLabels(economy)(asset);
  // The singular is of the name as written; a translated name has its own words for amounts.
  return `${amount} ${label?.name === name ? amountName(label, units) : name}`;
}

const listed = (language: string, parts: readonly string[], type: 'conjunction' | 'disjunction'): string =>
  listFormat(language, type).format(parts);

/** Amounts as a player reads them in a language: `120 shells and 1 brass key`. */
export function basketWords(economy: Economy, language: string, basket: Readonly<Basket>): string {
  return listed(
    language,
    Object.entries(basket).map(([asset, units]) => amountWords(economy, language, asset, units)),
    'conjunction',
  );
}

const moneyWords = (language: string, code: string, units: Units): string =>
  moneyFormat(language, code).format(units / 10 ** moneyDecimals(code));

/** A price as players read it: `900 shells`, `€4.99 or $5.49`. */
export function priceWords(
  economy: Economy,
  language: string,
  { total, money }: { total: Readonly<Basket>; money?: Readonly<Record<string, Units>> | undefined },
): string {
  return money
    ? listed(
        language,
        Object.entries(money).map(([code, units]) => moneyWords(language, code, units)),
        'disjunction',
      )
    : basketWords(economy, language, total);
}

/** An instant in the words of a language, in the economy's time zone. */
const instantWords = (economy: Economy, language: string, ms: number | null): string =>
  ms === null
    ? 'none'
    : DateTime.fromMillis(ms, { zone: economy.zone, locale: language }).toLocaleString({
        day: 'numeric',
        month: 'long',
        hour: '2-digit',
        minute: '2-digit',
        timeZoneName: 'short',
      });

/** The shop's name in a language; as written where there is no translation. */
export function shopName(economy: Economy, language: string, shop: string): string {
  return textFind(economy, language, `shop.${shop}.name`, economy.shops.get(shop)?.name ?? shop)!;
}

/** An offer as players read it: a name of its own, or that of what it gives. */
export function offerWords(
  economy: Economy,
  language: string,
  id: string,
): { name: string; description: string | undefined; badge: string | undefined } {
  const offer = economy.offers.get(id);
  if (!offer) return { name: id, description: undefined, badge: undefined };
  const { own, badge, single } = offer;
  const written = { ...own, badge };
  const text = (part: 'name' | 'description' | 'badge') =>
    textFind(economy, language, `offer.${id}.${part}`, written[part]);
  const given = single?.asset;
  const item = given === undefined ? undefined : economy.items.get(given);
  const count = single?.count ?? 1;
  return {
    name:
      text('name') ??
      (given === undefined ? offer.name : `${assetName(economy, language, given)}${count > 1 ? ` x${count}` : ''}`),
    description:
      text('description') ??
      (item ? textFind(economy, language, `item.${given!}.description`, item.description) : undefined),
    badge: text('badge'),
  };
}

/** The question before buying, exactly as it would be charged; null where there is no price to ask. */
export function askText(economy: Economy, language: string, verdict: Verdict, pay?: string): string | null {
  const choice = verdict.choices.find((one) => one.pay === (pay ?? verdict.price?.pay));
  if (!choice) return null;
  const free = !choice.money && Object.values(choice.total).every((units) => units === 0);
  return engineText(economy, language, free ? 'ask-free' : 'ask', {
    offer: offerWords(economy, language, verdict.offer).name,
    shop: shopName(economy, language, verdict.shop),
    times: verdict.times,
    price: priceWords(economy, language, choice),
    gives: basketWords(economy, language, verdict.gives),
  });
}

const numberWords = (language: string, count: number): string => numberFormat(language, 3).format(count);

/** So much of so much: of money, the name stands behind what it is held against. */
const farWords = (
  economy: Economy,
  language: string,
  money: string | null,
  [count, target]: readonly [number, number],
): { count: string; target: string } =>
  money === null
    ? { count: numberWords(language, count), target: numberWords(language, target) }
    : {
        count: numberWords(language, Number(unitsFormat(count, economy.currencies.get(money)?.decimals ?? 0))),
        target: amountWords(economy, language, money, target),
      };

/** A goal's name in a language, what it is, and how far the player is. */
export function goalTexts(
  economy: Economy,
  language: string,
  { goal, name: written, description, count, target, money, reached }: GoalStanding,
): Pick<GoalStanding, 'name' | 'description'> & { told: string } {
  const name = textFind(economy, language, `goal.${goal}.name`, written)!;
  const far = farWords(economy, language, money, [count, target]);
  return {
    name,
    description: textFind(economy, language, `goal.${goal}.description`, description ?? undefined) ?? null,
    told: engineText(economy, language, reached ? 'goal-reached' : 'goal', { name, level: '', next: 'none', ...far }),
  };
}

/** A track's name in a language, and how high the player is. */
export function trackTexts(
  economy: Economy,
  language: string,
  { track, name: written, level, earned, money, next }: TrackStanding,
): { name: string; told: string } {
  const name = textFind(economy, language, `track.${track}.name`, written)!;
  const far = farWords(economy, language, money, [earned, next?.from ?? earned]);
  return { name, told: engineText(economy, language, 'level', { name, level, next: next?.level ?? 'none', ...far }) };
}

/** What a player is told once a purchase is done. */
export function thanksText(economy: Economy, language: string, verdict: Verdict): string {
  return engineText(economy, language, 'thanks', {
    offer: offerWords(economy, language, verdict.offer).name,
    shop: shopName(economy, language, verdict.shop),
    times: verdict.times,
    price: verdict.price ? priceWords(economy, language, verdict.price) : '',
    gives: basketWords(economy, language, verdict.gives),
  });
}

/** What a reason says beside its names: instants, amounts and counts, by what a message calls them. */
function filledBy(economy: Economy, language: string, reason: Reason): Filled {
  const amount = (asset: string, units: Units) => amountWords(economy, language, asset, units);
  const at = (ms: number | null) => instantWords(economy, language, ms);
  switch (reason.code) {
    case 'shop-closed':
      return { at: at(reason.opensMs) };
    case 'not-on-show':
      return { at: at(reason.fromMs) };
    case 'short-of':
      return {
        short: amount(reason.asset, reason.short),
        needed: amount(reason.asset, reason.needed),
        held: amount(reason.asset, reason.held),
        at: at(reason.refilledMs),
      };
    case 'limit-reached':
      return { left: reason.left, most: reason.most, at: at(reason.resetsMs) };
    case 'out-of-stock':
      return { left: reason.left, at: at(reason.restocksMs) };
    case 'carry-full':
      return { most: amount(reason.item, reason.most), held: reason.held };
    case 'over-cap':
      return { most: amount(reason.currency, reason.cap), held: amount(reason.currency, reason.held) };
    case 'price-changed':
      return { price: basketWords(economy, language, reason.actual) };
    case 'till-short':
      return { needed: amount(reason.asset, reason.needed), at: at(reason.refilledMs) };
    case 'key-needed':
      return { needed: amount(reason.key, reason.needed) };
    case 'nothing-to-collect':
      return { at: at(reason.nextMs) };
    default:
      return {};
  }
}

/** Why not, for the player: `offer` is what was to be bought, where something was. */
export function refusalText(economy: Economy, language: string, reason: Reason, offer?: string): string {
  const sold = offer === undefined ? undefined : economy.offers.get(offer);
  const shop = 'shop' in reason ? reason.shop : (sold?.shop.id ?? '');
  const requirement =
    reason.code === 'not-for-this-player'
      ? textFind(economy, language, `shop.${shop}.requirement`, undefined)
      : textFind(economy, language, `offer.${offer ?? ''}.requirement`, undefined);
  const item = 'item' in reason ? assetName(economy, language, reason.item) : '';
  return engineText(economy, language, `refused.${reason.code}`, {
    offer: offer === undefined ? item : offerWords(economy, language, offer).name,
    shop: shopName(economy, language, shop),
    item,
    requirement: requirement ?? 'none',
    at: 'none',
    left: 0,
    most: 0,
    short: '',
    needed: '',
    held: '',
    price: '',
    ...filledBy(economy, language, reason),
  });
}

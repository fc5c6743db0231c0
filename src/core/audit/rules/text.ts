/** Findings about what players read. */
import { unitsFormat, unitsParse } from '../../amount/index.js';
import { documentTexts } from '../../document/index.js';
import { choiceBasket } from '../../economy/index.js';
import type { Currency, Economy, Offer } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import { offerIsHidden, offerPointer, offerSubject } from '../finding.js';
import type { AuditRule } from '../finding.js';

interface StatedPrice {
  currency: Currency;
  stated: string;
}

const escaped = (word: string): string => word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** "120 shells" and the like: a number followed by a currency's name, id or symbol, or led by its symbol. */
function statedPrices(economy: Economy, text: string): StatedPrice[] {
  const found: StatedPrice[] = [];
  for (const currency of economy.currencies.values()) {
    const words = [currency.name, currency.id, currency.symbol].filter((word) => word !== '').map(escaped);
    // "1 shell", and not "1 shellfish".
    if (currency.singular !== undefined) words.push(`${escaped(currency.singular)}(?!\\p{L})`);
    for (const match of text.matchAll(new RegExp(`(\\d+(?:\\.\\d+)?)\\s*(?:${words.join('|')})`, 'giu')))
      found.push({ currency, stated: match[1]! });
  }
  return found;
}

function contradicts(offer: Offer, { currency, stated }: StatedPrice): string | undefined {
  const amounts = (offer.prices ?? []).flatMap(choiceBasket).filter(({ asset }) => asset === currency.id);
  const parsed = unitsParse(stated, currency.decimals);
  if (amounts.some((one) => parsed.ok && one.kind === 'fixed' && one.units === parsed.units)) return undefined;
  const real = amounts
    .map((one) => (one.kind === 'formula' ? one.formula.text : unitsFormat(one.units, currency.decimals)))
    .join(' or ');
  return `a text says ${stated} ${currency.name}, and the price is ${real ? `${real} ${currency.name}` : `not in ${currency.name}`}`;
}

export const textStatesOtherPrice: AuditRule = {
  code: 'text-states-other-price',
  severity: 'error',
  help: 'A name or description that states a price other than the real one misleads players.',
  find: ({ economy, document }) =>
    [...economy.offers.values()].flatMap((offer) => {
      const written = document.shops?.[offer.shop.id]?.shelves[offer.shelf.id]?.offers[offer.id];
      const itemId =
        offer.gives.length === 1 && economy.items.has(offer.gives[0]!.asset) ? offer.gives[0]!.asset : undefined;
      const item = itemId === undefined ? undefined : document.items?.[itemId];
      const texts: [string, string | undefined][] = [
        [offerPointer(offer, 'name'), written?.name],
        [offerPointer(offer, 'description'), written?.description],
        [offerPointer(offer, 'badge'), written?.badge],
        [pointerOf(['items', itemId ?? '', 'name']), written?.name === undefined ? item?.name : undefined],
        [
          pointerOf(['items', itemId ?? '', 'description']),
          written?.description === undefined ? item?.description : undefined,
        ],
      ];
      return texts.flatMap(([pointer, text]) =>
        text === undefined
          ? []
          : statedPrices(economy, text).flatMap((stated) => {
              const message = contradicts(offer, stated);
              return message === undefined
                ? []
                : [
                    {
                      pointer,
                      subject: offerSubject(offer),
                      message,
                      fix: 'Take the price out of the text: the engine shows the real one.',
                    },
                  ];
            }),
      );
    }),
};

/** More keys are not listed in one sentence. */
const MOST_KEYS = 5;

export const missingTranslation: AuditRule = {
  code: 'missing-translation',
  severity: 'hint',
  help: 'A text that a language lacks is shown in the language of the economy.',
  find: ({ document }) => {
    const own = document.language ?? 'en';
    const slots = documentTexts(document).filter(({ written }) => written !== undefined);
    return Object.entries(document.texts ?? {}).flatMap(([tag, texts]) => {
      const missing = slots.map(({ key }) => key).filter((key) => texts[key] === undefined);
      // What is written in the economy's own language needs no translation into it, nor into its kinds.
      if (missing.length === 0 || tag.split('-')[0] === own.split('-')[0]) return [];
      return [
        {
          pointer: pointerOf(['texts', tag]),
          subject: `texts in ${tag}`,
          message: `${missing.length} ${missing.length === 1 ? 'text is' : 'texts are'} missing: ${missing.slice(0, MOST_KEYS).join(', ')}${missing.length > MOST_KEYS ? ' ...' : ''}`,
          fix: 'Write them; until then players read the text of the economy.',
        },
      ];
    });
  },
};

export const requirementUntold: AuditRule = {
  code: 'requirement-untold',
  severity: 'hint',
  help: 'A condition that no text explains leaves players wondering why they cannot buy.',
  find: ({ economy, document }) => {
    if (document.texts === undefined) return [];
    const told = economy.texts.messages.get(economy.texts.language);
    const lacks = (key: string) => told?.has(key) !== true;
    return [
      ...[...economy.shops.values()]
        .filter(({ id, when, hidden }) => when && !hidden && lacks(`shop.${id}.requirement`))
        .map(({ id, name, when }) => ({ name, when, key: `shop.${id}.requirement`, at: ['shops', id, 'when'] })),
      ...[...economy.offers.values()]
        .filter((offer) => offer.when && !offerIsHidden(offer) && lacks(`offer.${offer.id}.requirement`))
        .map((offer) => ({
          name: offerSubject(offer),
          when: offer.when,
          key: `offer.${offer.id}.requirement`,
          at: [...offer.pointer, 'when'],
        })),
    ].map(({ name, when, key, at }) => ({
      pointer: pointerOf(at),
      subject: name,
      message: `players are not told that it needs ${when!.text.slice(1).trim()}`,
      fix: `Write the text ${key}, such as "Reach flyer level 3".`,
    }));
  },
};

export const missingText: AuditRule = {
  code: 'missing-text',
  severity: 'hint',
  help: 'Players want to know what a thing is before they pay for it.',
  find: ({ document }) =>
    Object.entries(document.items ?? {})
      .filter(([, item]) => item.description === undefined || item.icon === undefined)
      .map(([id, item]) => ({
        pointer: pointerOf(['items', id]),
        subject: item.name,
        message: `it has no ${[item.description === undefined ? 'description' : '', item.icon === undefined ? 'icon' : ''].filter(Boolean).join(' and no ')}`,
        fix: 'Write one.',
      })),
};

const PICTURE_PREFIX = 'pictures/';

export const pictureMissing: AuditRule = {
  code: 'picture-missing',
  severity: 'warning',
  help: 'An icon that names a picture file which is not there shows nothing.',
  find: ({ document, pictures }) =>
    (['items', 'shops'] as const).flatMap((section) =>
      Object.entries(document[section] ?? {})
        .filter(
          ([, { icon }]) =>
            pictures && icon?.startsWith(PICTURE_PREFIX) && !pictures.has(icon.slice(PICTURE_PREFIX.length)),
        )
        .map(([id, { name, icon }]) => ({
          pointer: pointerOf([section, id, 'icon']),
          subject: name,
          message: `there is no picture file ${icon}`,
          fix: 'Upload it, or write an emoji.',
        })),
    ),
};

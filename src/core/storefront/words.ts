/** A storefront in the words of its player: names, question and refusals in one language, prices as they are charged. */
import type { Economy } from '../economy/index.js';
import {
  askText,
  basketWords,
  goalTexts,
  languageShown,
  offerWords,
  priceWords,
  refusalText,
  shopName,
  textFind,
  trackTexts,
} from '../texts/index.js';
import type { ExplainedVerdict } from '../texts/index.js';
import type { Front, FrontOffer, OfferTold } from './front.js';

/** The same storefront with `told` for each offer. */
export function frontTell(economy: Economy, front: Front, asked: string): Front {
  const language = languageShown(economy, asked);
  return {
    ...front,
    language,
    name: shopName(economy, language, front.shop),
    wallet: basketWords(
      economy,
      language,
      Object.fromEntries(Object.entries(front.balances).filter(([, units]) => units > 0)),
    ),
    shelves: front.shelves.map((shelf) => ({
      ...shelf,
      name: textFind(economy, language, `shelf.${front.shop}.${shelf.id}.name`, shelf.name)!,
      offers: shelf.offers.map((offer) => ({ ...offer, ...offerTell(economy, offer, language) })),
    })),
    goals: front.goals.map((goal) => ({ ...goal, ...goalTexts(economy, language, goal) })),
    tracks: front.tracks.map((track) => ({ ...track, ...trackTexts(economy, language, track) })),
  };
}

function offerTell(
  economy: Economy,
  offer: FrontOffer,
  language: string,
): Pick<FrontOffer, 'name' | 'description' | 'badge'> & { told: OfferTold } {
  const { name, description, badge } = offerWords(economy, language, offer.id);
  const prices: Record<string, string> = {};
  const before: Record<string, string> = {};
  for (const choice of offer.choices) {
    prices[choice.pay] = priceWords(economy, language, choice);
    if (choice.before) before[choice.pay] = basketWords(economy, language, choice.before);
  }
  return {
    name,
    description: description ?? null,
    badge: badge ?? null,
    told: {
      prices,
      before,
      sale: saleTell(economy, offer, language),
      ...verdictTell(economy, offer.verdict, language),
    },
  };
}

function saleTell(economy: Economy, { verdict }: FrontOffer, language: string): string | null {
  const sale = verdict.price?.sale;
  return sale ? textFind(economy, language, `sale.${sale.id}.name`, sale.name)! : null;
}

/** The question and the refusals of a verdict. */
export function verdictTell(
  economy: Economy,
  verdict: ExplainedVerdict,
  asked: string,
): Pick<OfferTold, 'ask' | 'refusals'> {
  const language = languageShown(economy, asked);
  const { reasons, ...rest } = verdict;
  return {
    ask: askText(economy, language, { ...rest, reasons }),
    refusals: [...new Set(reasons.map((reason) => refusalText(economy, language, reason, verdict.offer)))],
  };
}

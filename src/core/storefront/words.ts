/** A storefront in the words of its player: names, question and refusals in one language, prices as they are charged. */
import type { Economy } from '../economy/index.js';
import { askText, basketWords, offerWords, priceWords, refusalText, shopName, textFind } from '../texts/index.js';
import type { ExplainedVerdict } from '../trade/index.js';
import type { Front, FrontOffer } from './front.js';

/** What a player reads of an offer. */
export interface OfferTold {
  /** The price of each alternative, by `pay`. */
  prices: Record<string, string>;
  /** What each costs without the sale that runs. */
  before: Record<string, string>;
  /** The question before buying, for the alternative that the verdict is about. */
  ask: string | null;
  /** Why not, one sentence for each reason. */
  refusals: string[];
}
export type ToldFront = Omit<Front, 'shelves'> & {
  language: string;
  wallet: string;
  shelves: (Omit<Front['shelves'][number], 'offers'> & { offers: (FrontOffer & { told: OfferTold })[] })[];
};

export function frontTell(economy: Economy, front: Front, language: string): ToldFront {
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
    told: { prices, before, ...verdictTell(economy, offer.verdict, language) },
  };
}

/** The question and the refusals of a verdict. */
export function verdictTell(
  economy: Economy,
  verdict: ExplainedVerdict,
  language: string,
): Pick<OfferTold, 'ask' | 'refusals'> {
  const { reasons, ...rest } = verdict;
  return {
    ask: askText(economy, language, { ...rest, reasons }),
    refusals: [...new Set(reasons.map((reason) => refusalText(economy, language, reason, verdict.offer)))],
  };
}

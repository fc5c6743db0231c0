export { frontMake } from './front.js';
export type { OfferTold, Front, FrontChoice, FrontOffer, FrontShelf } from './front.js';
export { frontTell, verdictTell } from './words.js';

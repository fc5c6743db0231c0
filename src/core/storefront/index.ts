export { frontMake } from './front.js';
export type { Front, FrontChoice, FrontOffer, FrontShelf, OfferTold } from './front.js';
export { frontTell, verdictTell } from './words.js';

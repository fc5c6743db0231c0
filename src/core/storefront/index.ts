export { frontMake } from './front.js';
export type { Front, FrontChoice, FrontOffer, FrontShelf } from './front.js';
export { frontTell, verdictTell } from './words.js';
export type { OfferTold, ToldFront } from './words.js';

export { frontMake } from './front.js';
export type { Front, FrontChoice, FrontOffer, FrontShelf } from './front.js';

export { Lookout } from './lookout.js';
export { orderAdd, orderBefore, orderOf, orderRemove, orderSize, orderSlice } from './order.js';
export type { Order, Scored } from './order.js';
export { goalScore, placeOf, placesFrom, placesOf, rankingEarnings, rankingContest } from './ranking.js';
export type { Earning, Placed, Contest } from './ranking.js';
export { balanceAt, balanceSources } from './balance.js';
export type { Levels } from './balance.js';
export { orderPlaces } from './places.js';
export type { Places } from './places.js';

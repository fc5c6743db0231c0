export { orderAdd, orderBefore, orderOf, orderRemove, orderSize, orderSlice } from './order.js';
export type { Order, Scored } from './order.js';
export { goalScore, placeOf, placesFrom, rankingEarnings, rankingContest } from './ranking.js';
export type { Earning, Placed, Contest } from './ranking.js';
export { balanceAt, balanceSources } from './balance.js';
export type { Levels } from './balance.js';

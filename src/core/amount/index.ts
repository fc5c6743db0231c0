export {
  MAX_UNITS,
  basketAdd,
  basketAddAll,
  basketEquals,
  basketHolds,
  basketOverlaps,
  basketTimes,
  basketTimesOver,
  fractionOf,
  moneyDecimals,
  unitsFormat,
  unitsOver,
  unitsParse,
  unitsRound,
  unitsShare,
  unitsTimes,
} from './amount.js';
export { unitsPreferred } from './preferred.js';
export type { Basket, Fraction, Rounding, Units } from './amount.js';

export {
  MAX_UNITS,
  basketAdd,
  basketEquals,
  basketHolds,
  basketTimes,
  fractionOf,
  moneyDecimals,
  unitsFormat,
  unitsParse,
  unitsRound,
  unitsShare,
  unitsTimes,
} from './amount.js';
export type { Basket, Fraction, Rounding, Units } from './amount.js';

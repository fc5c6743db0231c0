export {
  MAX_UNITS,
  basketAdd,
  basketEquals,
  basketTimes,
  fractionOf,
  unitsFormat,
  unitsParse,
  unitsRound,
  unitsShare,
  unitsTimes,
} from './amount.js';
export type { AmountResult, Basket, Fraction, Rounding, Units } from './amount.js';

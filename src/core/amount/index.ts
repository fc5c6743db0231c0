export {
  MAX_UNITS,
  basketAdd,
  basketEquals,
  basketTimes,
  unitsFormat,
  unitsParse,
  unitsRound,
  unitsTimes,
} from './amount.js';
export type { AmountResult, Basket, Rounding, Units } from './amount.js';

export { formulaCompile } from './formula.js';
export type { Formula, FormulaInput, Read, Scope } from './formula.js';
export { formulaMentions } from './mentions.js';
export { MAX_FORMULA_LENGTH } from './parse.js';
export type { LookupName } from './functions.js';
export type { Names, Value, ValueType } from './parse.js';

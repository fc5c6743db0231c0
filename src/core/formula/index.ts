export { formulaCompile } from './formula.js';
export type { Formula, FormulaInput, Reference, Scope } from './formula.js';
export { MAX_FORMULA_LENGTH } from './parse.js';
export type { FormulaProblem, Names, Value, ValueType } from './parse.js';

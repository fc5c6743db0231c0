/** The blocks that reasons are made of: what a code says beside itself. */
import type { FormulaInput } from '../formula/index.js';
import { anyKeys, anyText, anyValue, anyWhole, listOf, mapOf, orNull, shapeOf } from '../schema/index.js';
import type { RecordOf, Shape } from '../schema/index.js';

export const formulaInput = shapeOf<FormulaInput>({ name: anyText(), value: anyValue() });
export const formulaFields = { formula: anyText(), inputs: listOf(formulaInput, { most: 200, of: 'inputs' }) };
export const units = anyWhole;
export const count = anyWhole;
/** Epoch ms; null where nothing is due. */
export const comesMs = () => orNull(anyWhole());
/** A name that was meant; null where none is near. */
export const nearest = () => orNull(anyText());
export const amounts = () => mapOf(units(), anyKeys);

/** What each code of a table says. */
export type ReasonTable = Readonly<Record<string, Readonly<Record<string, Shape<unknown>>>>>;
/** The reasons of a table: each code with what it says. */
export type ReasonsOf<T extends ReasonTable> = {
  [C in keyof T]: { code: C } & RecordOf<T[C]>;
}[keyof T];

/** A number as a designer reads it: no more digits than say something. */
export const shown = (value: number): string => String(Number(value.toPrecision(6)));

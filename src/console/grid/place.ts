/** Places and ranges of a grid: rows and columns as they are shown, counted from 0. */
export interface At {
  row: number;
  column: number;
}
/** Both ends belong to it. */
export interface Range {
  from: At;
  to: At;
}

export const rangeOf = (one: At, other: At): Range => ({
  from: { row: Math.min(one.row, other.row), column: Math.min(one.column, other.column) },
  to: { row: Math.max(one.row, other.row), column: Math.max(one.column, other.column) },
});

export const rangeIsSingle = ({ from, to }: Range): boolean => from.row === to.row && from.column === to.column;

export const rangeHolds = ({ from, to }: Range, { row, column }: At): boolean =>
  row >= from.row && row <= to.row && column >= from.column && column <= to.column;

/** The places of a range by row. */
export const rangeRows = ({ from, to }: Range): At[][] =>
  Array.from({ length: to.row - from.row + 1 }, (_, r) =>
    Array.from({ length: to.column - from.column + 1 }, (_none, c) => ({ row: from.row + r, column: from.column + c })),
  );

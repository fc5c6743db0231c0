/** Where the focus is and what is selected. The cell may have to be scrolled into sight before it can have the focus. */
import { useEffect, useRef, useState } from 'react';
import type { RefObject } from 'react';
import type { GridRow } from './columns.js';
import { rangeOf } from './place.js';
import type { At, Range } from './place.js';

interface Asked {
  shown: readonly GridRow[];
  columns: number;
  scroller: RefObject<HTMLDivElement | null>;
  scrollTo(row: number): void;
  /** No focus is moved while a cell is being edited. */
  editing: boolean;
  onSelect?: ((rows: GridRow[]) => void) | undefined;
}

const START: At = { row: 0, column: 0 };

export function useSelection({ shown, columns, scroller, scrollTo, editing, onSelect }: Asked) {
  const [at, setAt] = useState<At>(START);
  const [anchor, setAnchor] = useState<At>(START);
  const wantsFocus = useRef(false);
  const dragging = useRef(false);

  useEffect(() => {
    if (!wantsFocus.current || editing) return;
    const focus = (): boolean => {
      const cell = scroller.current?.querySelector<HTMLElement>(`[data-at="${at.row}-${at.column}"]`);
      cell?.focus();
      return cell !== null && cell !== undefined;
    };
    if (focus()) wantsFocus.current = false;
    else {
      scrollTo(at.row);
      const frame = requestAnimationFrame(() => {
        if (focus()) wantsFocus.current = false;
      });
      return () => cancelAnimationFrame(frame);
    }
    return undefined;
  });

  const select = (next: At, extend = false) => {
    const place = {
      row: Math.max(0, Math.min(shown.length - 1, next.row)),
      column: Math.max(0, Math.min(columns - 1, next.column)),
    };
    setAt(place);
    if (!extend) setAnchor(place);
    wantsFocus.current = true;
    const range = rangeOf(place, extend ? anchor : place);
    onSelect?.(shown.slice(range.from.row, range.to.row + 1));
    scrollTo(place.row);
  };
  const selectAll = () => {
    setAnchor(START);
    setAt({ row: shown.length - 1, column: columns - 1 });
    onSelect?.([...shown]);
  };
  const range: Range = rangeOf(at, anchor);
  return {
    at,
    range,
    select,
    selectAll,
    /** Selects what was pasted, and leaves the focus where it is. */
    cover: ({ from, to }: Range) => {
      setAnchor(from);
      setAt(to);
    },
    drag: {
      begin: (place: At, extend: boolean) => {
        dragging.current = true;
        select(place, extend);
      },
      /** The button may have been let go of outside the grid. */
      over: (place: At, pressed: boolean) => {
        if (dragging.current && pressed) select(place, true);
      },
      end: () => {
        dragging.current = false;
      },
    },
  };
}

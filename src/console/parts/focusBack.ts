/** Where the focus was before a window opened: it goes back there. Without a button of its own a window would drop it. */
import { useRef } from 'react';

export function useFocusBack(): { onOpenAutoFocus: () => void; onCloseAutoFocus: (event: Event) => void } {
  const cameFrom = useRef<Element | null>(null);
  return {
    onOpenAutoFocus: () => {
      cameFrom.current = document.activeElement;
    },
    onCloseAutoFocus: (event) => {
      const back = cameFrom.current;
      if (!(back instanceof HTMLElement) || !back.isConnected) return;
      event.preventDefault();
      back.focus();
    },
  };
}

/** Takes the focus where what had it is gone. */
export const focusIfLost = (place: HTMLElement | null): void => {
  if (document.activeElement === document.body) place?.focus();
};

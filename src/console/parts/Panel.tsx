/** What is open beside a room: left with Escape or its ×, and the focus goes back to where it came from. */
import { useEffect, useLayoutEffect, useRef } from 'react';
import type { KeyboardEvent, ReactNode } from 'react';
import { Button, Sheet } from './ui.js';

/** The row that a panel stands in; where there is no room beside each other, it stands above. */
export const BESIDE = 'flex items-start gap-3 max-lg:flex-col-reverse max-lg:items-stretch';

export function Panel({
  title,
  of,
  width = 'w-96',
  onClose,
  children,
}: {
  title: string;
  /** What it shows: another one is another visit. */
  of: string;
  width?: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const place = useRef<HTMLDivElement>(null);
  const cameFrom = useRef<Element | null>(null);
  // Before what is in it takes the focus.
  useLayoutEffect(() => {
    const { activeElement } = document;
    if (activeElement && !place.current?.contains(activeElement)) cameFrom.current = activeElement;
  }, [of]);
  useEffect(
    () => () => {
      const back = cameFrom.current;
      // Whoever went on by mouse or Tab has the focus already.
      if (document.activeElement !== document.body || !(back instanceof HTMLElement)) return;
      if (back.isConnected) back.focus();
    },
    [],
  );
  const onKeyDown = (event: KeyboardEvent<HTMLElement>): void => {
    // Lists and windows that hang from it close themselves.
    const isWithin = event.currentTarget.contains(event.target as Node);
    if (event.key !== 'Escape' || !isWithin) return;
    event.stopPropagation();
    onClose();
  };
  return (
    <div
      ref={place}
      role="region"
      aria-label="Panel"
      onKeyDown={onKeyDown}
      className={`sticky top-16 max-h-[calc(100vh-90px)] ${width} shrink-0 overflow-auto max-lg:static max-lg:max-h-none max-lg:w-full`}
    >
      <Sheet
        title={title}
        actions={
          <Button className="py-0" onClick={onClose} aria-label="Close the panel" title="Close (Esc)">
            ×
          </Button>
        }
      >
        {children}
      </Sheet>
    </div>
  );
}

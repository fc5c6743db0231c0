/** Why what stands in a field could not be saved, and the way back to what is saved. */
import { useEffect, useRef } from 'react';
import { useEdits } from './edits.js';
import { Button } from './ui.js';

export function WhyRefused({ pointer, reasons }: { pointer: string; reasons: readonly string[] }) {
  const { again, forget, tell } = useEdits();
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // It may be below the edge of its panel.
    place.current?.scrollIntoView({ block: 'nearest' });
    return tell();
  }, [tell]);
  return (
    <div
      ref={place}
      role="alert"
      className="flex flex-wrap items-start justify-end gap-2 rounded-tag bg-tint-brick px-2 py-1 text-sm text-brick"
    >
      <span className="w-full">Not saved: {reasons.join(' ')}</span>
      <Button className="py-0 text-sm" onClick={() => again(pointer)}>
        Try again
      </Button>
      <Button className="py-0 text-sm" onClick={() => forget(pointer)}>
        Take back
      </Button>
    </div>
  );
}

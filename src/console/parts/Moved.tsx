/** Words that are marked for a moment when they have become others. */
import { useState } from 'react';
import type { ReactNode } from 'react';

/** `of`: what the words say; another is another. */
export function Moved({ of, children }: { of: string; children: ReactNode }) {
  const [seen, setSeen] = useState({ of, changes: 0 });
  if (seen.of !== of) setSeen({ of, changes: seen.changes + 1 });
  return (
    <span key={seen.changes} className={seen.changes > 0 ? 'moved' : ''}>
      {children}
    </span>
  );
}

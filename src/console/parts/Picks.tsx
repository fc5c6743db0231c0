/** What can be looked at, of which one is: some lines of it, and where there are more they are scrolled to. */
import { useLayoutEffect, useRef } from 'react';
import { Icon } from './Icon.js';

export function Picks({
  label,
  all,
  picked,
  onPick,
}: {
  label: string;
  all: readonly { id: string; name: string; icon?: string | undefined }[];
  picked: string;
  onPick: (id: string) => void;
}) {
  const nav = useRef<HTMLElement>(null);
  const here = useRef<HTMLButtonElement>(null);
  // What is looked at is in sight within its lines; the page itself stays where it is.
  useLayoutEffect(() => {
    const [lines, button] = [nav.current, here.current];
    if (!lines || !button) return;
    const { offsetTop: top, offsetHeight: height } = button;
    if (top < lines.scrollTop) lines.scrollTop = top;
    else if (top + height > lines.scrollTop + lines.clientHeight) lines.scrollTop = top + height - lines.clientHeight;
  }, [picked, all.length]);
  return (
    <nav ref={nav} aria-label={label} className="relative flex max-h-34 flex-wrap gap-1 overflow-y-auto">
      {all.map(({ id, name, icon }) => (
        <button
          key={id}
          ref={id === picked ? here : undefined}
          type="button"
          aria-current={id === picked}
          onClick={() => onPick(id)}
          className={`rounded-tag border border-line px-3 py-0.5 font-semibold ${id === picked ? 'bg-ink text-paper' : 'bg-sheet'}`}
        >
          {icon !== undefined && <Icon icon={icon} />} {name}
        </button>
      ))}
    </nav>
  );
}

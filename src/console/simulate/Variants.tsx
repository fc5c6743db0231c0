/** What is drawn over each other: what is in hand, the draft, and what was kept under a name. */
import { useState } from 'react';
import { lookOf } from '../charts/benchFrame.js';
import { Button, Input } from '../parts/ui.js';
import { MOST_KEPT, nameClean, nameFree } from './bench.js';
import type { Variant } from './bench.js';

const Mark = ({ place }: { place: number }) => {
  const { colour, dash, width } = lookOf(place);
  return (
    <svg width="24" height="8" aria-hidden className="inline">
      <line x1="0" y1="4" x2="24" y2="4" stroke={colour} strokeWidth={width} strokeDasharray={dash} />
    </svg>
  );
};

export function Variants({
  drawn,
  variants,
  canKeep,
  onKeep,
  onTake,
  onRename,
  onDrop,
}: {
  /** Names in the order in which they are drawn. */
  drawn: readonly string[];
  variants: readonly Variant[];
  canKeep: boolean;
  onKeep: (name: string) => void;
  /** Brings the levers to where a variant has them. */
  onTake: (variant: Variant) => void;
  onRename: (variant: Variant, name: string) => void;
  onDrop: (variant: Variant) => void;
}) {
  const [renamed, setRenamed] = useState<{ of: string; name: string }>();
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1" role="group" aria-label="Variants">
      {drawn.map((name, place) => {
        const variant = variants.find((one) => one.name === name);
        return (
          <span key={name} className="inline-flex items-center gap-1">
            <Mark place={place} />
            {variant && renamed?.of === name ? (
              <Input
                aria-label={`Name of variant ${name}`}
                autoFocus
                className="w-28 py-0"
                value={renamed.name}
                maxLength={40}
                onChange={(event) => setRenamed({ of: name, name: event.target.value })}
                onBlur={() => setRenamed(undefined)}
                onKeyDown={(event) => {
                  if (event.key === 'Escape') setRenamed(undefined);
                  if (event.key !== 'Enter') return;
                  const next = nameClean(renamed.name);
                  if (next !== '' && !drawn.includes(next)) onRename(variant, next);
                  setRenamed(undefined);
                }}
              />
            ) : variant ? (
              <>
                <button
                  type="button"
                  className="font-semibold underline decoration-dotted"
                  title="Bring the levers to where it has them"
                  onClick={() => onTake(variant)}
                >
                  {name}
                </button>
                <button
                  type="button"
                  aria-label={`Rename variant ${name}`}
                  title="Another name"
                  className="text-soft"
                  onClick={() => setRenamed({ of: name, name })}
                >
                  ✎
                </button>
                <button
                  type="button"
                  aria-label={`Drop variant ${name}`}
                  title="Drop it"
                  className="text-soft"
                  onClick={() => onDrop(variant)}
                >
                  ×
                </button>
              </>
            ) : (
              <span>{name}</span>
            )}
          </span>
        );
      })}
      <Button
        className="py-0"
        disabled={!canKeep || variants.length >= MOST_KEPT}
        title={variants.length >= MOST_KEPT ? `${MOST_KEPT} are the most` : 'Keep what is in hand under a name'}
        onClick={() => onKeep(nameFree(variants))}
      >
        Keep as a variant
      </Button>
    </div>
  );
}

/** Why a cell was not changed, below it. */
export interface BubbleProps {
  words: string;
  /** Its right edge is the cell's. */
  right?: boolean | undefined;
}

export function Bubble({ words, right = false }: BubbleProps) {
  return (
    <span
      role="alert"
      className={`absolute top-8 z-30 w-72 rounded-tag bg-brick px-2 py-1 text-left text-sm whitespace-normal text-paper ${right ? 'right-0' : 'left-0'}`}
    >
      {words}
    </span>
  );
}

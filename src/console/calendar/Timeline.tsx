/** The time line: a lane for each shop, a row for each thing, and entries that can be moved and stretched by mouse or keyboard. */
import { useRef, useState } from 'react';
import type { KeyboardEvent, PointerEvent } from 'react';
import type { CalendarEntry, CalendarLane } from '../../core/calendar/index.js';
import { dragged, placeOf, ticksOf, timeWords } from './timeline.js';
import type { Grip, Scale, Stretch } from './timeline.js';

export const KIND_WORDS: Record<CalendarEntry['kind'], string> = {
  open: 'open',
  rotation: 'on show',
  sale: 'sale',
  offer: 'offer',
  end: 'ends',
  release: 'release',
};

const LOOKS: Record<CalendarEntry['kind'], string> = {
  open: 'bg-tint-verdigris text-verdigris',
  rotation: 'bg-tint-brass text-ink',
  sale: 'bg-tint-copper text-ink',
  offer: 'bg-sunk text-ink',
  end: 'bg-brick',
  release: 'bg-verdigris',
};

export const entryKey = ({ kind, id, pointer, startMs }: CalendarEntry): string =>
  `${kind} ${pointer} ${id} ${startMs}`;

interface TimelineProps {
  lanes: readonly CalendarLane[];
  stretch: Stretch;
  scale: Scale;
  nowMs: number;
  selected: (entry: CalendarEntry) => boolean;
  onSelect: (entry: CalendarEntry, shop: string | null) => void;
  /** Whether an entry may be dragged at all. */
  movable: (entry: CalendarEntry) => boolean;
  onMove: (entry: CalendarEntry, to: { startMs: number; endMs: number }) => void;
}

/** The rows of a lane: everything that is one thing, in the order in which it comes. */
function rowsOf(lane: CalendarLane): { key: string; label: string; entries: CalendarEntry[] }[] {
  const rows = new Map<string, { key: string; label: string; entries: CalendarEntry[] }>();
  for (const entry of lane.entries) {
    const marks = entry.kind === 'end' || entry.kind === 'release';
    const key = marks ? entry.kind : `${entry.kind} ${entry.pointer}`;
    const label = marks
      ? entry.kind === 'end'
        ? 'Currencies'
        : 'Releases'
      : entry.kind === 'open'
        ? 'Hours'
        : entry.name;
    const row = rows.get(key) ?? { key, label, entries: [] };
    rows.set(key, row);
    row.entries.push(entry);
  }
  return [...rows.values()];
}

const emptyWords = ({ shop, closed }: CalendarLane): string =>
  shop === null
    ? 'no currency ends and no release comes'
    : closed
      ? 'closed all this time'
      : 'open all the time, nothing changes';

/** Rows of rotations are as high as what they have on show, up to four lines. */
const linesOf = (entries: readonly CalendarEntry[]): number =>
  Math.max(1, ...entries.map(({ kind, offers }) => (kind === 'rotation' ? Math.min(4, offers.length) : 1)));

export function Timeline(props: TimelineProps) {
  const { lanes, stretch, scale, nowMs } = props;
  const ticks = ticksOf(stretch, scale);
  const now = placeOf(stretch, nowMs);
  return (
    <div
      className="overflow-hidden rounded-sheet border border-line bg-sheet shadow-sheet"
      role="group"
      aria-label="Time line"
    >
      <div className="flex border-b border-line text-sm text-soft">
        <div className="w-40 shrink-0 px-3 py-1">{stretch.zone}</div>
        <div className="relative h-7 flex-1 overflow-hidden">
          {ticks.map(({ at, label }, index) => (
            <span
              key={at}
              className="absolute top-1 overflow-hidden border-l border-line pl-1 text-ellipsis whitespace-nowrap"
              style={{ left: `${at * 100}%`, right: `${(1 - (ticks[index + 1]?.at ?? 1)) * 100}%` }}
            >
              {label}
            </span>
          ))}
        </div>
      </div>
      {lanes.map((lane) => {
        const rows = rowsOf(lane);
        return (
          <section key={lane.shop ?? 'all'} aria-label={lane.name} className="border-b border-line last:border-0">
            <div className="flex flex-wrap gap-x-4 bg-sunk px-3 py-0.5 text-sm">
              <h3 className="font-semibold">{lane.name}</h3>
              {rows.length === 0 && <p className="text-soft">{emptyWords(lane)}</p>}
            </div>
            {rows.map((row) => (
              <div key={row.key} className="flex items-stretch">
                <div className="w-40 shrink-0 truncate px-3 py-1 text-sm" title={row.label}>
                  {row.label}
                </div>
                <div
                  className="relative flex-1 overflow-hidden border-l border-line"
                  style={{ height: `${0.75 + 1.25 * linesOf(row.entries)}rem` }}
                >
                  {ticks.map(({ at }) => (
                    <span
                      key={at}
                      aria-hidden
                      className="absolute inset-y-0 border-l border-line/50"
                      style={{ left: `${at * 100}%` }}
                    />
                  ))}
                  {now >= 0 && now <= 1 && (
                    <span
                      aria-hidden
                      className="absolute inset-y-0 z-10 border-l-2 border-copper"
                      style={{ left: `${now * 100}%` }}
                    />
                  )}
                  {row.entries.map((entry) => (
                    <Block key={entryKey(entry)} entry={entry} shop={lane.shop} {...props} />
                  ))}
                </div>
              </div>
            ))}
          </section>
        );
      })}
    </div>
  );
}

function Block({
  entry,
  shop,
  stretch,
  scale,
  selected,
  onSelect,
  movable,
  onMove,
}: TimelineProps & { entry: CalendarEntry; shop: string | null }) {
  const block = useRef<HTMLButtonElement>(null);
  const wasMoved = useRef(false);
  const [drag, setDrag] = useState<{ grip: Grip; fromX: number; byMs: number } | null>(null);
  const { zone } = stretch;
  const at = drag && drag.byMs !== 0 ? dragged(zone, entry, drag.byMs, drag.grip, scale) : entry;
  const isMark = entry.endMs <= entry.startMs;
  const [left, right] = [placeOf(stretch, at.startMs), placeOf(stretch, at.endMs)];
  const can = movable(entry);
  const offers = entry.offers.map(({ name }) => name).join(', ');
  const words = `${KIND_WORDS[entry.kind]}: ${entry.name}, ${timeWords(zone, entry.startMs)}${isMark ? '' : ` to ${timeWords(zone, entry.endMs)}`}${offers && entry.kind === 'rotation' ? `: ${offers}` : ''}${entry.warnings.length > 0 ? `. Warning: ${entry.warnings.join('; ')}` : ''}`;

  const msOf = (pixels: number): number => {
    const track = block.current!.parentElement!.getBoundingClientRect().width;
    return (pixels / track) * (stretch.toMs - stretch.fromMs);
  };
  const begin = (event: PointerEvent<HTMLElement>, grip: Grip) => {
    if (!can || event.button !== 0) return;
    event.stopPropagation();
    block.current!.setPointerCapture(event.pointerId);
    setDrag({ grip, fromX: event.clientX, byMs: 0 });
  };
  const move = (event: PointerEvent<HTMLElement>) => {
    if (drag) setDrag({ ...drag, byMs: msOf(event.clientX - drag.fromX) });
  };
  const drop = () => {
    wasMoved.current = drag !== null && drag.byMs !== 0;
    if (drag && drag.byMs !== 0) onMove(entry, dragged(zone, entry, drag.byMs, drag.grip, scale));
    setDrag(null);
  };
  const onKey = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (step === 0 || !event.altKey || !can) return;
    event.preventDefault();
    onMove(entry, dragged(zone, entry, step * scale.snapMs, event.shiftKey ? 'end' : 'whole', scale));
  };
  const isSelected = selected(entry);
  return (
    <button
      ref={block}
      type="button"
      aria-pressed={isSelected}
      title={words}
      data-entry={`${entry.kind} ${entry.id}`}
      onClick={() => {
        // What was moved was not chosen.
        if (!wasMoved.current) onSelect(entry, shop);
        wasMoved.current = false;
      }}
      onKeyDown={onKey}
      onPointerDown={(event) => begin(event, 'whole')}
      onPointerMove={move}
      onPointerUp={drop}
      onPointerCancel={() => setDrag(null)}
      style={
        isMark
          ? { left: `calc(${left * 100}% - 6px)` }
          : {
              left: `${Math.max(0, left) * 100}%`,
              width: `max(6px, calc(${(Math.min(1, right) - Math.max(0, left)) * 100}% - 1px))`,
            }
      }
      className={`absolute top-1 z-20 touch-none overflow-hidden text-left text-sm whitespace-nowrap ${isMark ? 'mt-1.5 size-3 rotate-45' : 'bottom-1 rounded-tag border-r border-sheet px-1.5'} ${LOOKS[entry.kind]} ${can ? 'cursor-grab' : ''} ${entry.warnings.length > 0 ? 'outline-2 -outline-offset-2 outline-brick' : ''} ${isSelected ? 'ring-2 ring-ink' : ''}`}
    >
      <span className="sr-only">{words}</span>
      {!isMark && (
        <span aria-hidden>
          {entry.warnings.length > 0 && <strong className="text-brick">! </strong>}
          {drag ? (
            `${timeWords(zone, at.startMs)} to ${timeWords(zone, at.endMs)}`
          ) : (
            <Lines entry={entry} narrow={right - left < NARROW} />
          )}
          {can && (
            <>
              <span
                className="absolute inset-y-0 left-0 w-1.5 cursor-ew-resize"
                onPointerDown={(event) => begin(event, 'start')}
              />
              <span
                className="absolute inset-y-0 right-0 w-1.5 cursor-ew-resize"
                onPointerDown={(event) => begin(event, 'end')}
              />
            </>
          )}
        </span>
      )}
    </button>
  );
}

/** Entries that take a smaller part of the line have no room for words; what they are is told on hovering and to screen readers. */
const NARROW = 0.025;

/** The name; of a rotation what is on show, one below the other. */
function Lines({ entry: { kind, name, offers }, narrow }: { entry: CalendarEntry; narrow: boolean }) {
  if (narrow || kind === 'open') return null;
  if (kind !== 'rotation' || offers.length === 0) return kind === 'rotation' ? 'nothing' : name;
  const listed =
    offers.length > 4 ? [...offers.slice(0, 3), { id: '', name: `and ${offers.length - 3} more` }] : offers;
  return listed.map((offer) => (
    <span key={offer.id} className="block truncate leading-5">
      {offer.name}
    </span>
  ));
}

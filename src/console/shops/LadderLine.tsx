/** All prices on one line, by playing time: each a coin that can be moved, by mouse or by keys. */
import { useLayoutEffect, useRef, useState } from 'react';
import type { KeyboardEvent, PointerEvent } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { unitsPreferred } from '../../core/amount/index.js';
import type { Rung, Step } from '../../core/playtime/index.js';
import { timeOrder } from '../../core/playtime/playingTime.js';
import { priceTaking } from '../../core/playtime/rungs.js';
import { durationText, playingTimeShort } from '../../core/playtime/words.js';
import { basketText } from '../../core/texts/amounts.js';
import { Icon } from '../parts/Icon.js';
import type { Playtime } from '../parts/playtime.js';
import { factorText, iconOf } from './ladderShown.js';
import type { Moving } from './ladderShown.js';

/** Pixels of a coin, and of the margin at both ends. */
const COIN = 26;
const MARGIN = 24;
/** Steps are told where they have room. */
const STEP_ROOM = 46;
/** So many coins are drawn. */
const MOST_COINS = 300;
const TICKS = [1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200, 3000, 6000, 12_000, 30_000, 60_000, 120_000];

interface Placed {
  step: Step;
  x: number;
  level: number;
}

export function LadderLine({
  steps,
  ends,
  playtime,
  document,
  chosen,
  onChoose,
  moving,
  onMove,
  onKeep,
}: {
  steps: readonly Step[];
  /** Minutes at both ends of the line. */
  ends: readonly [number, number];
  playtime: Playtime;
  document: EconomyDocument;
  chosen: string;
  onChoose: (offer: string) => void;
  moving: Moving | undefined;
  onMove: (moving: Moving | undefined) => void;
  onKeep: (rung: Rung, units: number) => void;
}) {
  const line = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1200);
  useLayoutEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width));
    observer.observe(line.current!);
    return () => observer.disconnect();
  }, []);
  const scale = scaleOf(ends, width);
  const placed = placedOf(steps.slice(0, MOST_COINS), scale.at);
  const levels = Math.max(...placed.map(({ level }) => level)) + 1;
  const top = (level: number): number => (levels - 1 - level) * COIN + 4;
  const height = levels * COIN + 30;
  const told = placed.length <= 24 ? placed : [];
  return (
    <div
      ref={line}
      role="group"
      aria-label="Prices by playing time"
      className="relative rounded-sheet border border-line bg-sheet"
      style={{ height: height + (told.length > 0 ? 18 : 0) }}
    >
      <div aria-hidden className="absolute inset-x-0 border-t-2 border-ink/40" style={{ top: levels * COIN + 6 }} />
      {scale.ticks.map(({ minutes, x }) => (
        <span
          key={minutes}
          aria-hidden
          className="absolute -translate-x-1/2 text-xs whitespace-nowrap text-soft"
          style={{ left: x, top: levels * COIN + 8 }}
        >
          {durationText(minutes)}
        </span>
      ))}
      {told.slice(1).map(({ step, x }, place) => {
        const from = told[place]!.x;
        return x - from < STEP_ROOM ? null : (
          <span
            key={step.offer}
            aria-hidden
            className="absolute -translate-x-1/2 text-xs whitespace-nowrap text-copper"
            style={{ left: (x + from) / 2, top: levels * COIN + 24 }}
          >
            {factorText(step)}
          </span>
        );
      })}
      {byName(placed).map(({ step, x, level }) => (
        <Coin
          key={step.offer}
          step={step}
          x={x}
          y={top(level)}
          right={x > width / 2}
          icon={iconOf(document, step)}
          playtime={playtime}
          isChosen={chosen === step.offer}
          moving={moving?.offer === step.offer ? moving : undefined}
          minutesAt={(clientX) => scale.minutes(clientX - line.current!.getBoundingClientRect().left)}
          onChoose={() => onChoose(step.offer)}
          onMove={onMove}
          onKeep={(units) => onKeep(step, units)}
        />
      ))}
    </div>
  );
}

/** By logarithms: equal factors are equally far apart. */
function scaleOf(ends: readonly [number, number], width: number) {
  const [low, high] = ends.map(Math.log) as [number, number];
  const room = width - 2 * MARGIN;
  const at = (value: number): number =>
    Math.min(
      width - MARGIN / 2,
      Math.max(MARGIN / 2, MARGIN + ((Math.log(Math.max(1, value)) - low) / (high - low)) * room),
    );
  return {
    at,
    minutes: (x: number): number => Math.exp(low + ((x - MARGIN) / room) * (high - low)),
    ticks: TICKS.filter((one) => one >= ends[0] && one <= ends[1]).map((one) => ({ minutes: one, x: at(one) })),
  };
}

/** Coins that would lie upon each other are piled up. */
function placedOf(steps: readonly Step[], at: (minutes: number) => number): Placed[] {
  const ends: number[] = [];
  return steps.map((step) => {
    const x = at(timeOrder(step.time));
    let level = ends.findIndex((end) => end + COIN <= x);
    if (level < 0) level = ends.length;
    ends[level] = x;
    return { step, x, level };
  });
}

/** In an order that no price changes: a coin that changes its place in the page lets go of pointer and focus. */
const byName = (placed: readonly Placed[]): Placed[] =>
  [...placed].sort((a, b) => a.step.name.localeCompare(b.step.name) || a.step.offer.localeCompare(b.step.offer));

/** A pointer that moved less has pressed, not pulled. */
const PRESS = 4;

function Coin({
  step,
  x,
  y,
  right,
  icon,
  playtime,
  isChosen,
  moving,
  minutesAt,
  onChoose,
  onMove,
  onKeep,
}: {
  step: Step;
  x: number;
  y: number;
  /** It lies in the right half: its words stand to the left. */
  right: boolean;
  icon: string;
  playtime: Playtime;
  isChosen: boolean;
  moving: Moving | undefined;
  minutesAt: (clientX: number) => number;
  onChoose: () => void;
  onMove: (moving: Moving | undefined) => void;
  onKeep: (units: number) => void;
}) {
  const [asset, units] = Object.entries(step.price)[0]!;
  const [isPointed, setPointed] = useState(false);
  const pressed = useRef<number>(undefined);
  const canMove = step.amountAt !== undefined && step.time.kind === 'earned';
  const words = `${basketText(playtime.labels, step.price)}: ${playingTimeShort(step.time)}`;
  const put = (next: number): void => onMove({ offer: step.offer, units: Math.max(1, next) });
  const onPointerMove = ({ clientX }: PointerEvent): void => {
    if (!canMove || pressed.current === undefined) return;
    if (!moving && Math.abs(clientX - pressed.current) < PRESS) return;
    const next = priceTaking(playtime.earnings, asset, minutesAt(clientX));
    if (next !== undefined) put(next);
  };
  const keep = (): void => {
    pressed.current = undefined;
    if (moving) onKeep(moving.units);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = KEYS[event.key];
    if (by !== undefined && canMove) {
      event.preventDefault();
      const next = unitsPreferred(units * by, by > 1 ? units : 0, 0.015);
      put(by < 1 ? Math.min(next, units - 1) : next);
    } else if (event.key === 'Enter') keep();
    else if (event.key === 'Escape' && moving) {
      event.stopPropagation();
      onMove(undefined);
    }
  };
  return (
    <button
      type="button"
      role="slider"
      aria-label={step.name}
      aria-valuenow={units}
      aria-valuetext={words}
      aria-readonly={!canMove}
      data-coin={step.offer}
      className={`absolute flex size-6 -translate-x-1/2 touch-none items-center justify-center rounded-full border text-sm leading-none ${isChosen || moving ? 'z-20 border-copper bg-tint-brass' : 'border-line bg-paper'} ${canMove ? 'cursor-ew-resize' : 'opacity-60'}`}
      style={{ left: x, top: y }}
      onPointerEnter={() => setPointed(true)}
      onPointerLeave={() => setPointed(false)}
      onFocus={onChoose}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        pressed.current = event.clientX;
        onChoose();
      }}
      onPointerMove={onPointerMove}
      onPointerUp={keep}
      onPointerCancel={() => {
        pressed.current = undefined;
        onMove(undefined);
      }}
      onBlur={keep}
      onKeyDown={onKeyDown}
    >
      <Icon icon={icon} />
      {(isPointed || isChosen || moving) && (
        <span
          className={`pointer-events-none absolute top-0 z-30 rounded-tag border border-line bg-sheet px-2 py-0.5 text-sm whitespace-nowrap text-ink shadow-sheet ${right ? 'right-7' : 'left-7'}`}
        >
          <strong>{step.name}</strong> {words}
        </span>
      )}
    </button>
  );
}

/** What a key makes of a price. */
const KEYS: Readonly<Record<string, number>> = {
  ArrowRight: 1.02,
  ArrowUp: 1.02,
  ArrowLeft: 1 / 1.02,
  ArrowDown: 1 / 1.02,
  PageUp: 1.2,
  PageDown: 1 / 1.2,
};

/** What prices take in playing time, everywhere in the console for the same persona: who that is, is kept on this machine. */
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useMemo, useSyncExternalStore } from 'react';
import { Link } from 'react-router';
import { unitsParse } from '../../core/amount/index.js';
import type { Basket } from '../../core/amount/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { Ladder, PersonaEarnings, PlayingTime } from '../../core/playtime/index.js';
import { playingTime } from '../../core/playtime/playingTime.js';
import { playingTimeShort, playingTimeText } from '../../core/playtime/words.js';
import { documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { useDraft } from '../api.js';
import { Desk } from '../simulate/desk/desk.js';
import { numberOf } from '../simulate/useDesk.js';
import { Choice } from './ui.js';

const CHOSEN = 'persona';
const listeners = new Set<() => void>();
function choose(persona: string): void {
  localStorage.setItem(CHOSEN, persona);
  for (const listener of listeners) listener();
}
const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** The persona that prices are told for, the first where none is chosen; undefined where there is none. */
function useChosen({ personas = {} }: EconomyDocument = EMPTY): string | undefined {
  const chosen = useSyncExternalStore(subscribe, () => localStorage.getItem(CHOSEN) ?? '');
  return Object.hasOwn(personas, chosen) ? chosen : Object.keys(personas)[0];
}
const EMPTY = {} as EconomyDocument;

/** Begun when it is first asked, and kept: every room asks it. */
const desk = new Desk();
const DAY_MS = 86_400_000;

export interface Playtime {
  labels: AssetLabels;
  earnings: PersonaEarnings;
  ladder: Ladder;
  /** Of units. */
  of: (basket: Readonly<Basket>) => PlayingTime;
  /** Of a basket as it is written; undefined where a formula says how much, or it is no amount. */
  ofWritten: (basket: unknown) => PlayingTime | undefined;
  /** In full, for the persona. */
  words: (time: PlayingTime) => string;
}

/** Of the draft; undefined until it is known, and where nobody is said to play. */
export function usePlaytime(): { playtime: Playtime | undefined; error: unknown } {
  const document = useDraft().data?.document;
  const persona = useChosen(document);
  const { data, error } = useQuery({
    queryKey: ['playtime', document && numberOf(document), persona],
    queryFn: async () => {
      // A large draft takes a while to be sent: the edit that it comes from is drawn first.
      await new Promise((go) => window.requestIdleCallback(go, { timeout: 500 }));
      // Whoever no scenario has begins to play today.
      const startMs = Math.floor(Date.now() / DAY_MS) * DAY_MS;
      return desk.now(document!, 'playtime', { persona: persona!, startMs });
    },
    enabled: document !== undefined && persona !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
    structuralSharing: false,
    placeholderData: keepPreviousData,
  });
  const playtime = useMemo(() => {
    if (!data || !document) return undefined;
    const { earnings, ladder } = data;
    const labels = documentLabels(document);
    const of = (basket: Readonly<Basket>): PlayingTime => playingTime(earnings, basket);
    const ofWritten = (basket: unknown): PlayingTime | undefined => {
      const units = unitsWritten(basket, labels);
      return units && of(units);
    };
    return {
      labels,
      earnings,
      ladder,
      of,
      ofWritten,
      words: (time: PlayingTime) => playingTimeText(time, earnings.name, labels),
    };
  }, [data, document]);
  return { playtime, error };
}

/** Smallest units of amounts that are written as numbers, of what there is. */
function unitsWritten(basket: unknown, labels: AssetLabels): Basket | undefined {
  if (typeof basket !== 'object' || basket === null) return undefined;
  const units: Basket = {};
  for (const [asset, amount] of Object.entries(basket as Record<string, unknown>)) {
    const label = labels(asset);
    const read = label && typeof amount === 'number' ? unitsParse(amount, label.decimals) : undefined;
    if (!read?.ok) return undefined;
    units[asset] = read.units;
  }
  return units;
}

/** Who plays: chosen once, for every room. */
export function PersonaChoice() {
  const document = useDraft().data?.document;
  const chosen = useChosen(document);
  if (!document) return null;
  if (chosen === undefined)
    return (
      <Link className="text-sm underline" to="/simulate" title="Prices are then told in playing time as well">
        Say who plays ...
      </Link>
    );
  return (
    <Choice
      label="Playing time for"
      value={chosen}
      options={Object.entries(document.personas ?? {}).map(([value, { name }]) => ({
        value,
        label: `time for a ${name}`,
      }))}
      onChange={choose}
    />
  );
}

/** Beside a price: `40 min, day 2`, in full when it is pointed at. */
export function PlayingTimeNote({ units, className = '' }: { units: Readonly<Basket>; className?: string }) {
  const { playtime } = usePlaytime();
  if (!playtime) return null;
  return <TimeNote time={playtime.of(units)} playtime={playtime} className={className} />;
}

export function TimeNote({
  time,
  playtime,
  className = '',
}: {
  time: PlayingTime;
  playtime: Playtime;
  className?: string;
}) {
  const words = playingTimeShort(time);
  return words === '' ? null : (
    <span className={`text-sm whitespace-nowrap text-soft ${className}`} title={playtime.words(time)}>
      {words}
    </span>
  );
}

/** The same in full, where there is room: of units, or of a basket as it is written. */
export function PlayingTimeLine({ units, written }: { units?: Readonly<Basket>; written?: unknown }) {
  const { playtime } = usePlaytime();
  const time = units ? playtime?.of(units) : playtime?.ofWritten(written);
  return playtime && time && time.kind !== 'nothing' ? (
    <p role="status" className="text-sm text-soft">
      {playtime.words(time)}
    </p>
  ) : null;
}

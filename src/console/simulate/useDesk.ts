/** Hooks over the threads that play beside the room. */
import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { EconomyDocument } from '../../core/document/index.js';
import { Desk, Superseded } from './desk/desk.js';
import type { PlayAsked } from './desk/orders.js';
import { HandRuns, REST_MS } from './handRuns.js';
import type { HandRun } from './handRuns.js';

/** Threads, and the document that they are asked about; `told` is another for another document. */
export interface DeskFor {
  desk: Desk;
  document: EconomyDocument;
  told: number;
}

/** Documents by number, since they are too large to be compared. */
const numbers = new WeakMap<EconomyDocument, number>();
let count = 0;
export function numberOf(document: EconomyDocument): number {
  const known = numbers.get(document) ?? ++count;
  numbers.set(document, known);
  return known;
}

export function useDesk(document: EconomyDocument | undefined): DeskFor | undefined {
  const [desk] = useState(() => new Desk());
  useEffect(() => () => desk.close(), [desk]);
  return useMemo(() => document && { desk, document, told: numberOf(document) }, [desk, document]);
}

const NOTHING: HandRun = { result: undefined, preliminary: true, going: undefined, problem: undefined };

interface HandAsked {
  document: EconomyDocument;
  play: PlayAsked;
}

/** The run of what stands on the bench. */
export function useHandRun(at: DeskFor | undefined, asked: PlayAsked | undefined, players: number): HandRun {
  const [run, setRun] = useState(NOTHING);
  const runs = useRef<HandRuns<HandAsked>>(undefined);
  const desk = at?.desk;
  useEffect(() => {
    if (!desk) return;
    const one = new HandRuns<HandAsked>({
      play: ({ document, play }, size, onProgress) =>
        desk.now(document, 'play', { ...play, players: size }, ({ done, of }) => onProgress(done / of)),
      isLeft: (error) => error instanceof Superseded,
      rest: (then) => {
        const timer = window.setTimeout(then, REST_MS);
        return () => window.clearTimeout(timer);
      },
      onChange: setRun,
    });
    runs.current = one;
    return () => one.close();
  }, [desk]);
  const key = JSON.stringify([at?.told, asked, players]);
  useEffect(() => {
    if (at && asked) runs.current?.want({ asked: { document: at.document, play: asked }, players, key });
    // What is asked is said by its key.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [key]);
  return run;
}

/** Something that is worked out once for a document and a question; the answer before stands until it is there. */
export const useDeskAnswer = <T>(
  at: DeskFor | undefined,
  name: string,
  asked: unknown,
  ask: (at: DeskFor) => Promise<T>,
  enabled = true,
) =>
  useQuery({
    queryKey: ['desk', name, at?.told, asked],
    queryFn: () => ask(at!),
    enabled: at !== undefined && enabled,
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
    structuralSharing: false,
    placeholderData: keepPreviousData,
  });

/** Runs of kept variants, in their turn. */
export const useVariantRuns = (at: DeskFor | undefined, asked: readonly PlayAsked[]) =>
  useQueries({
    queries: asked.map((one) => ({
      queryKey: ['desk', 'variant', at?.told, one],
      queryFn: () => at!.desk.later(at!.document, 'play', one),
      enabled: at !== undefined,
      staleTime: Infinity,
      gcTime: 60_000,
      retry: false,
      structuralSharing: false,
    })),
  });

/**
 * Runs that follow the hand: a move is answered by a few players at once, and never by more than one run behind it; when
 * the hand rests all of them play, which a newer move ends. No drawing here.
 */
import type { SimulationResult } from '../../core/simulation/index.js';

export interface HandRun {
  /** Undefined until the first is done. */
  result: SimulationResult | undefined;
  /** Fewer played than are asked for. */
  preliminary: boolean;
  /** Which part of the run of all players is done, from 0 to 1; undefined while there is none. */
  going: number | undefined;
  problem: string | undefined;
}

/** What is to be played, and by how many; `key` tells two apart. */
export interface Wanted<A> {
  asked: A;
  players: number;
  key: string;
}

/** How many play while the hand moves. */
export const SMALL = 200;
/** How long the hand must rest before all play, ms. */
export const REST_MS = 180;

interface Way<A> {
  /** Rejects with what `isLeft` knows where a newer run ended it. */
  play: (asked: A, players: number, onProgress: (part: number) => void) => Promise<SimulationResult>;
  isLeft: (error: unknown) => boolean;
  /** Calls back after the hand has rested, unless what it returns is called before. */
  rest: (then: () => void) => () => void;
  onChange: (run: HandRun) => void;
}

export class HandRuns<A> {
  private run: HandRun = { result: undefined, preliminary: true, going: undefined, problem: undefined };
  private latest: Wanted<A> | undefined;
  private isBusy = false;
  private stopRest = (): void => undefined;

  constructor(private readonly way: Way<A>) {}

  want(wanted: Wanted<A>): void {
    if (this.latest?.key === wanted.key) return;
    this.latest = wanted;
    this.stopRest();
    if (!this.isBusy) void this.few();
  }

  /** Nothing more is told. */
  close(): void {
    this.latest = undefined;
    this.stopRest();
  }

  private change(next: Partial<HandRun>): void {
    this.run = { ...this.run, ...next };
    this.way.onChange(this.run);
  }

  /** Again and again while the hand goes on. */
  private async few(): Promise<void> {
    this.isBusy = true;
    for (let now: Wanted<A> | undefined; this.latest && now !== this.latest;) {
      now = this.latest;
      const preliminary = now.players > SMALL;
      await this.played(now, Math.min(SMALL, now.players), preliminary);
    }
    this.isBusy = false;
    const { latest } = this;
    if (latest && latest.players > SMALL)
      this.stopRest = this.way.rest(() => {
        if (this.latest === latest && !this.isBusy) void this.played(latest, latest.players, false);
      });
  }

  private async played(wanted: Wanted<A>, players: number, preliminary: boolean): Promise<void> {
    const onProgress = (part: number): void => {
      if (!preliminary && this.latest === wanted && wanted.players > SMALL) this.change({ going: part });
    };
    try {
      const result = await this.way.play(wanted.asked, players, onProgress);
      // While the hand moves on, what comes in late still shows the way.
      if (this.latest && (preliminary || this.latest === wanted))
        this.change({ result, preliminary, going: preliminary ? 0 : undefined, problem: undefined });
    } catch (error) {
      if (!this.way.isLeft(error) && this.latest === wanted)
        this.change({ going: undefined, problem: (error as Error).message });
    }
  }
}

/**
 * What "source" means, for every operation that takes one: `draft`, a channel (as it is now or at another instant), or
 * the number of a release; with what is recorded of its rotations.
 */
import type { EconomyDocument } from '../core/document/index.js';
import type { Economy, RotationRecord } from '../core/economy/index.js';
import type { Channels } from './channels/channels.js';
import type { Draft } from './draft/draft.js';
import { instantOf } from './instant.js';
import { Problem, numberNotFound } from './problem.js';
import type { Compiled, Releases } from './releases/releases.js';
import type { Rotations } from './rotations/rotations.js';

/** An economy with the document that it was compiled from; `release` is null for the draft. */
export interface Source {
  economy: Economy;
  document: EconomyDocument;
  release: number | null;
}

/** With the compiled economy that it was made from. */
type Recorded = Compiled & { base: Economy };

export class Sources {
  private readonly recorded = new WeakMap<object, Map<number, Recorded>>();

  constructor(
    private readonly draft: Draft,
    private readonly releases: Releases,
    private readonly channels: Channels,
    private readonly rotations: Rotations,
    private readonly now: () => number,
  ) {}

  of(source = 'live', atMs?: number): Source {
    if (source === 'draft') {
      const { economy, document } = this.draft.current;
      return { economy: economyRecorded(economy, this.rotations.records()), document, release: null };
    }
    if (!/^\d+$/.test(source)) return this.live(source, atMs);
    const number = Number(source);
    if (!this.releases.economy(number)) throw numberNotFound('release', number, this.releases.latest());
    return this.withRecords(number, this.rotations.records());
  }

  /** The same for an instant as it is written; without an offset it is in the zone of what is asked about now. */
  at(source: string | undefined, written: string | undefined): Source & { atMs: number } {
    if (written === undefined || written === 'now') return { ...this.of(source), atMs: this.now() };
    const atMs = instantOf(written, this.of(source).economy.zone, this.now());
    return { ...this.of(source, atMs), atMs };
  }

  /** What a channel points at now, or at another instant. Throws a problem that says what to do when nothing is published there. */
  live(channel = 'live', atMs?: number): Compiled {
    const move = this.channels.current(channel, atMs);
    if (!move)
      throw new Problem(
        'nothing-published',
        this.channels.exists(channel) || channel === 'live'
          ? `The channel "${channel}" points at no release ${atMs === undefined ? 'yet' : 'at that time'}. Publish the draft first.`
          : `There is no channel "${channel}". Known: ${this.channels
              .views()
              .map(({ name }) => name)
              .join(', ')}.`,
      );
    this.channels.read(channel);
    return this.withRecords(move.release, this.rotations.records(move));
  }

  /** Makes ready what players ask about: the releases that channels point at, with what is recorded of them. */
  async warm(): Promise<void> {
    for (const { name } of this.channels.views()) {
      const move = this.channels.current(name);
      if (!move) continue;
      await this.releases.prepare(move.release);
      this.rotations.records(move);
    }
  }

  /** Whether anything is ranked on any channel. */
  hasRankings(): boolean {
    return this.channels
      .views()
      .some(({ name }) => this.channels.current(name) && this.live(name).economy.rankings.size > 0);
  }

  /** The same object until anything of it changes. */
  private withRecords(release: number, records: ReadonlyMap<string, RotationRecord>): Compiled {
    const byRelease = this.recorded.get(records) ?? new Map<number, Recorded>();
    this.recorded.set(records, byRelease);
    const { document, economy: base } = this.releases.economy(release)!;
    const known = byRelease.get(release);
    if (known?.base === base) return known;
    const made = { release, document, economy: economyRecorded(base, records), base };
    byRelease.set(release, made);
    return made;
  }
}

/** The economy with what is recorded of its rotations. */
const economyRecorded = (economy: Economy, records: ReadonlyMap<string, RotationRecord>): Economy =>
  records.size === 0 ? economy : { ...economy, rotationRecords: records };

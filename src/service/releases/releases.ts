/** Published releases, held compiled, and publishing. */
import type { Published, ReleaseView } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { economyCompile } from '../../core/economy/index.js';
import { MOST_PROBLEMS } from '../../core/issue/index.js';
import type { Economy } from '../../core/economy/index.js';
import type { Channels } from '../channels/channels.js';
import type { Draft } from '../draft/draft.js';
import type { Caches } from '../held.js';
import { Problem, numberNotFound } from '../problem.js';
import type { ReleaseStore, StoredRelease } from '../store/releaseStore.js';
import type { Stream } from '../stream.js';
import type { Trail } from '../store/trail.js';

export interface Compiled {
  release: number;
  document: EconomyDocument;
  economy: Economy;
}

export class Releases {
  private readonly compiled = new Map<number, Compiled>();

  constructor(
    caches: Caches,
    private readonly store: ReleaseStore,
  ) {
    // An undone publication gives its number back; one that was committed never changes.
    caches.onForget(
      () => this.compiled.clear(),
      () => undefined,
    );
  }

  /** The number of the last one; 0 where there is none. */
  latest(): number {
    return this.store.list(Number.MAX_SAFE_INTEGER, 1)[0]?.number ?? 0;
  }

  list(cursor: number, limit: number): ReleaseView[] {
    return this.store.list(cursor, limit);
  }
  get(number: number): StoredRelease | undefined {
    return this.store.get(number);
  }

  /** Throws a problem where there is no such release. */
  mustExist(number: number): void {
    if (!this.store.exists(number)) throw numberNotFound('release', number, this.latest());
  }

  /** The compiled economy of a release; releases never change, so it is kept. */
  economy(number: number): Compiled | undefined {
    const known = this.compiled.get(number);
    if (known) return known;
    const document = this.store.get(number)?.document;
    if (!document) return undefined;
    const compiled = { release: number, document, economy: economyCompile(document).economy };
    this.compiled.set(number, compiled);
    return compiled;
  }
}

export interface Publishing {
  note: string;
  channel: string;
  who: string;
  /** The revision that the caller looked at; any where they do not say. */
  revision: number | undefined;
  /** From when on the channel points at it; at once where it is undefined. */
  atMs: number | undefined;
}

/** Inside the writer only. Publishes the draft and points the channel at it; errors of the audit refuse it. */
export function releasePublish(
  parts: { draft: Draft; store: ReleaseStore; channels: Channels; trail: Trail; stream: Stream; now(): number },
  { note, channel, who, revision, atMs }: Publishing,
): Published {
  const { draft, store, channels, trail, stream, now } = parts;
  const { document, revision: draftRevision } = draft.current;
  if (revision !== undefined) draft.startedFrom(revision, (base) => base);
  if (draftRevision === 0) throw new Problem('nothing-published', 'The draft is empty: save something first.');
  const errors = draft.findings().filter(({ severity }) => severity === 'error');
  const told = errors.length > MOST_PROBLEMS ? ` The first ${MOST_PROBLEMS} are told here; the audit has all.` : '';
  if (errors.length > 0)
    throw new Problem(
      'audit-errors',
      `${errors.length} ${errors.length === 1 ? 'error stands' : 'errors stand'} against publishing.${told}`,
      { findings: errors.slice(0, MOST_PROBLEMS) },
    );
  // Asked before anything is written: what is refused leaves nothing behind.
  channels.timeAhead(atMs);
  const publishedMs = now();
  const number = store.add({ document, note, draftRevision, publishedMs, publishedBy: who });
  trail.add(who, 'release.publish', `release ${number}`, note);
  const move = channels.move(channel, number, who, note, atMs);
  stream.tell('release.published', `release ${number}`, { number, note, channel, who });
  const { coming } = channels.views().find(({ name }) => name === channel)!;
  return {
    number,
    note,
    channel,
    publishedMs,
    fromMs: move.atMs,
    scheduled: move.scheduled,
    coming: coming.filter(({ move: id }) => id !== move.id),
  };
}

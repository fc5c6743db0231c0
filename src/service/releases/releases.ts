/** Published releases, held compiled, and publishing. */
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { LRUCache } from 'lru-cache';
import type { Published, ReleaseView } from '../../contract/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { documentShelfRules, economyCompile, economyCompileSteps } from '../../core/economy/index.js';
import { MOST_PROBLEMS } from '../../core/issue/index.js';
import type { Economy, ShelfRule } from '../../core/economy/index.js';
import { MOST_CHANNELS } from '../channels/channels.js';
import type { Channels } from '../channels/channels.js';
import type { DraftCases } from '../draft/cases.js';
import type { Draft } from '../draft/draft.js';
import type { Caches } from '../held.js';
import { Problem, numberNotFound } from '../problem.js';
import { inSlices } from '../slices.js';
import type { ReleaseStore, StoredRelease } from '../store/releaseStore.js';
import type { Writer } from '../store/writer.js';
import type { Stream } from '../stream.js';
import type { Trail } from '../store/trail.js';

export interface Compiled {
  release: number;
  document: EconomyDocument;
  economy: Economy;
}

/** What channels point at is asked about all the time, what comes on them next, and others now and then. */
const MOST_COMPILED = 2 * MOST_CHANNELS;
const MOST_RULES = 100;

export class Releases {
  private readonly compiled = new LRUCache<number, Compiled>({ max: MOST_COMPILED });
  private readonly rules = new LRUCache<number, Map<string, ShelfRule>>({ max: MOST_RULES });

  constructor(
    caches: Caches,
    private readonly store: ReleaseStore,
  ) {
    // An undone publication gives its number back; one that was committed never changes.
    caches.onForget(
      () => this.forgetUndone(),
      () => undefined,
    );
  }

  private forgetUndone(): void {
    const latest = this.latest();
    for (const held of [this.compiled, this.rules])
      for (const number of [...held.keys()]) if (number > latest) held.delete(number);
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
    return this.hold({ release: number, document, economy: economyCompile(document).economy });
  }

  hold(compiled: Compiled): Compiled {
    this.compiled.set(compiled.release, compiled);
    return compiled;
  }

  /** Compiles a release before anybody asks for it, so that nobody waits when a channel points at it. Throws where there is none. */
  async prepare(number: number): Promise<void> {
    if (this.compiled.get(number)) return;
    const document = this.store.get(number)?.document;
    if (!document) throw numberNotFound('release', number, this.latest());
    this.hold({ release: number, document, economy: await inSlices(economyCompileSteps(document)) });
  }

  /** What the shelves of a release have on show, without compiling the rest of it. */
  shelfRules(number: number): ReadonlyMap<string, ShelfRule> {
    const known = this.rules.get(number);
    if (known) return known;
    const document = this.compiled.peek(number)?.document ?? this.store.get(number)!.document;
    const rules = documentShelfRules(document);
    this.rules.set(number, rules);
    return rules;
  }
}

export interface Publishing {
  note: string;
  channel: string;
  /** The revision of the draft that was found fit to be published. */
  revision: number;
  /** Cases that do not hold in it, by id. */
  brokenCases: string[];
  /** From when on the channel points at it; at once where it is undefined. */
  atMs: number | undefined;
}

/**
 * The revision of the draft where it may be published, and cases that do not hold in it. Throws where the caller looked
 * at another one, errors of the audit stand against it, or cases do and the economy says that they shall.
 */
export function revisionFit(
  { draft, draftCases }: { draft: Draft; draftCases: DraftCases },
  lookedAt: number | undefined,
): Pick<Publishing, 'revision' | 'brokenCases'> {
  const { revision } = draft.current;
  if (lookedAt !== undefined) draft.startedFrom(lookedAt, (base) => base);
  if (revision === 0) throw new Problem('nothing-published', 'The draft is empty: save something first.');
  const errors = draft.findings().filter(({ severity }) => severity === 'error');
  const told = errors.length > MOST_PROBLEMS ? ` The first ${MOST_PROBLEMS} are told here; the audit has all.` : '';
  if (errors.length > 0)
    throw new Problem(
      'audit-errors',
      `${errors.length} ${errors.length === 1 ? 'error stands' : 'errors stand'} against publishing.${told}`,
      { findings: errors.slice(0, MOST_PROBLEMS) },
    );
  const broken = draftCases.results().filter(({ state }) => state !== 'holds');
  const mayBe = draft.current.document.audit?.brokenCases === 'warn';
  if (broken.length > 0 && !mayBe)
    throw new Problem(
      'broken-cases',
      `${broken.length} ${broken.length === 1 ? 'case does' : 'cases do'} not hold: ${namesText(broken)}. Mend the draft, or change what must hold.`,
      { cases: broken.slice(0, MOST_PROBLEMS) },
    );
  return { revision, brokenCases: broken.map(({ id }) => id) };
}

const MOST_NAMED = 5;
const namesText = (cases: readonly { name: string }[]): string =>
  cases
    .slice(0, MOST_NAMED)
    .map(({ name }) => name)
    .join(', ') + (cases.length > MOST_NAMED ? ` and ${cases.length - MOST_NAMED} more` : '');

interface Parts {
  writer: Writer;
  draft: Draft;
  store: ReleaseStore;
  releases: Releases;
  channels: Channels;
  trail: Trail;
  stream: Stream;
  now(): number;
}

/** Publishes the draft and points the channel at it: compiled before the write transaction, so that its first reader need not wait. */
export async function releasePublish(parts: Parts, publishing: Publishing, who: string): Promise<Published> {
  const { document } = parts.draft.current;
  const economy = await inSlices(economyCompileSteps(document));
  const packed = await promisify(gzip)(JSON.stringify(document));
  return parts.writer.submit(() => {
    // The same revision is the same document: it is found out here whether anybody has saved since.
    parts.draft.startedFrom(publishing.revision, (base) => base);
    const published = releaseWrite(parts, publishing, who, packed);
    parts.releases.hold({ release: published.number, document, economy });
    return published;
  });
}

/** Inside the writer only. */
function releaseWrite(
  { store, channels, trail, stream, now }: Parts,
  { note, channel, revision, brokenCases, atMs }: Publishing,
  who: string,
  packed: Buffer,
): Published {
  // Asked before anything is written: what is refused leaves nothing behind.
  channels.mayMove(channel, atMs);
  const publishedMs = now();
  const number = store.add({ packed, note, draftRevision: revision, publishedMs, publishedBy: who });
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
    brokenCases,
  };
}

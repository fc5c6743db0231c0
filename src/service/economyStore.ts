/** The draft, the releases and the channels. Published releases are held compiled. */
import { and, desc, eq, lt } from 'drizzle-orm';
import type { Operation } from 'fast-json-patch';
import fastJsonPatch from 'fast-json-patch';
import { economyAudit, findingCounts } from '../core/audit/index.js';
import type { Finding } from '../core/audit/index.js';
import { documentChanges, documentValidate } from '../core/document/index.js';
import { economyCompile, issueBlocksSaving } from '../core/economy/index.js';
import type { Change, EconomyDocument } from '../core/document/index.js';
import type { Economy, RotationRecord } from '../core/economy/index.js';
import type { DraftSaved, DraftView, Published } from '../contract/index.js';
import { isDeeperThan } from '../core/schema/index.js';
import { economyRecorded } from './channelStore.js';
import type { ChannelStore } from './channelStore.js';
import { Problem, invalid } from './problem.js';
import type { Database } from './store/database.js';
import type { PictureStore } from './store/pictureStore.js';
import { draftRevisions, releases } from './store/tables.js';
import type { Stream } from './stream.js';
import type { Trail } from './trail.js';

export interface Compiled {
  release: number;
  document: EconomyDocument;
  economy: Economy;
}

/** More changes are not told of one save. */
const MOST_TOLD = 20;

/** With the compiled economy that it was made from. */
type Recorded = Compiled & { base: Economy };

/** Levels of nesting that a document may have: more is refused before anything walks through it. */
const MOST_DEPTH = 64;

export class EconomyStore {
  private readonly compiled = new Map<number, Compiled>();
  private draftHeld: (DraftView & { economy: Economy }) | undefined;
  private channels!: ChannelStore;
  private readonly recorded = new WeakMap<object, Map<number, Recorded>>();
  private audited: { revision: number; pictures: number; findings: Finding[] } | undefined;

  constructor(
    private readonly database: Database,
    private readonly pictures: PictureStore,
    private readonly trail: Trail,
    private readonly stream: Stream,
    private readonly now: () => number,
  ) {}

  /** Channels read releases, and releases are published on channels: the two meet after both are made. */
  use(channels: ChannelStore): void {
    this.channels = channels;
  }

  /** Drops what is held. An undone publication gives its number back, so compiled releases go too. */
  forget(): void {
    this.draftHeld = undefined;
    this.audited = undefined;
    this.compiled.clear();
  }

  // --- draft

  draft(): DraftView & { economy: Economy } {
    if (this.draftHeld) return this.draftHeld;
    const row = this.database.db.select().from(draftRevisions).orderBy(desc(draftRevisions.revision)).limit(1).get();
    const document = row ? (JSON.parse(row.document) as EconomyDocument) : { name: 'New economy', timeZone: 'UTC' };
    return (this.draftHeld = {
      revision: row?.revision ?? 0,
      document,
      savedMs: row?.savedMs ?? 0,
      savedBy: row?.savedBy ?? 'nobody',
      economy: economyCompile(document).economy,
    });
  }

  /** What the audit says of the draft; worked out once for each revision. */
  draftFindings(): Finding[] {
    const { revision, document } = this.draft();
    const pictures = this.pictures.version;
    if (this.audited?.revision !== revision || this.audited.pictures !== pictures)
      this.audited = { revision, pictures, findings: economyAudit(document, { pictures: this.pictures.names() }) };
    return this.audited.findings;
  }

  revisions(cursor: number, limit: number) {
    const { revision, savedMs, savedBy, why } = draftRevisions;
    return this.database.db
      .select({ revision, savedMs, savedBy, why })
      .from(draftRevisions)
      .where(lt(revision, cursor))
      .orderBy(desc(revision))
      .limit(limit)
      .all();
  }

  /** Inside the writer only. Refuses a stale save with what changed in between, and a document that cannot be read. */
  saveDraft(raw: unknown, from: number, who: string, why: string): DraftSaved {
    const current = this.draft();
    if (from !== current.revision) throw this.stale(from, current, () => raw as EconomyDocument);
    const document = documentReadable(raw);
    const revision = current.revision + 1;
    const savedMs = this.now();
    this.database.db
      .insert(draftRevisions)
      .values({ revision, document: JSON.stringify(document), savedMs, savedBy: who, why })
      .run();
    this.trail.add(who, 'draft.save', `revision ${revision}`, why);
    const changed = documentChanges(current.document, document);
    this.stream.tell('draft.saved', `revision ${revision}`, {
      revision,
      who,
      why,
      changes: changed.slice(0, MOST_TOLD).map(({ pointer, words }) => ({ pointer, words })),
      more: Math.max(0, changed.length - MOST_TOLD),
    });
    this.draftHeld = { revision, document, savedMs, savedBy: who, economy: economyCompile(document).economy };
    return { revision, savedMs, savedBy: who, findings: findingCounts(this.draftFindings()) };
  }

  /** Inside the writer only. `operations` are RFC 6902. */
  patchDraft(operations: Operation[], from: number, who: string, why: string): DraftSaved {
    const current = this.draft();
    if (from !== current.revision)
      throw this.stale(
        from,
        current,
        (base) => fastJsonPatch.applyPatch(structuredClone(base), structuredClone(operations)).newDocument,
      );
    let patched: unknown;
    try {
      patched = fastJsonPatch.applyPatch(structuredClone(current.document), operations, true).newDocument;
    } catch (error) {
      const { name, index, message } = error as { name?: string; index?: number; message: string };
      const reason = message.split('\n')[0]!;
      throw invalid('The patch cannot be applied; the draft stays as it was.', [
        {
          code: 'wrong-value',
          pointer: `/${index ?? 0}`,
          message: `${name ?? 'patch'}: ${reason}`,
          fix: 'Check the operation and its path against the draft.',
        },
      ]);
    }
    return this.saveDraft(patched, from, who, why);
  }

  /** Inside the writer only. Saves an earlier revision anew: nothing of the history is lost. */
  undoTo(revision: number, from: number, who: string): DraftSaved {
    return this.saveDraft(this.revision(revision).document, from, who, `back to revision ${revision}`);
  }

  /** A saved state of the draft with who saved it and why. */
  revision(revision: number) {
    const row = this.database.db.select().from(draftRevisions).where(eq(draftRevisions.revision, revision)).get();
    if (!row) throw new Problem('not-found', `There is no revision ${revision} of the draft.`);
    return { ...row, document: JSON.parse(row.document) as EconomyDocument };
  }

  /** A three-way view: what has changed since the revision that the caller started from, what they wanted to change, and where the two meet. */
  private stale(from: number, current: DraftView, wanted: (base: EconomyDocument) => EconomyDocument): Problem {
    const base = from >= 1 && from < current.revision ? this.revision(from).document : undefined;
    const theirs = base ? documentChanges(base, current.document) : [];
    return new Problem(
      'stale',
      `You started from revision ${from}; ${current.savedBy} has since saved revision ${current.revision}. Look at what changed, then save again from revision ${current.revision}.`,
      {
        revision: current.revision,
        savedBy: current.savedBy,
        savedMs: current.savedMs,
        changes: theirs,
        ...(base ? mineAgainst(base, theirs, wanted) : {}),
      },
    );
  }

  // --- releases and channels

  /** Inside the writer only. Publishes the draft and points the channel at it, at once or from a set time; errors of the audit refuse it. */
  publish(from: number | undefined, note: string, channel: string, who: string, atMs?: number): Published {
    const draft = this.draft();
    if (from !== undefined && from !== draft.revision) throw this.stale(from, draft, (base) => base);
    const findings = this.draftFindings().filter(({ severity }) => severity === 'error');
    if (draft.revision === 0) throw new Problem('nothing-published', 'The draft is empty: save something first.');
    if (findings.length > 0)
      throw new Problem(
        'audit-errors',
        `${findings.length} ${findings.length === 1 ? 'error stands' : 'errors stand'} against publishing.`,
        { findings },
      );
    this.channels.timeAhead(atMs);
    const publishedMs = this.now();
    const { number } = this.database.db
      .insert(releases)
      .values({
        document: JSON.stringify(draft.document),
        note,
        draftRevision: draft.revision,
        publishedMs,
        publishedBy: who,
      })
      .returning({ number: releases.number })
      .get();
    this.trail.add(who, 'release.publish', `release ${number}`, note);
    const move = this.channels.move(channel, number, who, note, atMs);
    this.stream.tell('release.published', `release ${number}`, { number, note, channel, who });
    const coming = this.channels.views().find(({ name }) => name === channel)!.coming;
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

  releases(cursor: number, limit: number) {
    const { number, note, draftRevision, publishedMs, publishedBy } = releases;
    return this.database.db
      .select({ number, note, draftRevision, publishedMs, publishedBy })
      .from(releases)
      .where(and(lt(number, cursor)))
      .orderBy(desc(number))
      .limit(limit)
      .all();
  }

  releaseRow(number: number) {
    return this.database.db.select().from(releases).where(eq(releases.number, number)).get();
  }

  /** The compiled economy of a release; releases never change, so it is kept. */
  release(number: number): Compiled | undefined {
    const known = this.compiled.get(number);
    if (known) return known;
    const row = this.releaseRow(number);
    if (!row) return undefined;
    const document = JSON.parse(row.document) as EconomyDocument;
    const compiled = { release: number, document, economy: economyCompile(document).economy };
    this.compiled.set(number, compiled);
    return compiled;
  }

  /** What a channel points at now, or at another instant, with what is recorded of its rotations. Throws a problem that says what to do when nothing is published there. */
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
    return this.withRecords(move.release, this.channels.rotationRecords(move));
  }

  /** The draft as it would be met, with what is recorded of rotations. */
  draftRecorded(): Economy {
    return economyRecorded(this.draft().economy, this.channels.rotationRecords());
  }

  /** A release on its own, as no channel may point at it. */
  releaseRecorded(number: number): Compiled | undefined {
    return this.release(number) && this.withRecords(number, this.channels.rotationRecords());
  }

  private withRecords(release: number, records: ReadonlyMap<string, RotationRecord>): Compiled {
    const byRelease = this.recorded.get(records) ?? new Map<number, Recorded>();
    this.recorded.set(records, byRelease);
    const { document, economy: base } = this.release(release)!;
    const known = byRelease.get(release);
    if (known?.base === base) return known;
    const made = { release, document, economy: economyRecorded(base, records), base };
    byRelease.set(release, made);
    return made;
  }

  releaseDocument(number: number): EconomyDocument {
    return JSON.parse(this.releaseRow(number)!.document) as EconomyDocument;
  }
}

/** What the caller wanted to change, and where that meets what others did: the same place, or one within the other. */
function mineAgainst(
  base: EconomyDocument,
  theirs: readonly Change[],
  wanted: (base: EconomyDocument) => EconomyDocument,
): { mine?: Change[]; clashes?: string[] } {
  let mine: Change[];
  try {
    mine = documentChanges(base, documentReadable(wanted(base)));
  } catch {
    // What cannot be read is told when it is saved from the right revision.
    return {};
  }
  const within = (inner: string, outer: string) => inner === outer || inner.startsWith(`${outer}/`);
  const clashes = mine
    .map(({ pointer }) => pointer)
    .filter((pointer) => theirs.some((one) => within(one.pointer, pointer) || within(pointer, one.pointer)));
  return { mine, clashes };
}

/** Throws every issue that keeps even a draft from holding the document. */
function documentReadable(raw: unknown): EconomyDocument {
  if (isDeeperThan(raw, MOST_DEPTH))
    throw invalid('The document cannot be read; the draft stays as it was.', [
      { code: 'too-deep', pointer: '', message: `more than ${MOST_DEPTH} levels deep`, fix: 'Flatten it.' },
    ]);
  const checked = documentValidate(raw);
  if (!checked.ok) throw invalid('The document cannot be read; the draft stays as it was.', checked.issues);
  const blocking = economyCompile(checked.value).issues.filter(issueBlocksSaving);
  if (blocking.length > 0) throw invalid('The document cannot be read; the draft stays as it was.', blocking);
  return checked.value;
}

/** The draft, the releases and the channels. Published releases are held compiled. */
import { and, desc, eq, lt } from 'drizzle-orm';
import type { Operation } from 'fast-json-patch';
import fastJsonPatch from 'fast-json-patch';
import { economyAudit, findingCounts } from '../core/audit/index.js';
import type { Finding } from '../core/audit/index.js';
import { documentChanges, documentValidate, economyCompile, issueBlocksSaving } from '../core/economy/index.js';
import type { Economy, EconomyDocument } from '../core/economy/index.js';
import type { DraftSaved, DraftView, Published } from '../core/wire/index.js';
import { Problem, invalid } from './problem.js';
import type { Database } from './store/database.js';
import type { PictureStore } from './store/pictureStore.js';
import { channels, draftRevisions, releases } from './store/tables.js';
import type { Trail } from './trail.js';

export interface Compiled {
  release: number;
  economy: Economy;
}

/** Levels of nesting that a document may have: more is refused before anything walks through it. */
const MOST_DEPTH = 64;

export class EconomyStore {
  private readonly compiled = new Map<number, Compiled>();
  private draftHeld: (DraftView & { economy: Economy }) | undefined;
  private channelsHeld: Map<string, number> | undefined;
  private audited: { revision: number; pictures: number; findings: Finding[] } | undefined;

  constructor(
    private readonly database: Database,
    private readonly pictures: PictureStore,
    private readonly trail: Trail,
    private readonly now: () => number,
  ) {}

  /** Drops what is held. An undone publication gives its number back, so compiled releases go too. */
  forget(): void {
    this.draftHeld = undefined;
    this.audited = undefined;
    this.channelsHeld = undefined;
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
    if (from !== current.revision) throw this.stale(from, current);
    const document = documentReadable(raw);
    const revision = current.revision + 1;
    const savedMs = this.now();
    this.database.db
      .insert(draftRevisions)
      .values({ revision, document: JSON.stringify(document), savedMs, savedBy: who, why })
      .run();
    this.trail.add(who, 'draft.save', `revision ${revision}`, why);
    this.draftHeld = { revision, document, savedMs, savedBy: who, economy: economyCompile(document).economy };
    return { revision, savedMs, savedBy: who, findings: findingCounts(this.draftFindings()) };
  }

  /** Inside the writer only. `operations` are RFC 6902. */
  patchDraft(operations: Operation[], from: number, who: string, why: string): DraftSaved {
    const current = this.draft();
    if (from !== current.revision) throw this.stale(from, current);
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

  private stale(from: number, current: DraftView): Problem {
    const base = this.database.db.select().from(draftRevisions).where(eq(draftRevisions.revision, from)).get();
    const changes = base ? documentChanges(JSON.parse(base.document) as EconomyDocument, current.document) : [];
    return new Problem(
      'stale',
      `You started from revision ${from}; ${current.savedBy} has since saved revision ${current.revision}. Look at what changed, then save again from revision ${current.revision}.`,
      {
        revision: current.revision,
        savedBy: current.savedBy,
        savedMs: current.savedMs,
        changes,
      },
    );
  }

  // --- releases and channels

  /** Inside the writer only. Publishes the draft and points the channel at it; errors of the audit refuse it. */
  publish(from: number | undefined, note: string, channel: string, who: string): Published {
    const draft = this.draft();
    if (from !== undefined && from !== draft.revision) throw this.stale(from, draft);
    const findings = this.draftFindings().filter(({ severity }) => severity === 'error');
    if (draft.revision === 0) throw new Problem('nothing-published', 'The draft is empty: save something first.');
    if (findings.length > 0)
      throw new Problem(
        'audit-errors',
        `${findings.length} ${findings.length === 1 ? 'error stands' : 'errors stand'} against publishing.`,
        { findings },
      );
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
    this.pointChannel(channel, number, who);
    return { number, note, channel, publishedMs };
  }

  /** Inside the writer only. */
  pointChannel(name: string, release: number, who: string): void {
    if (!this.releaseRow(release)) throw new Problem('not-found', `There is no release ${release}.`);
    const row = { release, changedMs: this.now(), changedBy: who };
    this.database.db
      .insert(channels)
      .values({ name, ...row })
      .onConflictDoUpdate({ target: channels.name, set: row })
      .run();
    this.trail.add(who, 'channel.point', name, `release ${release}`);
    this.channelsHeld = undefined;
  }

  channels(): (typeof channels.$inferSelect)[] {
    return this.database.db.select().from(channels).orderBy(channels.name).all();
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
    const compiled = { release: number, economy: economyCompile(JSON.parse(row.document) as EconomyDocument).economy };
    this.compiled.set(number, compiled);
    return compiled;
  }

  /** What a channel points at. Throws a problem that says what to do when nothing is published there. */
  live(channel = 'live'): Compiled {
    this.channelsHeld ??= new Map(this.channels().map(({ name, release }) => [name, release]));
    const number = this.channelsHeld.get(channel);
    if (number === undefined)
      throw new Problem('nothing-published', `The channel "${channel}" points at no release. Publish the draft first.`);
    return this.release(number)!;
  }
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

/** Walks with a list instead of recursion, so that no depth of input can exhaust the stack. */
export function isDeeperThan(value: unknown, most: number): boolean {
  const open: { value: unknown; depth: number }[] = [{ value, depth: 0 }];
  for (let next = open.pop(); next; next = open.pop()) {
    if (typeof next.value !== 'object' || next.value === null) continue;
    if (next.depth >= most) return true;
    for (const inner of Object.values(next.value)) open.push({ value: inner, depth: next.depth + 1 });
  }
  return false;
}

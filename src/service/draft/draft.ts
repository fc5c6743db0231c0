/**
 * The working copy. A save is prepared before the write transaction: the document is read, compiled and audited there,
 * once; what is left for the transaction is to see that nobody saved in between, and to write.
 */
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import type { DraftSaved } from '../../contract/index.js';
import { economyAudit, findingCounts } from '../../core/audit/index.js';
import type { Finding } from '../../core/audit/index.js';
import { documentChanges, documentValidate, valueAt } from '../../core/document/index.js';
import { pointerSegments } from '../../core/issue/index.js';
import type { Change, EconomyDocument } from '../../core/document/index.js';
import { economyCompile, issueBlocksSaving } from '../../core/economy/index.js';
import type { Compilation, Economy } from '../../core/economy/index.js';
import { isDeeperThan } from '../../core/schema/index.js';
import type { Caches, Held } from '../held.js';
import { Problem, invalid, numberNotFound } from '../problem.js';
import type { DraftStore, SavedDraft } from '../store/draftStore.js';
import type { PictureStore } from '../store/pictureStore.js';
import { spliceBetween } from '../store/splice.js';
import type { Splice } from '../store/splice.js';
import type { Stream } from '../stream.js';
import type { Trail } from '../store/trail.js';

/** More changes are not told of one save. */
const MOST_TOLD = 20;

/** Levels of nesting that a document may have: more is refused before anything walks through it. */
const MOST_DEPTH = 64;

/** A document that may be saved, with all that a save needs to know of it. It can be sent from one thread to another. */
export interface Prepared {
  /** The revision that it started from. */
  from: number;
  /** The document as JSON, and what that changes of the text before. */
  text: string;
  splice: Splice;
  /** From what was there when it was prepared. */
  changes: Change[];
  audited: Audited;
  hasCases: boolean;
}

interface Audited {
  /** The pictures when it was audited: what is missing may be there since. */
  pictures: string;
  findings: Finding[];
}

/** A document by its text: read and compiled when that is asked for, and only once. */
class Working {
  constructor(
    readonly text: string,
    private made: { document?: EconomyDocument; compilation?: Compilation } = {},
  ) {}

  get document(): EconomyDocument {
    return (this.made.document ??= JSON.parse(this.text) as EconomyDocument);
  }
  get compilation(): Compilation {
    return (this.made.compilation ??= economyCompile(this.document));
  }
}

/** The draft as it stands. */
export class Current {
  constructor(
    readonly revision: number,
    readonly savedMs: number,
    readonly savedBy: string,
    readonly working: Working,
  ) {}

  get document(): EconomyDocument {
    return this.working.document;
  }
  get economy(): Economy {
    return this.working.compilation.economy;
  }
}

const EMPTY = JSON.stringify({ name: 'New economy', timeZone: 'UTC' } satisfies EconomyDocument);

export class Draft {
  private readonly held: Held<Current>;
  private readonly audited: Held<Audited>;
  /** What was prepared last: when it is saved, by whichever thread, it need not be worked out again. */
  private last: { working: Working; audited: Audited } | undefined;

  constructor(
    caches: Caches,
    private readonly store: DraftStore,
    private readonly pictures: PictureStore,
    private readonly trail: Trail,
    private readonly stream: Stream,
    private readonly now: () => number,
  ) {
    this.audited = caches.held(
      () => this.audit(this.held.get().working),
      () => this.held.get().revision === this.store.latestRevision(),
    );
    this.held = caches.held(
      () => this.read(),
      ({ revision }) => revision === this.store.latestRevision(),
    );
  }

  private read(): Current {
    const saved = this.store.latest();
    const text = saved?.document ?? EMPTY;
    const working = this.last?.working.text === text ? this.last.working : new Working(text);
    return new Current(saved?.revision ?? 0, saved?.savedMs ?? 0, saved?.savedBy ?? 'nobody', working);
  }

  get current(): Current {
    return this.held.get();
  }

  /** What the audit says; worked out once for each revision, and again when the pictures change. */
  findings(): Finding[] {
    if (this.audited.get().pictures !== this.pictures.key) this.audited.drop();
    return this.audited.get().findings;
  }

  private audit(working: Working): Audited {
    const pictures = this.pictures.key;
    if (this.last?.working === working && this.last.audited.pictures === pictures) return this.last.audited;
    const { document, compilation } = working;
    return { pictures, findings: economyAudit(document, { pictures: this.pictures.names(), compilation }) };
  }

  revisions(cursor: number, limit: number): Omit<SavedDraft, 'document'>[] {
    return this.store.list(cursor, limit);
  }

  /** A saved state of the draft with who saved it and why. */
  revision(number: number): SavedDraft {
    const saved = this.store.get(number);
    if (!saved) throw numberNotFound('revision', number, this.held.get().revision);
    return saved;
  }

  // --- saving

  /** Throws where a document cannot be read, and so could not be saved; nothing is kept. */
  saveable(raw: unknown): { document: EconomyDocument; compilation: Compilation } {
    const document = documentReadable(raw);
    const compilation = economyCompile(document);
    const blocking = compilation.issues.filter(issueBlocksSaving);
    if (blocking.length > 0) throw invalid(UNREADABLE, blocking);
    return { document, compilation };
  }

  /** Throws when the save is stale, with what changed in between, or when the document cannot be read. */
  prepare(raw: unknown, from: number): Prepared {
    this.startedFrom(from, () => raw);
    const { document, compilation } = this.saveable(raw);
    const before = this.held.get();
    const changes = documentChanges(before.document, document);
    const text = JSON.stringify(document);
    const splice = spliceBetween(before.working.text, text);
    const working = new Working(text, { document, compilation });
    const audited = this.audit(working);
    this.last = { working, audited };
    const hasCases = Object.keys(document.cases ?? {}).length > 0;
    return { from, text, splice, changes, audited, hasCases };
  }

  /** `operations` are RFC 6902. */
  preparePatch(operations: Operation[], from: number): Prepared {
    this.startedFrom(from, (base) => patched(base, operations));
    return this.prepare(patched(this.held.get().document, operations), from);
  }

  /** An earlier revision, to be saved anew: nothing of the history is lost. */
  prepareUndo(to: number, from: number): Prepared {
    return this.prepare(this.revision(to).document, from);
  }

  /** Inside the writer only. Throws when somebody saved since it was prepared. Without a `why` the changes say it. */
  save({ from, text, splice, changes, audited }: Prepared, who: string, reason?: string): DraftSaved {
    this.startedFrom(from, () => JSON.parse(text) as unknown);
    const before = this.held.get();
    const saved = { revision: before.revision + 1, savedMs: this.now(), savedBy: who };
    const why = (reason?.trim() ? reason : changesWords(changes)).slice(0, LONGEST_WHY);
    this.store.add({ ...saved, why, document: text }, splice);
    this.trail.add(who, 'draft.save', `revision ${saved.revision}`, why);
    this.stream.tell('draft.saved', `revision ${saved.revision}`, {
      revision: saved.revision,
      who,
      why,
      changes: changes.slice(0, MOST_TOLD).map(({ pointer, words }) => ({ pointer, words })),
      more: Math.max(0, changes.length - MOST_TOLD),
    });
    const working = this.last?.working.text === text ? this.last.working : new Working(text);
    this.held.set(new Current(saved.revision, saved.savedMs, saved.savedBy, working));
    this.audited.set(audited);
    return { ...saved, why, findings: findingCounts(this.findings()) };
  }

  /**
   * Throws a three-way view where the caller did not start from the revision that is there: what has changed since,
   * what they `wanted` to change, and where the two meet.
   */
  startedFrom(from: number, wanted: (base: EconomyDocument) => unknown): void {
    const { revision, savedBy, savedMs, document } = this.held.get();
    if (from === revision) return;
    const base = from >= 1 && from < revision ? this.revision(from).document : undefined;
    const theirs = base ? documentChanges(base, document) : [];
    throw new Problem(
      'stale',
      `You started from revision ${from}; ${savedBy} has since saved revision ${revision}. Look at what changed, then save again from revision ${revision}.`,
      { revision, savedBy, savedMs, changes: theirs, ...(base ? mineAgainst(base, theirs, wanted) : {}) },
    );
  }
}

/** Parts that a patched document may have: a few copies of the whole into itself make more than fits anywhere. */
const MOST_PARTS = 500_000;

function patched(document: EconomyDocument, operations: readonly Operation[]): unknown {
  // Only what the operations touch is copied: what is the same object is the same, and need not be compared.
  let result: unknown = { ...document };
  let parts: number | undefined;
  for (const [index, operation] of operations.entries()) {
    if ((operation.op === 'copy' || operation.op === 'move') && typeof operation.from !== 'string')
      throw patchRefused(index, `"${operation.op}" needs "from"`, 'Write where it comes from: "from": "/items/...".');
    if (operation.op === 'copy') {
      parts = (parts ?? partsIn(document)) + partsIn(valueAt(result, pointerSegments(operation.from)));
      if (parts > MOST_PARTS)
        throw patchRefused(index, `the document would have more than ${MOST_PARTS} parts`, 'Copy less.');
    }
    try {
      for (const path of [operation.path, ...('from' in operation ? [operation.from] : [])])
        copyAlong(result, pointerSegments(path));
      result = fastJsonPatch.applyOperation(result, structuredClone(operation), true, true, true, index).newDocument;
    } catch (error) {
      const { name, message } = error as { name?: string; message: string };
      throw patchRefused(
        index,
        `${name ?? 'patch'}: ${message.split('\n')[0]!}`,
        'Check the operation and its path against the draft.',
      );
    }
  }
  return result;
}

/** Gives what holds the path's end objects of its own, level by level. */
function copyAlong(root: unknown, path: readonly string[]): void {
  let holder = root as Record<string, unknown>;
  for (const segment of path.slice(0, -1)) {
    if (typeof holder !== 'object' || holder === null || !Object.hasOwn(holder, segment)) return;
    const inner = holder[segment];
    if (typeof inner !== 'object' || inner === null) return;
    holder[segment] = Array.isArray(inner) ? [...(inner as unknown[])] : { ...inner };
    holder = holder[segment] as Record<string, unknown>;
  }
}

/** Values in a value, itself included, counted no further than matters. */
function partsIn(value: unknown): number {
  const open = [value];
  let count = 0;
  for (; open.length > 0 && count <= MOST_PARTS; count++) {
    const next = open.pop();
    if (typeof next === 'object' && next !== null) for (const inner of Object.values(next)) open.push(inner);
  }
  return count;
}

const patchRefused = (index: number, message: string, fix: string): Problem =>
  invalid('The patch cannot be applied; the draft stays as it was.', [
    { code: 'wrong-value', pointer: `/${index}`, message, fix },
  ]);

/** What the caller wanted to change, and where that meets what others did: the same place, or one within the other. */
function mineAgainst(
  base: EconomyDocument,
  theirs: readonly Change[],
  wanted: (base: EconomyDocument) => unknown,
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

const LONGEST_WHY = 500;

/** What was done, for the history: the first change, and how many there are beside it. */
const changesWords = ([first, ...others]: readonly Change[]): string =>
  first === undefined
    ? 'saved without a change'
    : `${first.words}${others.length > 0 ? `, and ${others.length} more` : ''}`;

const UNREADABLE = 'The document cannot be read; the draft stays as it was.';

/** Throws every issue of its shape. */
function documentReadable(raw: unknown): EconomyDocument {
  if (isDeeperThan(raw, MOST_DEPTH))
    throw invalid(UNREADABLE, [
      { code: 'too-deep', pointer: '', message: `more than ${MOST_DEPTH} levels deep`, fix: 'Flatten it.' },
    ]);
  const checked = documentValidate(raw);
  if (!checked.ok) throw invalid(UNREADABLE, checked.issues);
  return checked.value;
}

/**
 * The cases of the draft, played once for each revision, and since when one does not hold: found by what is remembered of
 * earlier revisions, and otherwise by halving the history.
 */
import { LRUCache } from 'lru-cache';
import type { CaseSince, CasesView } from '../../contract/index.js';
import { caseTold, casesRun } from '../../core/cases/index.js';
import type { CaseResult, CaseState } from '../../core/cases/index.js';
import { documentChanges } from '../../core/document/index.js';
import type { Change, EconomyDocument } from '../../core/document/index.js';
import { economyCompile } from '../../core/economy/index.js';
import type { Economy } from '../../core/economy/index.js';
import { economyLabels } from '../../core/texts/amounts.js';
import { stepLines, stepState, movedText } from '../../core/texts/rehearsed.js';
import type { Caches } from '../held.js';
import type { DraftStore, SavedDraft } from '../store/draftStore.js';
import type { Draft } from './draft.js';

/** Revisions of which it is remembered what held. */
const MOST_REMEMBERED = 500;
/** Of more cases that do not hold it is not asked which save did it. */
const MOST_ASKED = 100;
/** Revisions that are held while it is asked. */
const MOST_HELD = 32;
/** More changes are not told of one save. */
const MOST_TOLD = 20;

/** What came of a case in a revision, with the case as it was written there. */
type Outcomes = ReadonlyMap<string, { written: string; state: CaseState }>;

interface Played {
  revision: number;
  results: CaseResult[];
  /** Once it was asked for. */
  view: CasesView | undefined;
}

/** A save, for all cases that it broke. */
interface Save {
  saved: Omit<SavedDraft, 'document'>;
  before: EconomyDocument;
  economy: Economy;
  changes: Change[];
}

export class DraftCases {
  private readonly outcomes = new LRUCache<number, Outcomes>({ max: MOST_REMEMBERED });
  private readonly saved = new LRUCache<number, SavedDraft>({ max: MOST_HELD });
  /** Of the revision that was asked about last. */
  private last: Played | undefined;

  constructor(
    caches: Caches,
    private readonly draft: Draft,
    private readonly store: DraftStore,
  ) {
    // An undone save gives its number back.
    caches.onForget(
      () => this.forget(),
      () => undefined,
    );
  }

  /** What came of every case. */
  results(): CaseResult[] {
    return this.current().results;
  }

  /** The same, and of each that does not hold which save did it. */
  view(): CasesView {
    const current = this.current();
    return (current.view ??= this.tell(current));
  }

  private current(): Played {
    const { revision, document, economy } = this.draft.current;
    if (this.last?.revision !== revision)
      this.last = { revision, results: this.played(revision, document, economy), view: undefined };
    return this.last;
  }

  private forget(): void {
    this.last = undefined;
    this.outcomes.clear();
  }

  private played(revision: number, document: EconomyDocument, economy: Economy): CaseResult[] {
    const results = casesRun(economy, document);
    const outcomes = new Map(
      results.map(({ id, state }) => [id, { written: JSON.stringify(document.cases![id]), state }]),
    );
    this.outcomes.set(revision, outcomes);
    return results;
  }

  private tell({ revision, results }: Played): CasesView {
    let guess: number | undefined;
    let asked = 0;
    const saves = new Map<number, Save>();
    const cases = results.map((result) => {
      if (result.state === 'holds' || ++asked > MOST_ASKED) return result;
      const held = this.lastHeld(result.id, revision, guess);
      if (held === undefined) return result;
      guess = held;
      const save = saves.get(held) ?? this.saveAfter(held);
      saves.set(held, save);
      return { ...result, since: this.since(result, save) };
    });
    this.saved.clear();
    return casesView(null, revision, this.draft.current.document, cases);
  }

  /** The last revision in which the case held as it is written now; undefined where it never did. `guess`: one to look at first. */
  private lastHeld(id: string, now: number, guess: number | undefined): number | undefined {
    const written = JSON.stringify(this.draft.current.document.cases![id]);
    const stateAt = (revision: number): CaseState | 'absent' => {
      const outcome = this.outcomesOf(revision, id, written)?.get(id);
      return outcome?.written === written ? outcome.state : 'absent';
    };
    if (guess !== undefined && stateAt(guess) === 'holds' && stateAt(guess + 1) !== 'holds') return guess;
    // Back by one, two, four, until it held or was not there.
    let bad = now;
    let good = 0;
    for (let back = 1; bad > 1; back *= 2) {
      const at = Math.max(1, now - back);
      const state = stateAt(at);
      if (state === 'holds') return this.halved(at, bad, (revision) => stateAt(revision) === 'holds');
      if (state === 'absent') {
        good = at;
        break;
      }
      bad = at;
    }
    // Between where it was not there and where it does not hold.
    while (bad - good > 1) {
      const middle = (good + bad) >> 1;
      const state = stateAt(middle);
      if (state === 'holds') return this.halved(middle, bad, (revision) => stateAt(revision) === 'holds');
      if (state === 'absent') good = middle;
      else bad = middle;
    }
    return undefined;
  }

  /** `good` holds and `bad` does not: the last that holds before one that does not. */
  private halved(good: number, bad: number, holds: (revision: number) => boolean): number {
    while (bad - good > 1) {
      const middle = (good + bad) >> 1;
      if (holds(middle)) good = middle;
      else bad = middle;
    }
    return good;
  }

  /** Undefined where the case is not written so there: then nothing is compiled. */
  private outcomesOf(revision: number, id: string, written: string): Outcomes | undefined {
    const known = this.outcomes.get(revision);
    if (known) return known;
    const document = this.savedAt(revision)?.document;
    if (!document || JSON.stringify(document.cases?.[id]) !== written) return undefined;
    this.played(revision, document, economyCompile(document).economy);
    return this.outcomes.get(revision);
  }

  private savedAt(revision: number): SavedDraft | undefined {
    const known = this.saved.get(revision);
    if (known) return known;
    const read = this.store.get(revision);
    if (read) this.saved.set(revision, read);
    return read;
  }

  /** The save that came after a revision, with the economy as it was before. */
  private saveAfter(lastHeld: number): Save {
    const before = this.savedAt(lastHeld)!.document;
    const { document, ...saved } = this.savedAt(lastHeld + 1)!;
    return { saved, before, economy: economyCompile(before).economy, changes: documentChanges(before, document) };
  }

  private since({ id, misses }: CaseResult, { saved, before, economy, changes }: Save): CaseSince {
    const step = misses[0]?.step ?? 0;
    const now = this.draft.current;
    return {
      ...saved,
      changes: changes.slice(0, MOST_TOLD).map(({ words }) => words),
      more: Math.max(0, changes.length - MOST_TOLD),
      before: step > 0 ? outcomeWords(economy, before, id, step) : null,
      now: step > 0 ? outcomeWords(now.economy, now.document, id, step) : null,
    };
  }
}

/** What became of a step, in a line; null where the case could not be played. */
function outcomeWords(economy: Economy, { cases }: EconomyDocument, id: string, step: number): string | null {
  const done = caseTold(economy, id, cases![id]!)?.[step - 1];
  if (!done) return null;
  const labels = economyLabels(economy);
  return [stepState(done), movedText(labels, done.moved), ...stepLines(labels, done)].filter(Boolean).join('; ');
}

/** The cases of any source as they are told. */
export function casesView(
  release: number | null,
  revision: number | null,
  document: EconomyDocument,
  cases: CasesView['cases'],
): CasesView {
  const count = (state: CaseState): number => cases.filter((one) => one.state === state).length;
  return {
    release,
    revision,
    counts: { holds: count('holds'), broken: count('broken'), unplayable: count('unplayable') },
    brokenCases: document.audit?.brokenCases ?? 'refuse',
    cases,
  };
}

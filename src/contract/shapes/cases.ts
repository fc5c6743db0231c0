/** Cases: what came of each, what does not hold, and which save did it. */
import type { CaseResult } from '../../core/cases/index.js';
import { anyText, anyWhole, choice, maybe, named, orNull, record, shapeOf } from '../../core/schema/index.js';
import type { ValueOf } from '../../core/schema/index.js';
import { listed, texts } from './common.js';
import { saved } from './draft.js';

const since = record({
  ...saved,
  why: anyText(),
  changes: texts(),
  /** How many changes are not told. */
  more: anyWhole(),
  /** What came of the first step that does not hold: before that save, and now. */
  before: orNull(anyText()),
  now: orNull(anyText()),
});

const result = {
  id: anyText(),
  name: anyText(),
  state: choice('holds', 'broken', 'unplayable'),
  offers: texts(),
  misses: listed(
    'misses',
    shapeOf<CaseResult['misses'][number]>({
      step: anyWhole(),
      words: anyText(),
      what: anyText(),
      expected: anyText(),
      found: anyText(),
    }),
  ),
  problems: listed(
    'problems',
    shapeOf<CaseResult['problems'][number]>({ pointer: anyText(), message: anyText(), fix: anyText() }),
  ),
};

export const caseResult = named('CaseResult', record(result));
export const cases = named(
  'Cases',
  record({
    release: orNull(anyWhole()),
    revision: orNull(anyWhole()),
    counts: record({ holds: anyWhole(), broken: anyWhole(), unplayable: anyWhole() }),
    /** What they do to publishing. */
    brokenCases: choice('refuse', 'warn'),
    cases: listed('cases', record({ ...result, since: maybe(since) })),
  }),
);
export type CasesView = ValueOf<typeof cases>;
export type CaseView = CasesView['cases'][number];
export type CaseSince = ValueOf<typeof since>;

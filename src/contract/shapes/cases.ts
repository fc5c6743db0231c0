/** Cases: what came of each, what does not hold, and which save did it. */
import type { CaseResult, Proposal } from '../../core/cases/index.js';
import { caseSchema } from '../../core/document/index.js';
import type { CaseDocument } from '../../core/document/index.js';
import {
  anyText,
  anyWhole,
  choice,
  fields,
  listOf,
  maybe,
  named,
  orNull,
  record,
  shapeOf,
  text,
} from '../../core/schema/index.js';
import type { Shape, ValueOf } from '../../core/schema/index.js';
import { listed, texts } from './common.js';
import { saved } from './draft.js';

export const caseDocument = named('Case', caseSchema as unknown as Shape<CaseDocument>);

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
/** Offers for which cases are proposed at once. */
const MOST_OFFERS = 200;
export const proposalsAsked = fields({
  offers: listOf(text(64), { least: 1, most: MOST_OFFERS, of: 'offers', fix: 'Write ["storm_frame"].' }).required(),
  at: text(40),
});
export const proposals = record({
  /** Offers for which there is none: they are paid with real money, or nobody can buy them. */
  none: texts(),
  items: listed('cases', shapeOf<Proposal>({ id: anyText(), offer: anyText(), case: caseDocument, lines: texts() })),
});
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

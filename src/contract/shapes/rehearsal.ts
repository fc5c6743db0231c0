/** A rehearsal: who, when and what is done, and what became of each step. Amounts are in smallest units. */
import type { Kept } from '../../core/cases/index.js';
import { stepsSchema } from '../../core/document/index.js';
import { STEP_VERBS } from '../../core/rehearsal/index.js';
import type { RehearsalEnd, StepTold, Verb } from '../../core/rehearsal/index.js';
import {
  anyText,
  anyWhole,
  choice,
  fields,
  maybe,
  named,
  orNull,
  record,
  shapeOf,
  text,
  wholeNumber,
  yesNo,
} from '../../core/schema/index.js';
import type { ValueOf } from '../../core/schema/index.js';
import { amounts, languageQuery, listed, profile, texts, unitsBasket, values } from './common.js';
import { caseDocument } from './cases.js';
import { goals, progress, tracks } from './progress.js';
import { front, reasons } from './trade.js';

export const rehearsalAsked = named(
  'Rehearsal',
  fields({
    player: text(64),
    profile,
    source: text(64),
    at: text(40),
    seed: wholeNumber(0, 4_294_967_295),
    language: languageQuery(),
    /** A shop to be shown as the player sees it at the end. */
    shop: text(64),
    steps: stepsSchema(unitsBasket(1)).required(),
    /** As a case is played: nobody has bought anything before. */
    untouched: yesNo(),
    /** Asks for it as a case too. */
    keep: yesNo(),
  }),
);

const VERB_NAMES = Object.keys(STEP_VERBS) as Verb[];
export const rehearsed = named(
  'Rehearsed',
  record({
    release: orNull(anyWhole()),
    steps: listed(
      'steps',
      shapeOf<StepTold>({
        verb: choice(...VERB_NAMES),
        words: anyText(),
        atMs: anyWhole(),
        done: yesNo(),
        times: anyWhole(),
        reasons: reasons(),
        problem: maybe(anyText()),
        price: maybe(amounts()),
        moved: amounts(),
        dropped: amounts(),
        missed: amounts(),
        set: values(),
        progress: progress(),
        told: maybe(texts()),
      }),
    ),
    end: shapeOf<RehearsalEnd>({
      atMs: anyWhole(),
      attributes: values(),
      holds: amounts(),
      goals: goals(),
      tracks: tracks(),
    }),
    front: maybe(front),
    kept: maybe(
      shapeOf<Kept>({
        case: caseDocument,
        differs: listed('steps', anyWhole()),
      }),
    ),
  }),
);
export type Rehearsed = ValueOf<typeof rehearsed>;

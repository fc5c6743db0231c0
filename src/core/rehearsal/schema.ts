/** How a rehearsal is written: in a file, with amounts as people write them, and in requests, in smallest units. */
import { anyNumber, anyValue, fields, ids, listOf, mapOf, text, wholeNumber } from '../schema/index.js';
import type { Shape, ValueOf } from '../schema/index.js';
import { MOST_REPEATED, MOST_STEPS } from './rehearse.js';

const MOST_NAMED = 200;
const values = () => mapOf(anyValue(), ids(), MOST_NAMED);

type Amounts = ReturnType<typeof mapOf<Shape<number>>>;
/** As people write them. */
const writtenAmounts = () => mapOf(anyNumber(0, Number.MAX_SAFE_INTEGER), ids('asset'), MOST_NAMED);

/** One verb, and what may stand beside it; which goes with which is told by `stepsRead`. */
export const stepSchema = (amounts: Amounts) =>
  fields({
    buy: text(64),
    sell: text(64),
    use: text(64),
    open: text(64),
    collect: text(64),
    event: text(64),
    play: text(64),
    give: amounts,
    take: amounts,
    set: values(),
    wait: text(40),
    until: text(40),
    times: wholeNumber(1, MOST_REPEATED),
    pay: text(600),
    shop: text(64),
    fields: values(),
  });

export const stepsSchema = (amounts: Amounts) =>
  listOf(stepSchema(amounts), {
    most: MOST_STEPS,
    of: 'steps',
    fix: 'Write them as [{buy: storm_frame}, {wait: day}].',
  });

/** The file that `dimestall rehearse` takes. */
export const rehearsalFileSchema = fields({
  name: text(120),
  at: text(40),
  seed: wholeNumber(0, 4_294_967_295),
  player: fields({ attributes: values(), holds: writtenAmounts() }),
  steps: stepsSchema(writtenAmounts()).required(),
});
export type RehearsalFile = ValueOf<typeof rehearsalFileSchema>;

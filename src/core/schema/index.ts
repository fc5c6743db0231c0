export {
  REF_KINDS,
  about,
  blockOf,
  called,
  checked,
  fieldsOf,
  inCells,
  inForms,
  inParts,
  isOptional,
  isRecord,
  marksOf,
  named,
  said,
  throughout,
  whole,
  worded,
} from './block.js';
export { described, quoted } from './block.js';
export type { AnySchema, Block, Form, KeyRule, Misfit, Option, RefKind, Shape, ValueOf } from './block.js';
export { either, exactly, fields, listOf, mapOf, maybe, orNull, record, shapeOf, tagged } from './groups.js';
export type { RecordOf } from './groups.js';
export { JsonComponents } from './jsonSchema.js';
export { every, instant, localDate, localTime, timeOfDay, timeOfDayMs, timeZone } from './time.js';
export { schemaIssues } from './validate.js';
export {
  amount,
  anyJson,
  anyKeys,
  anyNumber,
  anyText,
  anyValue,
  anyWhole,
  basket,
  choice,
  condition,
  duration,
  durationMs,
  finiteNumber,
  ids,
  isDeeperThan,
  isFormula,
  limits,
  orFormula,
  place,
  refTo,
  text,
  wholeNumber,
  yesNo,
} from './values.js';
export type { Range } from './values.js';
export { ID_RULE, freeId, idFor, isId } from './ids.js';

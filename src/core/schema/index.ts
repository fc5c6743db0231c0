export {
  ID_PATTERN,
  amount,
  anyNumber,
  basket,
  checked,
  choice,
  condition,
  duration,
  durationMs,
  fields,
  id,
  isId,
  isRecord,
  limits,
  mapOf,
  text,
  wholeNumber,
  yesNo,
} from './blocks.js';
export type { AnySchema } from './blocks.js';
export { schemaToJson } from './jsonSchema.js';
export { every, instant, localTime, timeOfDay, timeOfDayMs, timeZone } from './time.js';
export { schemaIssues } from './validate.js';

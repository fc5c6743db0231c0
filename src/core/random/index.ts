export {
  firstOf,
  keyBegin,
  keyDigits,
  keyEnd,
  keyHash,
  keyNext,
  keyText,
  randomOnce,
  randomStream,
  streamOf,
} from './random.js';
export type { Random } from './random.js';

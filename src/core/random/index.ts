export { keyHash } from './hash.js';
export { Luck, keyOf, keyOfText, keyWith, numberOf, randomOnce, randomStream, streamOf } from './random.js';
export type { Key, Random } from './random.js';

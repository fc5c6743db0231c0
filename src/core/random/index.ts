export { keyHash, randomOnce, randomStream } from './random.js';
export type { Random } from './random.js';

/** The operations of the contract that may write, by the contract itself. */
import { CONTRACT, KEYS, methodOf } from '../../src/contract/index.js';
import type { Key, Operation } from '../../src/contract/index.js';

/** What is worked out aside and saves nothing only asks. */
const writes = (key: Key): boolean => {
  const operation: Operation = CONTRACT[key];
  return methodOf(key) !== 'GET' && (operation.saves === true || operation.aside === undefined);
};

export const WRITING: readonly Key[] = KEYS.filter(writes);

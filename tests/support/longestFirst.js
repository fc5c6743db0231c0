/** The order of the test files: what starts processes and browsers takes longest and comes first, so that nothing long is left for the end. */
import Sequencer from '@jest/test-sequencer';

const FIRST = [
  '/tests/docs/',
  '/tests/attack/',
  '/tests/console/',
  '/tests/cli/',
  '/engine.test.ts',
  '/tests/service/',
  '/src/core/balance/',
  '/src/core/audit/',
];
const turn = ({ path }) => {
  const place = FIRST.findIndex((folder) => path.includes(folder));
  return place < 0 ? FIRST.length : place;
};

export default class LongestFirst extends Sequencer {
  sort(tests) {
    return super.sort(tests).sort((one, other) => turn(one) - turn(other));
  }
}

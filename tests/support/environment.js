/** What a test file sees as its globals are those of the process, where the code that it tests runs too. */
import { TestEnvironment } from 'jest-environment-node';

export default class OneRealm extends TestEnvironment {
  constructor(config, context) {
    super(config, context);
    this.global = globalThis;
  }
}

/** What a test file sees as its globals are those of the process, where the code that it tests runs too. */
import { TestEnvironment } from 'jest-environment-node';

const MOST_TEXT = 1500;

export default class OneRealm extends TestEnvironment {
  constructor(config, context) {
    super(config, context);
    this.global = globalThis;
  }

  /** What a page showed when its test failed says more than the line that waited in vain. */
  async handleTestEvent({ name }) {
    if (name !== 'test_fn_failure') return;
    const contexts = (globalThis.browsersLaunched ?? []).flatMap((browser) => browser.contexts());
    for (const page of contexts.flatMap((context) => context.pages())) {
      const text = await page.locator('body').innerText({ timeout: 2000 }).catch(String);
      process.stderr.write(`\nWhat stood at ${page.url()}:\n${text.slice(0, MOST_TEXT)}\n`);
    }
  }
}

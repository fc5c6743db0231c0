/** What the first file of a test run makes for all of them. */
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Kept in the folder of the run. Two files that begin at once may both make it, which comes to the same. */
export class RunFile {
  private readonly path: string;
  private known: Buffer | undefined;

  constructor(name: string) {
    this.path = join(process.env['DIMESTALL_TEST_RUN']!, name);
  }

  get(): Buffer | undefined {
    return (this.known ??= existsSync(this.path) ? readFileSync(this.path) : undefined);
  }

  keep(content: Buffer): Buffer {
    this.known = content;
    const own = `${this.path}.${process.pid}`;
    writeFileSync(own, content);
    // At once: nobody reads half of it.
    renameSync(own, this.path);
    return content;
  }
}

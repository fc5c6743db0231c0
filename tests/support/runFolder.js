/** A folder for what the files of one test run share, made before the first and removed after the last. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export default function setup() {
  const folder = mkdtempSync(join(tmpdir(), 'dimestall-run-'));
  // Workers are given the environment of the process that starts them.
  process.env['DIMESTALL_TEST_RUN'] = folder;
  globalThis.removeRunFolder = () => rmSync(folder, { recursive: true, force: true });
}

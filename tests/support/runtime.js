/**
 * Test files are loaded by Node itself, each anew, and what they import stays loaded for the next file of the same
 * worker (decision 0037).
 */
import { existsSync } from 'node:fs';
import Module, { createRequire } from 'node:module';
import { dirname, resolve } from 'node:path';
import JestRuntime from 'jest-runtime';

const load = createRequire(import.meta.url);
/** Of all that was transformed: what was loaded for an earlier file is told by its lines in a later one. */
const sourceMaps = new Map();
let transform;

Module._extensions['.ts'] = (module, path) => module._compile(transform(path), path);

/** Imports name the file that TypeScript would write. */
const { _resolveFilename } = Module;
Module._resolveFilename = function (name, parent, ...rest) {
  if (name.startsWith('.') && name.endsWith('.js') && parent?.filename?.endsWith('.ts')) {
    const source = resolve(dirname(parent.filename), name.replace(/js$/, 'ts'));
    if (existsSync(source)) return source;
  }
  return _resolveFilename.call(this, name, parent, ...rest);
};

export default class LoadedOnce extends JestRuntime {
  constructor(...args) {
    super(...args);
    transform = (path) => {
      const code = this.transformCache.transform(path);
      sourceMaps.set(path, super.getSourceMaps().get(path));
      return code;
    };
  }

  requireModule(from, name, options, isRequireActual) {
    const isJestsOwn = options?.isInternalModule || name !== undefined;
    return isJestsOwn ? super.requireModule(from, name, options, isRequireActual) : load(from);
  }

  getSourceMaps() {
    return sourceMaps;
  }

  teardown() {
    Reflect.deleteProperty(load.cache, this._testPath);
    super.teardown();
  }
}

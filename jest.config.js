/** Unit tests stand beside the code; tests/ drives the service, the command line and the console from outside. */
export default {
  testMatch: ['<rootDir>/src/**/*.test.ts', '<rootDir>/tests/**/*.test.ts'],
  testEnvironment: '<rootDir>/tests/support/environment.js',
  runtime: '<rootDir>/tests/support/runtime.js',
  transform: {
    '\\.ts$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  // `expect` runs in a context of its own: `expect.any(Number)` must mean the number of the tests.
  sandboxInjectedGlobals: [
    'Array',
    'BigInt',
    'Boolean',
    'Date',
    'Error',
    'Function',
    'Map',
    'Number',
    'Object',
    'RegExp',
    'Set',
    'String',
    'Symbol',
  ],
  // As long as the slowest takes on a machine that is busy with other work.
  testTimeout: 180_000,
  globalSetup: '<rootDir>/tests/support/runFolder.js',
  globalTeardown: '<rootDir>/tests/support/runFolderRemove.js',
  maxWorkers: 3,
  testSequencer: '<rootDir>/tests/support/longestFirst.js',
  reporters: ['default', '<rootDir>/tests/support/slowest.js'],
};

/** Unit tests stand beside the code; tests/ drives the service, the command line and the console from outside. */
export default {
  testMatch: ['<rootDir>/src/**/*.test.ts', '<rootDir>/tests/**/*.test.ts'],
  testEnvironment: 'node',
  transform: {
    '^.+\\.(ts|js|mjs)$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  // Packages that are published as ES modules only.
  transformIgnorePatterns: [
    '/node_modules/(?!(d3-[a-z-]+|internmap|cookie|eventsource-parser|fast-check|pure-rand|intl-messageformat|@formatjs|ical.js|@seriousme)/)',
  ],
  // Without this each use of one of these in a test's context is a question to the context, thirty times as slow.
  sandboxInjectedGlobals: [
    'Math',
    'Number',
    'Object',
    'Array',
    'Float64Array',
    'Int32Array',
    'Map',
    'Set',
    'Date',
    'Intl',
    'String',
    'JSON',
    'WeakMap',
  ],
  moduleNameMapper: { '^(\\.{1,2}/.*)\\.js$': '$1' },
  testTimeout: 60_000,
  globalSetup: '<rootDir>/tests/support/runFolder.js',
  globalTeardown: '<rootDir>/tests/support/runFolderRemove.js',
  maxWorkers: 3,
  testSequencer: '<rootDir>/tests/support/longestFirst.js',
  reporters: ['default', '<rootDir>/tests/support/slowest.js'],
};

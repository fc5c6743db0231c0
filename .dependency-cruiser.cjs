/** The order of the rooms: core -> nothing; service -> core; client -> core's types; cli -> client, core; console -> client, core. */
const rooms = (from, allowed, comment) => ({
  name: `${from}-imports-only-${allowed.join('-and-') || 'itself'}`,
  comment,
  severity: 'error',
  from: { path: `^src/${from}/`, pathNot: '\\.test\\.ts$' },
  to: { path: '^src/', pathNot: [`^src/${from}/`, ...allowed.map((room) => `^src/${room}/`)] },
});

module.exports = {
  forbidden: [
    rooms('core', [], 'The computation knows nothing of who asks.'),
    rooms('service', ['core'], 'The service serves core.'),
    rooms('client', ['core'], "The client speaks core's types."),
    rooms('cli', ['client', 'core'], 'The command line is a thin skin.'),
    rooms('console', ['client', 'core'], 'The console talks to the service only through client.'),
    {
      name: 'client-uses-core-types-only',
      severity: 'error',
      comment: 'No computation may happen in the client.',
      from: { path: '^src/client/', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'console-uses-pure-helpers-of-core',
      severity: 'error',
      comment: 'The console may format amounts and name pointers; decisions come from the service.',
      from: { path: '^src/console/' },
      to: {
        path: '^src/core/',
        pathNot:
          '^src/core/(amount|issue|economy/(text|textKeys)|simulation/report|catalog/(cell|sheet)|schedule/localTime)',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      comment: 'No I/O, no clock, no environment: only these packages may be used in core.',
      from: { path: '^src/core/', pathNot: '\\.test\\.ts$' },
      to: {
        pathNot: [
          '^src/core/',
          '^node_modules/(yup|luxon|rrule|intl-messageformat|ical\\.js|@types/luxon|yaml|jsep|fast-json-patch|pure-rand|d3-random|@types/d3-random|csv-parse|csv-stringify)/',
        ],
      },
    },
    {
      name: 'one-face-per-folder',
      severity: 'error',
      comment: 'From outside, a folder of core is entered by its index.',
      from: { path: '^src/core/([^/]+)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/[^/]+/', pathNot: ['^src/core/$1/', '^src/core/[^/]+/index\\.ts$'] },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types', 'node'] },
  },
};

/**
 * The order of the rooms: core -> nothing; contract -> core; service -> contract, core, where files lie; client -> contract, core's types;
 * cli -> client, contract, core, where files lie; console -> client, contract, core's types and pure helpers. And the order within core.
 */
const rooms = (from, allowed, comment) => ({
  name: `${from}-imports-only-${allowed.join('-and-') || 'itself'}`,
  comment,
  severity: 'error',
  from: { path: `^src/${from}/` },
  to: { path: '^src/', pathNot: [`^src/${from}/`, ...allowed.map((room) => `^src/${room}(/|\\.ts$)`)] },
});

module.exports = {
  forbidden: [
    rooms('core', [], 'The computation knows nothing of who asks.'),
    rooms('contract', ['core'], "What crosses the wire is made of core's shapes."),
    rooms('runs', ['core', 'packageRoot'], 'Threads play what core computes, for the service and the command line.'),
    rooms('service', ['contract', 'core', 'packageRoot', 'runs'], 'The service serves core, as the contract says.'),
    rooms('client', ['contract', 'core'], 'The client says what the contract says.'),
    rooms('cli', ['client', 'contract', 'core', 'packageRoot', 'runs'], 'The command line is a thin skin.'),
    rooms('console', ['client', 'contract', 'core'], 'The console talks to the service only through client.'),
    {
      name: 'client-uses-core-types-only',
      severity: 'error',
      comment: 'No computation may happen in the client.',
      from: { path: '^src/client/' },
      to: { path: '^src/core/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'console-uses-pure-helpers-of-core',
      severity: 'error',
      comment:
        'The console may format amounts and name pointers; decisions come from the service. Only the thread that plays beside the bench has all of core.',
      from: { path: '^src/console/', pathNot: '^src/console/simulate/desk/worker\\.ts$' },
      to: {
        path: '^src/core/',
        pathNot:
          '^src/core/(amount|issue|texts/(amounts|progress|rehearsed|tried)|document/(itemKinds|kinds|pointers|textKeys)|formula/functions|schema/ids|simulation/(report|figures)|playtime/(playingTime|rungs|words)|fit/report|earning/tryText|catalog/(cell|schemaCell|sheet|table)|csv/guard|schedule/localTime)',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      comment: 'No I/O, no clock, no environment: only these packages may be used in core.',
      from: { path: '^src/core/' },
      to: {
        pathNot: [
          '^src/core/',
          '^node_modules/(yup|luxon|rrule|intl-messageformat|ical\\.js|@types/luxon|yaml|jsep|fast-json-patch|pure-rand|d3-random|@types/d3-random|csv-parse|csv-stringify|jstat|ml-kmeans|d3-scale|d3-shape|@types/d3-scale|@types/d3-shape)/',
        ],
      },
    },
    {
      name: 'the-command-line-starts-light',
      severity: 'error',
      comment: 'Help must not wait for the engine: commands are loaded when they are asked for.',
      from: { path: '^src/cli/(main|groups|context|print)\\.ts$' },
      to: { path: '^src/(core|cli/(output|folder))', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'sql-in-the-stores',
      severity: 'error',
      comment: 'What asks for records asks a store.',
      from: { path: '^src/service/', pathNot: '^src/service/store/' },
      to: { path: '^(node_modules/(drizzle-orm|better-sqlite3)/|src/service/store/tables)' },
    },
    {
      name: 'one-face-per-folder',
      severity: 'error',
      comment:
        'From outside, a folder of core is entered by its index; helpers of the console go by what has no schema.',
      from: { path: '^src/core/([^/]+)/', pathNot: '^src/core/catalog/table\\.ts$' },
      to: { path: '^src/core/[^/]+/', pathNot: ['^src/core/$1/', '^src/core/[^/]+/index\\.ts$'] },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'no-circles-between-folders-of-core',
      severity: 'error',
      comment: 'Types count: a folder can be read once those before it have been.',
      scope: 'folder',
      from: { path: '^src/core/' },
      to: { circular: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    // A test may use whatever it likes.
    exclude: { path: '\\.test\\.ts$' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'types', 'node'] },
  },
};

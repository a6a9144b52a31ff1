/** The layers: what may import what. */
const core = (folder) => `^packages/core/src/${folder}/`;
const may = (folder, ...allowed) => ({
  name: `core-${folder}`,
  severity: 'error',
  comment: `core/${folder} may use only: ${['itself', ...allowed].join(', ')}`,
  from: { path: core(folder), pathNot: '\\.test\\.ts$' },
  to: { path: '^packages/core/src/[a-z]+/', pathNot: [folder, ...allowed].map(core) },
});

module.exports = {
  forbidden: [
    may('geometry'),
    may('cutter', 'geometry'),
    may('part', 'geometry'),
    may('path', 'geometry', 'cutter', 'stock'),
    may('stock', 'geometry', 'cutter', 'path'),
    may('region', 'geometry', 'part', 'cutter', 'stock'),
    may('check', 'geometry', 'part', 'cutter', 'stock', 'region', 'path'),
    may('post', 'geometry', 'cutter', 'path'),
    {
      name: 'strategy-sees-plan-only-through-its-crew',
      severity: 'error',
      from: { path: core('strategy'), pathNot: '\\.test\\.ts$' },
      to: { path: core('plan'), pathNot: 'plan/crew\\.ts$' },
    },
    {
      name: 'strategy-not-post',
      severity: 'error',
      from: { path: core('strategy') },
      to: { path: core('post') },
    },
    {
      name: 'core-is-plain',
      severity: 'error',
      comment: 'The core knows no browser, no Node, no framework, no drawing.',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      to: {
        path: 'node_modules/(three|@angular|@ngrx|express|idb|comlink)/|^(apps|packages/cli)/',
        dependencyTypesNot: ['type-only'],
      },
    },
    {
      name: 'core-uses-no-node',
      severity: 'error',
      from: { path: '^packages/core/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'web-not-node-side',
      severity: 'error',
      from: { path: '^apps/web' },
      to: { path: '^(apps/server|packages/cli)' },
    },
    {
      name: 'server-only-serves',
      severity: 'error',
      from: { path: '^apps/server/src', pathNot: '\\.test\\.ts$' },
      to: { path: '^(apps/web|packages)/' },
    },
    { name: 'cli-not-apps', severity: 'error', from: { path: '^packages/cli' }, to: { path: '^apps/' } },
    {
      name: 'nothing-unresolved',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: '^(virtual:|comlink/)' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^dist/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'default', 'types'],
      extensions: ['.ts', '.mjs', '.js', '.json'],
    },
  },
};

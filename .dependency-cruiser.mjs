/** Which package may import which: arrows go downward only. */
const may = {
  core: [],
  service: ['core'],
  client: ['core'],
  react: ['core', 'client'],
  console: ['core', 'client', 'react'],
};

/** The rooms of a package from the lowest up: each may import those below it. */
const rooms = {
  core: [
    ['warning', 'simulation', 'decimal', 'moment', 'problem', 'schema'],
    ['expression'],
    ['query'],
    ['check', 'window', 'odata'],
    ['sql', 'memory'],
    ['answer'],
    ['change', 'spelling'],
    ['view'],
  ],
  react: [
    ['messages', 'state', 'styles'],
    ['format'],
    ['ruler', 'sentence'],
    ['table'],
    ['records', 'outline', 'paint'],
    ['parts', 'editors', 'levels'],
    ['editing'],
    ['card', 'copy', 'kept-views', 'happened', 'chart', 'print'],
    ['view', 'menu'],
  ],
};

/** No room imports one above it. */
const orders = Object.entries(rooms).flatMap(([name, floors]) =>
  floors.slice(0, -1).map((floor, index) => ({
    name: `rooms-of-${name}-above-${floor.join('-')}`,
    severity: 'error',
    from: {
      path: `^packages/${name}/src/(${floor.join('|')})/`,
      pathNot: '\\.test\\.tsx?$',
    },
    to: {
      path: `^packages/${name}/src/(${floors
        .slice(index + 1)
        .flat()
        .join('|')})/`,
    },
  })),
);

/** @type {import('dependency-cruiser').IConfiguration} */
export default {
  forbidden: [
    { name: 'no-circles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'nobody-imports-console',
      severity: 'error',
      from: { pathNot: '^packages/console/' },
      to: { path: '^packages/console/' },
    },
    {
      name: 'nobody-imports-cli-or-bench',
      severity: 'error',
      from: { pathNot: '^(packages/cli|bench)/' },
      to: { path: '^(packages/cli|bench)/' },
    },
    ...Object.entries(may).map(([room, rooms]) => ({
      name: `arrows-of-${room}`,
      severity: 'error',
      from: { path: `^packages/${room}/src/`, pathNot: '\\.test\\.tsx?$|/testing/' },
      to: {
        path: '^(packages|demo|bench)/',
        pathNot: `^packages/(${[room, ...rooms].join('|')})/`,
      },
    })),
    ...orders,
    {
      name: 'core-does-no-io',
      severity: 'error',
      from: { path: '^packages/(core|client)/src/', pathNot: '\\.test\\.ts$|/testing/' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-libraries',
      severity: 'error',
      comment: 'core knows the distance of near names and the schemas of answers, nothing else',
      from: { path: '^packages/core/src/', pathNot: '\\.test\\.ts$|/testing/' },
      to: { path: 'node_modules', pathNot: 'node_modules/(fastest-levenshtein|zod)/' },
    },
    {
      name: 'not-to-unresolvable',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '/(dist|program)/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.base.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
    },
  },
};

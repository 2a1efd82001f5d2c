/** The areas of each package, from the ground up: an area imports those before it, never those after it. */
const AREAS = {
  core: [
    'text',
    'domain',
    'address',
    'person',
    'calendar',
    'emails',
    'facts',
    'records',
    'rulebook',
    'decision',
    'repairs',
    'agenda',
    'mailboxes',
    'trials',
    'writing',
    'reports',
  ],
  contract: [
    'base',
    'rulebook',
    'records',
    'emails',
    'decision',
    'sharing',
    'repairs',
    'histories',
    'agenda',
    'mailboxes',
    'trials',
    'writing',
    'reports',
    'workspace',
    'team',
  ],
  server: [
    'base',
    'rulebook',
    'records',
    'emails',
    'decision',
    'sharing',
    'repairs',
    'histories',
    'agenda',
    'mailboxes',
    'trials',
    'writing',
    'reports',
    'workspace',
    'team',
    'http',
  ],
  // The pages of rules show what rules do, so they come after the decision. Emails are answered wherever they are shown.
  web: [
    'api',
    'parts',
    'records',
    'emails',
    'decision',
    'rulebook',
    'sharing',
    'writing',
    'repairs',
    'histories',
    'agenda',
    'mailboxes',
    'trials',
    'reports',
    'workspace',
    'team',
    'frame',
  ],
};
const lookDown = (pkg, order) =>
  order.slice(0, -1).map((area, at) => ({
    name: `${pkg}-${area}-looks-down`,
    severity: 'error',
    // A page may show parts of every area.
    from: { path: `^${pkg}/src/${area}/`, pathNot: '(\\.test\\.tsx?|Page\\.tsx)$' },
    to: { path: `^${pkg}/src/(${order.slice(at + 1).join('|')})/` },
  }));
/** Everything in a package belongs to an area that has its place in the order. */
const known = (pkg, order) => ({
  name: `${pkg}-has-no-other-areas`,
  severity: 'error',
  from: { path: `^${pkg}/src/[^/]+/`, pathNot: `^${pkg}/src/(${[...order, 'testing'].join('|')})/` },
  to: {},
});

/** The arrows of the house: core <- contract <- server <- demo, cli; core, contract <- web; mailhost <- demo, and mailhost knows no one. */
const only = (from, allowed, pathNot = []) => ({
  name: `${from}-imports-only-${allowed.join('-') || 'nothing'}`,
  severity: 'error',
  from: { path: `^${from}/src`, pathNot },
  to: { path: '^(core|contract|server|web|demo|cli|mailhost|e2e|bench)/', pathNot: `^(${[from, ...allowed].join('|')})/` },
});

module.exports = {
  forbidden: [
    only('core', []),
    only('contract', ['core']),
    // Tests of the server have the provider play the mail server.
    only('server', ['core', 'contract'], ['\\.test\\.ts$', '^server/src/testing/']),
    only('web', ['core', 'contract']),
    only('demo', ['core', 'contract', 'server', 'mailhost']),
    only('cli', ['contract']),
    only('mailhost', []),
    ...Object.entries(AREAS).flatMap(([pkg, order]) => [...lookDown(pkg, order), known(pkg, order)]),
    {
      name: 'only-the-application-imports-pages',
      severity: 'error',
      from: { path: '^web/src', pathNot: '(^web/src/App\\.tsx|^web/src/testing/|\\.test\\.tsx)$' },
      to: { path: '^web/src/.*Page\\.tsx$', pathNot: '^web/src/testing/' },
    },
    {
      name: 'only-http-imports-routes',
      severity: 'error',
      from: { path: '^server/src/', pathNot: '(^server/src/http/|\\.test\\.ts$)' },
      to: { path: '^server/src/.*([rR]outes)\\.ts$', pathNot: '^server/src/http/' },
    },
    {
      name: 'routes-know-no-sql',
      severity: 'error',
      from: { path: '^server/src/.*([rR]outes)\\.ts$' },
      to: { path: '(node_modules/drizzle-orm/|^server/src/base/db/(rows|schema))' },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
    {
      name: 'core-knows-no-platform',
      severity: 'error',
      from: { path: '^core/src', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-knows-no-framework',
      severity: 'error',
      from: { path: '^(core|contract)/src' },
      to: { path: 'node_modules/(express|pg|drizzle-orm|react|react-dom|pino)/' },
    },
    {
      name: 'web-knows-no-server-package',
      severity: 'error',
      from: { path: '^web/src' },
      to: { path: 'node_modules/(express|pg|drizzle-orm|pg-boss)/' },
    },
    {
      name: 'server-knows-no-react',
      severity: 'error',
      from: { path: '^(server|demo|cli)/src' },
      to: { path: 'node_modules/(react|react-dom|react-router)/' },
    },
    { name: 'no-unresolved', severity: 'error', from: {}, to: { couldNotResolve: true, pathNot: '^(virtual:|.*\\.css$)' } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.node.json' },
    enhancedResolveOptions: { exportsFields: ['exports'], conditionNames: ['import', 'default', 'types'] },
  },
};

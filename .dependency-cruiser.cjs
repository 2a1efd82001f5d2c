/** The arrows of the house: core <- contract <- server <- demo, cli; core, contract <- web; mailhost <- demo, and mailhost knows nobody. */
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

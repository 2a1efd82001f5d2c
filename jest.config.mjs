const shared = {
  testEnvironment: 'node',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      {
        jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022', transform: { react: { runtime: 'automatic' } } },
        module: { type: 'es6' },
      },
    ],
  },
  // In one file in place of one for each icon, which each test of a page would load.
  moduleNameMapper: { '^lucide-react$': '<rootDir>/node_modules/lucide-react/dist/cjs/lucide-react.js' },
  injectGlobals: false,
  setupFiles: ['<rootDir>/scripts/testSeed.mjs'],
};

/** unit: pure code. server: with a real PostgreSQL (FULVET_TEST_URL). sync: with mail servers too. browser: the real interface (CHROMIUM_PATH). */
export default {
  testTimeout: 180_000,
  projects: [
    {
      ...shared,
      displayName: 'unit',
      testMatch: ['<rootDir>/{core,contract,cli,demo,web,mailhost}/src/**/*.test.{ts,tsx}', '<rootDir>/scripts/**/*.test.mjs'],
    },
    {
      ...shared,
      displayName: 'server',
      testMatch: ['<rootDir>/server/src/**/*.test.ts', '<rootDir>/bench/src/**/*.test.ts'],
      testPathIgnorePatterns: ['/node_modules/', '<rootDir>/server/src/mailboxes/imap/'],
    },
    { ...shared, displayName: 'sync', testMatch: ['<rootDir>/server/src/mailboxes/imap/*.test.ts'] },
    { ...shared, displayName: 'browser', testMatch: ['<rootDir>/e2e/src/**/*.test.ts'] },
  ],
};

import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';
import { noDroppedRefusal } from './scripts/lint/noDroppedRefusal.mjs';

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.fulvet/**', 'server/migrations/**'] },
  {
    files: ['**/*.ts', '**/*.tsx'],
    extends: [...tseslint.configs.recommended],
    plugins: { 'react-hooks': reactHooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
      'no-control-regex': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'max-lines': ['error', { max: 300 }],
      'no-restricted-syntax': ['error', { selector: 'TSEnumDeclaration', message: 'Use a union of literals.' }],
    },
  },
  {
    files: ['server/src/**/*.ts', 'demo/src/**/*.ts', 'bench/src/**/*.ts'],
    languageOptions: { parserOptions: { project: ['tsconfig.node.json'] } },
    plugins: { fulvet: { rules: { 'no-dropped-refusal': noDroppedRefusal } } },
    rules: { 'fulvet/no-dropped-refusal': 'error' },
  },
  {
    files: ['server/src/**/*.ts'],
    ignores: ['server/src/base/db/**', '**/*.test.ts', 'server/src/testing/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        { selector: 'TSEnumDeclaration', message: 'Use a union of literals.' },
        {
          selector: "CallExpression[callee.property.name='execute'][typeArguments]",
          message: 'Read rows by rowsOf of base/db/rows.ts, which checks them against a shape.',
        },
      ],
    },
  },
  {
    files: ['web/src/**/*.tsx'],
    ignores: ['**/*.test.tsx', 'web/src/testing/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        { selector: 'TSEnumDeclaration', message: 'Use a union of literals.' },
        {
          selector:
            'JSXElement:not([openingElement.name.name=/^(?:code|kbd|Key)$/]) > JSXText[value=/[A-Za-z]{2}/], JSXFragment > JSXText[value=/[A-Za-z]{2}/]',
          message: 'Texts stand in words.ts beside the screen.',
        },
        {
          selector:
            'JSXAttribute[name.name=/^(?:label|title|legend|hint|purpose|placeholder|what|none|alt|help|heading)$/] > Literal[value=/[A-Za-z]{2} |^[A-Z][a-z]/]',
          message: 'Texts stand in words.ts beside the screen.',
        },
        {
          selector: "JSXAttribute[name.name='aria-label'] > Literal",
          message: 'Texts stand in words.ts beside the screen.',
        },
      ],
    },
  },
  // Texts are data: those of an area, and those of the demo world.
  { files: ['web/src/**/words.ts', 'demo/src/topics.ts'], rules: { 'max-lines': 'off' } },
);

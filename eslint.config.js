import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

/** Imports run one way: app, server and demo to core; core to nothing of them; app never to server, but for its entry. */
const forbid = (files, group, message) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns: [{ group, message }] }] },
});

export default tseslint.config(
  { ignores: ['build', '.react-router', 'node_modules', 'test-results'] },
  ...tseslint.configs.recommended,
  {
    plugins: { 'react-hooks': hooks },
    rules: {
      ...hooks.configs.recommended.rules,
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }],
    },
  },
  forbid(
    ['core/**/*.ts'],
    ['#demo', '~/*', '**/app/**', '**/server/**', 'react*', 'idb', 'node:*', '../*/*'],
    'core stands alone; other subjects are reached by #core/subject',
  ),
  forbid(['app/**/*.{ts,tsx}'], ['#demo', '**/core/*/*', 'node:*'], 'app reaches core by its faces, and nothing else'),
  forbid(['app/stages/**/*.{ts,tsx}'], ['**/stages/*', '#demo', 'node:*'], 'a stage never imports another stage'),
  forbid(['server/**/*.ts', 'demo/**/*.ts'], ['~/*', '**/app/**'], 'server and demo know nothing of app'),
  { files: ['app/entry.server.tsx', '**/*.test.ts', 'core/testing/**'], rules: { 'no-restricted-imports': 'off' } },
);

import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';
import { writing } from './scripts/lint-writing.mjs';

/** Rules that a change elsewhere can break, by the types that come from there. */
export const RULES_BY_TYPE = {
  // A promise that nobody waits for hides its failure; what is meant to run by itself says so by `void`.
  '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: true }],
  '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
  '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
};

export default tseslint.config(
  { ignores: ['build', '.react-router', '.tmp', 'node_modules', 'test-results'] },
  ...tseslint.configs.recommended,
  {
    // Where components and hooks are: compiling each file to look for them takes long.
    files: ['app/**/*.tsx', 'app/**/use-*.ts'],
    plugins: { 'react-hooks': hooks },
    rules: hooks.configs.recommended.rules,
  },
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }],
    },
  },
  {
    files: ['**/*.{ts,tsx}'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: RULES_BY_TYPE,
  },
  {
    // Folders are changed by the engine for changes. Besides: the adapters, what arrives from elsewhere and is no part of a
    // game yet, and what the stand-ins for the outside world do behind the program's back.
    files: ['app/**/*.{ts,tsx}'],
    ignores: [
      'app/**/*.test.ts',
      'app/**/testing/**',
      'app/folders/**',
      'app/workers/{arrival-sink,arrival-tasks,backup-task,bag-task}.ts',
      'app/commands/outside-hands.ts',
      'app/jobs/kinds/{seed,storefront-update}.ts',
    ],
    plugins: { folders: { rules: { writing } } },
    rules: { 'folders/writing': 'error' },
  },
);

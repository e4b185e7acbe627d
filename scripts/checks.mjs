import { runBeside, runTool } from './run.mjs';

/** All that can be said of the code without running it: form, faults, which folder knows which, types. */
export function runChecks() {
  // The types of routes are made from the routes.
  runTool('react-router', 'typegen');
  return runBeside(
    [
      ['prettier', '--check', '--log-level', 'warn', '.'],
      ['tsc', '-p', 'core'],
      ['dependency-cruiser', 'app', 'core', 'server', 'demo', 'bench', '--config', '.dependency-cruiser.mjs'],
      ['tsc', '-p', '.'],
    ],
    [['eslint', '.', '--max-warnings', '0']],
  );
}

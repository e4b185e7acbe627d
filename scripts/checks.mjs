import { runBeside, runTool } from './run.mjs';

/**
 * Says all that can be said of the code without running it: form, faults, which folder knows which, types.
 * @param beside tools that run beside that, in turn, once the short ones have said their part
 */
export function runChecks(...beside) {
  // The types of routes are made from the routes.
  runTool('react-router', 'typegen');
  return runBeside(
    [['scripts/check-whole.mjs']],
    [
      ['prettier', '--check', '--log-level', 'warn', '.'],
      ['dependency-cruiser', 'app', 'core', 'server', 'demo', 'bench', '--config', '.dependency-cruiser.mjs'],
      ...beside,
    ],
  );
}

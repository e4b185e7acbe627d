import { runBeside, runTool } from './run.mjs';

/**
 * Says all that can be said of the code without running it: form, faults, which folder knows which, types.
 * @param beside lists of tools: the first runs in turn after what takes long of that, the second after the rest
 */
export function runChecks([afterTypes = [], afterRest = []] = []) {
  // The types of routes are made from the routes.
  runTool('react-router', 'typegen');
  return runBeside(
    [['scripts/check-whole.mjs'], ...afterTypes],
    [
      ['prettier', '--check', '--log-level', 'warn', '.'],
      ['dependency-cruiser', 'app', 'core', 'server', 'demo', 'bench', '--config', '.dependency-cruiser.mjs'],
      ...afterRest,
    ],
  );
}

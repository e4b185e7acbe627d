import { existsSync } from 'node:fs';
import { affected } from './affected.mjs';
import { runChecks } from './checks.mjs';
import { installPackages, runBeside, runTool } from './run.mjs';

/*
 * npm run check: what npm test says before it runs anything, of what has changed against the last commit and of what imports that.
 * npm run check -- --all: of everything, as npm test does.
 */
installPackages();
const some = process.argv.includes('--all') ? undefined : affected();
if (!some) await runChecks();
else if (some.changed.length === 0)
  console.log('Nothing has changed against the last commit. --all checks everything.');
else {
  console.log(`Checking ${some.changed.length} changed files, and ${some.code.length} with what imports them.`);
  if (!existsSync('.react-router/types')) runTool('react-router', 'typegen');
  // A test that is named is looked at like any other file, though it may look inside what it tests.
  const cruised = some.changed.filter(
    (path) => /^(app|core|server|demo|bench)\/.*\.(ts|tsx|mjs)$/.test(path) && !/\.test\.ts$|\/testing\//.test(path),
  );
  const others = runBeside([
    ['prettier', '--check', '--log-level', 'warn', '--ignore-unknown', ...some.changed],
    ...(cruised.length > 0 ? [['dependency-cruiser', ...cruised, '--config', '.dependency-cruiser.mjs']] : []),
  ]);
  const { holdsIn } = await import('./types-and-rules.mjs');
  const holds = await holdsIn(some.changed, some.code);
  await others;
  if (!holds) process.exit(1);
}

import { runChecks } from './checks.mjs';
import { installPackages } from './run.mjs';

/* npm run check: what npm test says before it runs anything. */
installPackages();
await runChecks();

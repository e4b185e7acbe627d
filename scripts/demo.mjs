import { buildWhereStale } from './build.mjs';
import { installPackages } from './run.mjs';
import { serveHere } from './server.mjs';

console.log('Installing what is missing.');
installPackages();
buildWhereStale();
console.log('Starting the server.');
const address = await serveHere(process.env.PORT ?? '4173', { REGRESSUM_DEMO: 'yes' });
console.log(`\nRegressum's demo: ${address}  (Ctrl C ends it)\n`);
if (process.env.REGRESSUM_ROOTS) console.log(`Serves ${process.env.REGRESSUM_ROOTS} to whoever has that token.\n`);

import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { get } from 'node:http';
import { installPackages, runTool } from './run.mjs';

const PORT = process.env.PORT ?? '4173';
const ADDRESS = `http://127.0.0.1:${PORT}/`;

// Whoever asks for files below REGRESSUM_ROOTS has to know it; each start has a new one.
const token = process.env.REGRESSUM_ROOTS ? randomBytes(16).toString('hex') : undefined;

console.log('Installing what is missing.');
installPackages();
console.log('Building the pages and the server.');
runTool('react-router', 'build');
console.log('Starting the server.');
// Loopback only: nobody else on the network can reach the server.
const server = spawn(process.execPath, ['build/server/index.js'], {
  stdio: 'inherit',
  env: { ...process.env, HOST: '127.0.0.1', PORT, NODE_ENV: 'production', ...(token && { REGRESSUM_TOKEN: token }) },
});
server.on('exit', (status) => process.exit(status ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));

/** Whether the server answers yet. */
const answers = () =>
  new Promise((resolve) => {
    get(ADDRESS, (response) => {
      response.resume();
      resolve(true);
    }).on('error', () => resolve(false));
  });

while (!(await answers())) await new Promise((resolve) => setTimeout(resolve, 200));
console.log(`\nRegressum's demo: ${ADDRESS}  (Ctrl C ends it)\n`);
if (token) console.log(`Serves ${process.env.REGRESSUM_ROOTS} to whoever has this token: ${token}\n`);

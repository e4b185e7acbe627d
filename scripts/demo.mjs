import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { installPackages, run } from './run.mjs';

const PORT = process.env.PORT ?? '4173';

// Whoever asks for files below REGRESSUM_ROOTS has to know it; each start has a new one.
const token = process.env.REGRESSUM_ROOTS ? randomBytes(16).toString('hex') : undefined;

installPackages();
run('npx', ['react-router', 'build']);
// Loopback only: nobody else on the network can reach the server.
const server = spawn('npx', ['react-router-serve', 'build/server/index.js'], {
  stdio: ['inherit', 'ignore', 'inherit'],
  env: { ...process.env, HOST: '127.0.0.1', PORT, NODE_ENV: 'production', REGRESSUM_TOKEN: token },
});
console.log(`\nRegressum's demo: http://127.0.0.1:${PORT}/  (Ctrl C ends it)\n`);
if (token) console.log(`Serves ${process.env.REGRESSUM_ROOTS} to whoever has this token: ${token}\n`);
server.on('exit', (status) => process.exit(status ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));

import { spawn } from 'node:child_process';
import { existsSync } from 'node:fs';

/**
 * Starts the built server on a port of this machine, and waits until it answers.
 * @param more what it is told besides, as its environment has it
 */
export async function startServer(port, more = {}) {
  if (!existsSync('build/server/index.js')) throw new Error('build it first: npx react-router build');
  const server = spawn(process.execPath, ['build/server/index.js'], {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), NODE_ENV: 'production', ...more },
  });
  const answers = () =>
    fetch(`http://127.0.0.1:${port}/mark.svg`, { headers: { Connection: 'close' } }).then(
      () => true,
      () => false,
    );
  for (let tries = 0; !(await answers()); tries++) {
    if (tries > 600 || server.exitCode !== null) throw new Error('the server does not answer');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  return server;
}

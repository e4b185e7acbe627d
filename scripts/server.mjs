import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { get } from 'node:http';
import { BUILT_SERVER } from './build.mjs';

/**
 * Node's own arguments for the server. It streams, and keeps little; without a limit V8 lets garbage pile up by the size of
 * the machine's memory, which is seen as memory that the server takes.
 */
export const SERVER_LIMITS = ['--max-old-space-size=512'];

/** Whether the server at an address answers yet. */
const answers = (address) =>
  new Promise((resolve) => {
    get(`${address}mark.svg`, { agent: false }, (response) => {
      response.resume();
      resolve(true);
    }).on('error', () => resolve(false));
  });

/** A program that a signal has ended has no exit code. */
const hasEnded = ({ exitCode, signalCode }) => exitCode !== null || signalCode !== null;

/**
 * Starts the built server on a port of this machine, and waits until it answers. Loopback only: nobody else on the network
 * can reach it.
 * @param env what it is told besides, as its environment has it
 * @throws Error where it is not built, where another program answers on the port, or where it ends before it has answered
 */
export async function startServer(port, env, options = { stdio: 'inherit' }) {
  if (!existsSync(BUILT_SERVER)) throw new Error('build it first: npx react-router build');
  const address = `http://127.0.0.1:${port}/`;
  // Its answers would be taken for those of the one that is started here.
  if (await answers(address)) throw new Error(`another program answers on ${address} already`);
  const server = spawn(process.execPath, [...SERVER_LIMITS, BUILT_SERVER], {
    ...options,
    env: { ...process.env, HOST: '127.0.0.1', PORT: String(port), NODE_ENV: 'production', ...env },
  });
  while (!(await answers(address))) {
    if (hasEnded(server)) throw new Error('the server has ended before it answered');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  return server;
}

/**
 * As {@link startServer}, for a person: it ends with this program, and this program with it.
 * @returns its address, with the token of this start, which whoever asks for more than pages has to know. The part behind #
 *   never leaves the browser, which takes it out of the address at once.
 */
export async function serveHere(port, env) {
  const token = randomBytes(16).toString('hex');
  let server;
  try {
    server = await startServer(port, { REGRESSUM_TOKEN: token, ...env });
  } catch (error) {
    // The server has said why itself.
    console.error(error.message);
    process.exit(1);
  }
  let isStopped = false;
  server.on('exit', (status, signal) => {
    if (isStopped) process.exit(0);
    console.error(`The server has ended by itself (${signal ?? `exit code ${status}`}).`);
    process.exit(status || 1);
  });
  for (const signal of ['SIGINT', 'SIGTERM'])
    process.on(signal, () => {
      isStopped = true;
      server.kill(signal);
    });
  return `http://127.0.0.1:${port}/#token=${token}`;
}

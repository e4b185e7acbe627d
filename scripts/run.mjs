import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';

/** Runs a command in the project's folder with its output shown; a failure ends the whole script with its status. */
export function run(command, args, environment = {}) {
  const { status } = spawnSync(command, args, { stdio: 'inherit', env: { ...process.env, ...environment } });
  if (status !== 0) {
    console.error(`\n${command} ${args.join(' ')} ended with ${status}`);
    process.exit(status ?? 1);
  }
}

/**
 * Runs lists of commands beside one another, the commands of a list in turn. What a command says is shown when it has
 * ended, so that nothing is mixed up; the first failure ends the whole script with its status.
 */
export function runBeside(...lists) {
  const one = ([command, args]) =>
    new Promise((resolve) => {
      const said = [];
      const child = spawn(command, args);
      child.stdout.on('data', (data) => said.push(data));
      child.stderr.on('data', (data) => said.push(data));
      child.on('close', (status) => {
        process.stdout.write(Buffer.concat(said));
        if (status === 0) return resolve();
        console.error(`\n${command} ${args.join(' ')} ended with ${status}`);
        process.exit(status ?? 1);
      });
    });
  return Promise.all(
    lists.map(async (commands) => {
      for (const command of commands) await one(command);
    }),
  );
}

/** Installs the packages unless just this lock file was installed already. */
export function installPackages() {
  const mark = 'node_modules/.installed-lock';
  const lock = readFileSync('package-lock.json', 'utf8');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  // Not `npm ci`: npm 11 leaves the other platforms' optional binaries out of the lock file and then refuses it.
  run('npm', ['install', '--no-save', '--no-audit', '--no-fund']);
  writeFileSync(mark, lock);
}

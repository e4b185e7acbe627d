import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';

/**
 * The script of a tool that is installed here, for this very Node to run: what starts tools by their name has another name
 * on each system.
 */
function scriptOf(tool) {
  const folder = `node_modules/${tool}`;
  const { bin } = JSON.parse(readFileSync(`${folder}/package.json`, 'utf8'));
  return `${folder}/${typeof bin === 'string' ? bin : Object.values(bin)[0]}`;
}

/** The package that a tool comes in, where it is called otherwise. */
const PACKAGES = { 'react-router': '@react-router/dev', tsc: 'typescript', playwright: '@playwright/test' };

/** Arguments of Node that run a tool, or a script of our own. */
const toolArguments = ([tool, ...args]) => [tool.endsWith('.mjs') ? tool : scriptOf(PACKAGES[tool] ?? tool), ...args];

function endWith(what, status) {
  console.error(`\n${what} ended with ${status}`);
  process.exit(status ?? 1);
}

/** Runs a command in the project's folder with its output shown; a failure ends the whole script with its status. */
export function run(command, args, options = {}) {
  const { status } = spawnSync(command, args, { stdio: 'inherit', ...options });
  if (status !== 0) endWith([command, ...args].join(' '), status);
}

/** As {@link run}, a tool that is installed here: its name and arguments. */
export function runTool(...tool) {
  const { status } = spawnSync(process.execPath, toolArguments(tool), { stdio: 'inherit' });
  if (status !== 0) endWith(tool.join(' '), status);
}

/** As {@link runTool}; what the tool says is shown only where it fails. */
export function runToolSilently(...tool) {
  const { status, stdout, stderr } = spawnSync(process.execPath, toolArguments(tool), { maxBuffer: 1 << 28 });
  if (status === 0) return;
  process.stderr.write(Buffer.concat([stdout, stderr]));
  endWith(tool.join(' '), status);
}

/**
 * Runs lists of tools beside one another, the tools of a list in turn. What a tool says is shown when it has ended, so that
 * nothing is mixed up; the first failure ends the whole script with its status.
 */
export function runBeside(...lists) {
  const running = new Set();
  const one = (tool) =>
    new Promise((resolve) => {
      const said = [];
      const child = spawn(process.execPath, toolArguments(tool));
      running.add(child);
      child.stdout.on('data', (data) => said.push(data));
      child.stderr.on('data', (data) => said.push(data));
      child.on('close', (status) => {
        running.delete(child);
        process.stdout.write(Buffer.concat(said));
        if (status === 0) return resolve();
        // They would go on by themselves.
        for (const other of running) other.kill();
        endWith(tool.join(' '), status);
      });
    });
  return Promise.all(
    lists.map(async (tools) => {
      for (const tool of tools) await one(tool);
    }),
  );
}

/** Installs the packages unless just this lock file was installed already. */
export function installPackages() {
  const mark = 'node_modules/.installed-lock';
  const lock = readFileSync('package-lock.json', 'utf8');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  // Not `npm ci`: npm 11 leaves the other platforms' optional binaries out of the lock file and then refuses it.
  // npm tells its own script to what it runs; without it, a shell finds npm by its name on every system.
  // Whoever has bundled something before runs as if in production, where npm would take the tools away.
  const args = ['install', '--no-save', '--no-audit', '--no-fund', '--include=dev'];
  if (process.env.npm_execpath) run(process.execPath, [process.env.npm_execpath, ...args]);
  else run(['npm', ...args].join(' '), [], { shell: true });
  writeFileSync(mark, lock);
}

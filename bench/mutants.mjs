import { execFileSync, spawn } from 'node:child_process';
import {
  chmodSync,
  cpSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import ts from 'typescript';
import { chance } from './chance.mjs';
import { changed, KINDS, probed, sitesOf } from './mutant-sites.mjs';

/*
 * node bench/mutants.mjs [N] [SEED] [FOLDER...]
 * Makes N (300) small changes, one at a time, each by itself a defect as a rule: a condition turned, a bound moved, a call or a
 * statement left out, a constant or a sign changed, two arguments swapped. Where, is chosen by SEED (1) in the files below each FOLDER
 * (core, app and server; not markup), every kind as often as every other. Runs the unit tests that reach the place, as one run without any change has shown,
 * until one fails. Lists what no test noticed, with file and line; some of it may be no defect at all, which a person has to say.
 * Works in copies of the checkout in .tmp, as many at a time as there are processors. Prints one line of JSON: `noticed` of `of`, the
 * `unreached` among the others, and the same by folder.
 */
const [count = '300', seed = '1', ...named] = process.argv.slice(2);
const FOLDERS = named.length > 0 ? named : ['core', 'app', 'server'];
/** Whoever takes that many times what all its tests took without a change, and a minute, hangs. */
const HANGS = 4;
const MINUTE = 60_000;

mkdirSync('.tmp', { recursive: true });
const work = realpathSync(mkdtempSync('.tmp/mutants-'));
const git = (...args) => execFileSync('git', args, { encoding: 'utf8' }).split('\0').filter(Boolean);
const isCode = (path) => path.endsWith('.ts') && !/\.test\.ts$|\.d\.ts$|(^|\/)testing\//.test(path);
const isBelow = (path) => FOLDERS.some((folder) => path.startsWith(`${folder.replace(/\/$/, '')}/`));
const tracked = git('ls-files', '-z', '--cached', '--others', '--exclude-standard');

/** The checkout as it was at the start, whatever is worked on meanwhile. */
const START = join(work, 'start');
for (const path of tracked) {
  mkdirSync(dirname(join(START, path)), { recursive: true });
  cpSync(path, join(START, path));
}
const textAt = (path) => readFileSync(join(START, path), 'utf8');

/** A copy of it, with the same packages. */
function copied(name) {
  const folder = join(work, name);
  cpSync(START, folder, { recursive: true });
  // Linked file by file: packages that lie outside the copy would be asked for by other addresses.
  execFileSync('cp', ['-al', realpathSync('node_modules'), join(folder, 'node_modules')]);
  return folder;
}

/** @returns {Promise<{passed: boolean, seconds: number, output: string}>} */
function runTests(folder, tests, { env = {}, args = [], most = 60 * MINUTE } = {}) {
  const start = performance.now();
  return new Promise((resolve) => {
    const vitest = spawn(process.execPath, ['node_modules/vitest/vitest.mjs', 'run', ...args, ...tests], {
      ...{ cwd: folder, env: { ...process.env, ...env }, detached: true },
    });
    const said = [];
    for (const stream of [vitest.stdout, vitest.stderr]) stream.on('data', (data) => said.push(data));
    const timer = setTimeout(() => process.kill(-vitest.pid, 'SIGKILL'), most);
    vitest.on('close', (status) => {
      clearTimeout(timer);
      resolve({
        passed: status === 0,
        seconds: (performance.now() - start) / 1000,
        output: Buffer.concat(said).toString(),
      });
    });
  });
}

/** The places to change, as many of every kind as of every other where there are enough. */
function chosenSites() {
  const random = chance(seed);
  const paths = tracked.filter((path) => isCode(path) && isBelow(path));
  const { config } = ts.readConfigFile('tsconfig.json', ts.sys.readFile);
  const { options } = ts.parseJsonConfigFileContent(config, ts.sys, '.');
  const program = ts.createProgram(paths, options);
  const byKind = new Map(KINDS.map((kind) => [kind, []]));
  for (const path of paths) {
    const file = program.getSourceFile(path);
    for (const site of sitesOf(file, program.getTypeChecker())) {
      const line = file.getLineAndCharacterOfPosition(site.start).line + 1;
      byKind.get(site.kind).push({ ...site, path, line, was: file.text.slice(site.start, site.end) });
    }
  }
  const chosen = [];
  while (chosen.length < Number(count)) {
    const kinds = KINDS.filter((kind) => byKind.get(kind).length > 0);
    if (kinds.length === 0) break;
    const left = byKind.get(random.one(kinds));
    chosen.push(...left.splice(random.upTo(left.length), 1));
  }
  return chosen;
}

/** Tells the tests, and what they start, under which name they note what they reach. */
const NOTING = {
  'mutants.setup.ts': `import { expect } from 'vitest';
import { relative } from 'node:path';
process.env.MUTANTS_TEST = relative(import.meta.dirname, expect.getState().testPath!).replaceAll('/', '!');
`,
  'mutants.config.ts': `import { mergeConfig } from 'vitest/config';
import config from './vitest.config.ts';
export default mergeConfig(config, { test: { setupFiles: ['./mutants.setup.ts'] } });
`,
};

/** Runs all tests once without a change. @returns for each site the test files that reach it, what takes least first, with their seconds */
async function reaching(sites) {
  const folder = copied('probed');
  const reached = join(work, 'reached');
  mkdirSync(reached);
  // Some tests have another person run what they test.
  chmodSync(work, 0o755);
  chmodSync(reached, 0o777);
  for (const path of new Set(sites.map((site) => site.path))) {
    const numbered = sites.flatMap((site, number) => (site.path === path ? [[number, site]] : []));
    writeFileSync(join(folder, path), probed(textAt(path), numbered));
  }
  const report = join(work, 'report.json');
  for (const [name, text] of Object.entries(NOTING)) writeFileSync(join(folder, name), text);
  const args = ['--config', 'mutants.config.ts', '--reporter=json', `--outputFile=${report}`];
  const { passed, output } = await runTests(folder, [], { args, env: { MUTANTS_REACHED: reached } });
  const { testResults } = JSON.parse(readFileSync(report, 'utf8'));
  if (!passed) {
    const failed = testResults.flatMap(({ name, message, assertionResults }) => [
      ...(message ? [`${name}: ${message}`] : []),
      ...assertionResults.flatMap(({ status, fullName, failureMessages }) =>
        status === 'failed' ? [`${name}: ${fullName}\n${failureMessages.join('\n')}`] : [],
      ),
    ]);
    throw new Error(`Tests fail without a change:\n${[...failed, output].join('\n').slice(0, 20_000)}`);
  }
  const seconds = new Map(
    testResults.map(({ name, startTime, endTime }) => [name.slice(folder.length + 1), (endTime - startTime) / 1000]),
  );
  const tests = sites.map(() => []);
  for (const name of readdirSync(reached)) {
    const [number, test] = name.split('~');
    tests[Number(number)].push(test.replaceAll('!', '/'));
  }
  rmSync(folder, { recursive: true });
  return tests.map((of) =>
    of.map((path) => ({ path, seconds: seconds.get(path) ?? 0 })).toSorted((a, b) => a.seconds - b.seconds),
  );
}

/** Whether a test fails with the change. Those beside the file, or that take a moment, are asked first. */
async function isNoticed(folder, site, tests) {
  const text = textAt(site.path);
  writeFileSync(join(folder, site.path), changed(text, site));
  const isNear = ({ path, seconds }) => dirname(path) === dirname(site.path) || seconds < 0.5;
  try {
    for (const part of [tests.filter(isNear), tests.filter((test) => !isNear(test))]) {
      if (part.length === 0) continue;
      const most = HANGS * 1000 * part.reduce((sum, { seconds }) => sum + seconds, 0) + MINUTE;
      const paths = part.map(({ path }) => path);
      const { passed } = await runTests(folder, paths, { args: ['--bail', '1', '--maxWorkers', '1'], most });
      if (!passed) return true;
    }
    return false;
  } finally {
    writeFileSync(join(folder, site.path), text);
  }
}

/** The folder that a file is counted under: of app its own one. */
const folderOf = (path) =>
  path
    .split('/')
    .slice(0, path.startsWith('app/') ? 2 : 1)
    .join('/');

try {
  const sites = chosenSites();
  const tests = await reaching(sites);
  const outcomes = [];
  const queue = sites.keys();
  await Promise.all(
    Array.from({ length: availableParallelism() }, async (_, i) => {
      const folder = copied(`copy-${i}`);
      for (const number of queue) {
        const site = sites[number];
        const noticed = tests[number].length > 0 && (await isNoticed(folder, site, tests[number]));
        outcomes.push({ site, noticed, isReached: tests[number].length > 0 });
        if (noticed) continue;
        const inOneLine = (text) => text.replace(/\s+/g, ' ').slice(0, 160);
        console.log(
          `${site.path}:${site.line}  ${site.kind}${tests[number].length > 0 ? '' : ', reached by no test'}: ${inOneLine(site.was)}  ->  ${inOneLine(site.text)}`,
        );
      }
    }),
  );
  const counted = (of) => ({
    noticed: of.filter(({ noticed }) => noticed).length,
    of: of.length,
    unreached: of.filter(({ isReached }) => !isReached).length,
  });
  const names = [...new Set(outcomes.map(({ site }) => folderOf(site.path)))].toSorted();
  const folders = Object.fromEntries(
    names.map((name) => [name, counted(outcomes.filter(({ site }) => folderOf(site.path) === name))]),
  );
  console.log(JSON.stringify({ bench: 'mutants', seed, ...counted(outcomes), folders }));
} finally {
  rmSync(work, { recursive: true, force: true });
}

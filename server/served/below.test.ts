import { execFileSync, spawn } from 'node:child_process';
import {
  chmodSync,
  closeSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { bundle } from '../../scripts/bundle.mjs';
import { failureCode } from '../../core/testing/digest';
import { holdRoot, openFileBelow, openFolderBelow, type Opening } from './below';

/** How often something is tried while another process exchanges a folder for a link: most of what can meet has met by then. */
const TRIES = 2000;

const work = realpathSync(mkdtempSync(join(tmpdir(), 'regressum-below-')));
const place = (path: string): string => join(work, path);
const SECRET = 'secret';

beforeAll(() => {
  mkdirSync(place('root/tables/deep'), { recursive: true });
  mkdirSync(place('elsewhere'));
  writeFileSync(place('root/tables/deep/a'), 'a');
  writeFileSync(place('elsewhere/a'), SECRET);
  writeFileSync(place('secret'), SECRET);
  symlinkSync(place('elsewhere'), place('root/away'));
  symlinkSync(place('root/tables'), place('root/inside'));
  symlinkSync(place('secret'), place('root/tables/link'));
  symlinkSync('nowhere', place('root/tables/broken'));
  execFileSync('mkfifo', [place('root/tables/pipe')]);
});
afterAll(() => rmSync(work, { recursive: true }));

function read(fd: number): string {
  const buffer = Buffer.alloc(100);
  const length = readSync(fd, buffer, 0, 100, 0);
  closeSync(fd);
  return buffer.toString('utf8', 0, length);
}

describe.each<Opening>(['walk', 'prove'])('opened by the way to %s it', (opening) => {
  const open = (path: string): string => read(openFileBelow(holdRoot(place('root'), opening), path));

  it('a file is read', () => {
    expect(open('tables/deep/a')).toBe('a');
  });

  it.each([
    ['away/a', 'served/outside'],
    ['inside/deep/a', 'served/outside'],
    ['tables/link', 'served/outside'],
    ['tables/broken', 'served/outside'],
    ['tables/pipe', 'folder/not-a-file'],
    ['tables/deep', 'folder/not-found'],
    ['tables/deep/a/b', 'folder/not-found'],
    ['tables/none', 'folder/not-found'],
    ['', 'folder/not-found'],
    ['../secret', 'served/outside'],
    ['tables//deep/a', 'served/outside'],
    [`tables/${'n'.repeat(300)}`, 'folder/not-found'],
  ])('%j: %s', (path, code) => {
    expect(failureCode(() => open(path))).toBe(code);
  });

  it('a root is the folder that it was at the start', () => {
    const held = holdRoot(place('root'), opening);
    renameSync(place('root'), place('moved'));
    try {
      symlinkSync(place('elsewhere'), place('root'));
      expect(failureCode(() => openFileBelow(held, 'a'))).toBe('served/root-replaced');
      rmSync(place('root'));
      expect(failureCode(() => openFolderBelow(held, ''))).toBe('served/root-replaced');
    } finally {
      renameSync(place('moved'), place('root'));
    }
    expect(read(openFileBelow(held, 'tables/deep/a'))).toBe('a');
  });

  it('nothing of a link is read that is put in its place meanwhile', async () => {
    const [folder, target] = [place('root/tables/deep'), place('elsewhere')];
    const exchange = `const { renameSync, symlinkSync, unlinkSync } = require('fs');
      for (;;) { renameSync('${folder}', '${folder}.kept'); symlinkSync('${target}', '${folder}');
        unlinkSync('${folder}'); renameSync('${folder}.kept', '${folder}'); }`;
    const other = spawn(process.execPath, ['-e', exchange], { stdio: 'ignore' });
    const held = holdRoot(place('root'), opening);
    const found = new Map<string, number>();
    for (let tries = 0; tries < TRIES || !found.has('a'); tries++) {
      let outcome = '';
      const code = failureCode(() => (outcome = read(openFileBelow(held, 'tables/deep/a'))));
      const what = code === 'accepted' ? outcome : code;
      found.set(what, (found.get(what) ?? 0) + 1);
      await new Promise((resolve) => setImmediate(resolve));
    }
    const ended = new Promise((resolve) => other.once('exit', resolve));
    other.kill('SIGKILL');
    await ended;
    // It may have been ended at any point.
    if (failureCode(() => openFolderBelow(held, 'tables/deep').close()) !== 'accepted') {
      rmSync(folder, { force: true });
      renameSync(`${folder}.kept`, folder);
    }
    expect([...found.keys()].filter((what) => what !== 'a' && !what.includes('/'))).toEqual([]);
    expect(found.get('a')).toBeGreaterThan(0);
  });
});

it('what may not be read is said to be so', async () => {
  const module = place('below.mjs');
  writeFileSync(module, await bundle('server/served/below.ts', { forNode: true }));
  mkdirSync(place('root/shut'));
  writeFileSync(place('root/shut/a'), 'a');
  writeFileSync(place('root/closed'), 'a');
  chmodSync(place('root/shut'), 0);
  chmodSync(place('root/closed'), 0);
  const script = `import { holdRoot, openFileBelow } from '${module}';
    const root = holdRoot('${place('root')}');
    for (const path of ['shut/a', 'closed']) { try { openFileBelow(root, path); console.log('opened'); } catch ({ code }) { console.log(code); } }`;
  writeFileSync(place('try.mjs'), script);
  for (const path of ['', 'below.mjs', 'try.mjs']) chmodSync(place(path), 0o755);
  // Nobody: for root, permissions do not hold.
  const asNobody = process.getuid?.() === 0 ? { uid: 65534, gid: 65534 } : {};
  const said = execFileSync(process.execPath, [place('try.mjs')], { encoding: 'utf8', ...asNobody });
  chmodSync(place('root/shut'), 0o755);
  expect(said.trim().split('\n')).toEqual(['folder/no-permission', 'folder/no-permission']);
  expect(readFileSync(place('root/closed'), 'utf8')).toBe('a');
});

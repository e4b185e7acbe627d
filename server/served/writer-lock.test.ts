import { spawnSync } from 'node:child_process';
import { describe, expect, it } from 'vitest';
import { giveLockBack, type LockFiles, renewLock, takeLock } from './writer-lock';

function filesOf(
  there: Record<string, string> = {},
): LockFiles & { all: Map<string, string>; write: (name: string, text: string) => void } {
  const all = new Map(Object.entries(there));
  return {
    all,
    create: (name, text) => (all.has(name) ? false : (all.set(name, text), true)),
    read: (name) => all.get(name),
    remove: (name) => void all.delete(name),
    write: (name, text) => void all.set(name, text),
  };
}

/** A process that is no more. */
const gone = spawnSync(process.execPath, ['-e', '']).pid;
const own = (): Record<string, unknown> => {
  const files = filesOf();
  takeLock(files, 0);
  return JSON.parse(files.read('lock.dat')!) as Record<string, unknown>;
};
const left = (change: Record<string, unknown>): string => JSON.stringify({ ...own(), ...change });

describe('the lock of who writes into a store', () => {
  it('is had by one alone, who gives it back', () => {
    const files = filesOf();
    expect(takeLock(files, 0)).toBeUndefined();
    expect([...files.all.keys()]).toEqual(['lock.dat']);
    giveLockBack(files);
    expect(files.all.size).toBe(0);
  });

  it.each<[string, string]>([
    ['a process that is no more', left({ pid: gone })],
    [
      'a process of an earlier start of the machine, whose number another has by now',
      left({ pid: 1, boot: 'another' }),
    ],
    ['an earlier process of the same number', left({ pid: 1, started: '-1' })],
    ['a thread of this process that died', left({})],
    ['somebody who was cut off while making it', '{"pid":'],
    ['a version before this one, whose process is gone', JSON.stringify({ pid: gone })],
  ])('is taken over from %s', (_, text) => {
    const files = filesOf({ 'lock.dat': text });
    expect(takeLock(files, 0)).toBeUndefined();
    expect(JSON.parse(files.read('lock.dat')!)).toMatchObject({ pid: process.pid });
    expect(files.all.size).toBe(1);
  });

  it.each<[string, string]>([
    ['another process', left({ pid: 1, started: undefined, until: 5 })],
    ['a version before this one', JSON.stringify({ pid: 1 })],
  ])('is not taken from %s that is at work', (_, text) => {
    const files = filesOf({ 'lock.dat': text });
    expect(takeLock(files, 0)).toMatchObject({ pid: 1 });
    giveLockBack(files);
    renewLock(files, 7);
    expect([...files.all]).toEqual([['lock.dat', text]]);
  });

  it('that nobody renews any more is taken, where the system cannot tell processes apart', () => {
    const files = filesOf({ 'lock.dat': left({ pid: 1, started: undefined, until: 5 }) });
    expect(takeLock(files, 6)).toBeUndefined();
    renewLock(files, 1_000_000);
    expect(JSON.parse(files.read('lock.dat')!)).toMatchObject({ until: 1_600_000 });
  });

  it('is removed by nobody while another removes it', () => {
    const files = filesOf({
      'lock.dat': left({ pid: gone }),
      'lock-taking.dat': left({ pid: 1, started: undefined, until: 5 }),
    });
    expect(takeLock(files, 0)).toBeDefined();
    // Whoever was cut off in that moment keeps nobody from it for good.
    files.write('lock-taking.dat', left({ pid: gone }));
    expect(takeLock(files, 0)).toBeDefined();
    expect(takeLock(files, 0)).toBeUndefined();
  });
});

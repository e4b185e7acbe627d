import { createHash } from 'node:crypto';
import { closeSync } from 'node:fs';
import type { Crew } from '#core/calls';
import type { ChangePorts, Disk } from '#core/changes';
import { isFailure } from '#core/failure';
import type { HashOutcome, HashWish } from '#core/folders';
import { hashOpen } from './hash-open';
import type { LookWork } from './look-protocol';
import type { NodeDisk } from './node-disk';

type Hash = ChangePorts['hash'];

/** Hashes in this thread. */
export const hashHere =
  (disk: NodeDisk): Hash =>
  async (files) =>
    files.map((wish) => {
      try {
        const fd = disk.descriptor(wish.path);
        try {
          return hashOpen(fd, wish);
        } finally {
          closeSync(fd);
        }
      } catch (error) {
        if (isFailure(error)) return { code: error.code };
        throw error;
      }
    });

/** Files that a thread hashes before it is asked for more. */
const HASHED_AT_ONCE = 64;

/** A single file of no more than this is hashed sooner than another thread has been asked to. */
const SMALL = 1 << 20;

/** Hashes in threads of their own, while this one goes on. */
export const hashBeside =
  (disk: NodeDisk, crew: Crew<LookWork>): Hash =>
  async (files) => {
    if (files.length === 1 && files[0]!.size <= SMALL) return hashHere(disk)(files);
    const wishes = files.map((wish, index) => ({ index, wish, ...disk.placeOf(wish.path) }));
    // A set's files lie below the store's root, the game's, or both.
    const batches = [...new Set(wishes.map(({ root }) => root))].flatMap((root) => {
      const all = wishes.filter((wish) => wish.root === root);
      return Array.from({ length: Math.ceil(all.length / HASHED_AT_ONCE) }, (_, i) => ({
        root,
        some: all.slice(i * HASHED_AT_ONCE, (i + 1) * HASHED_AT_ONCE),
      }));
    });
    const outcomes: HashOutcome[] = [];
    await Promise.all(
      batches.map(async ({ root, some }) => {
        const asked = some.map(({ wish, path }): HashWish => ({ ...wish, path }));
        const found = await crew.run({ do: 'hash', root, folder: '', files: asked });
        for (const [i, outcome] of found.entries()) outcomes[some[i]!.index] = outcome;
      }),
    );
    return outcomes;
  };

/** What the engine for changes needs of the machine. */
export const enginePorts = (
  disk: Disk,
  { hash, signal, progress }: Pick<ChangePorts, 'hash' | 'signal' | 'progress'>,
): ChangePorts => ({
  disk,
  sha256: async (data) => createHash('sha256').update(data).digest('hex'),
  hash,
  encode: (text) => new TextEncoder().encode(text),
  decode: (bytes) => new TextDecoder('utf-8', { fatal: true }).decode(bytes),
  now: Date.now,
  signal,
  progress,
});

import { createHash } from 'node:crypto';
import { closeSync } from 'node:fs';
import type { ChangePorts, Disk } from '#core/changes';
import { isFailure } from '#core/failure';
import type { HashOutcome, HashWish } from '#core/folders';
import { hashOpen } from './hash-open';
import type { NodeDisk } from './node-disk';

function hashOne(disk: NodeDisk, wish: HashWish): HashOutcome {
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
}

/**
 * What the engine for changes needs of the machine.
 * @param disk that it changes
 * @param readFrom the same disk, to read its files natively
 */
export const enginePorts = (
  disk: Disk,
  readFrom: NodeDisk,
  signal: ChangePorts['signal'],
  progress: ChangePorts['progress'] = () => undefined,
): ChangePorts => ({
  disk,
  sha256: async (data) => createHash('sha256').update(data).digest('hex'),
  hash: async (files) => files.map((wish) => hashOne(readFrom, wish)),
  encode: (text) => new TextEncoder().encode(text),
  decode: (bytes) => new TextDecoder('utf-8', { fatal: true }).decode(bytes),
  signal,
  progress,
});

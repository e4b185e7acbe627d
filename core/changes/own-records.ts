import { z } from 'zod';
import { isFailure } from '#core/failure';
import type { ChangePorts } from './disk';

/* The small files that the store keeps of itself. Each carries the SHA-256 of its text, which tells one that was cut off. */

export type RecordPorts = Pick<ChangePorts, 'disk' | 'sha256' | 'encode' | 'decode'>;

const WrappedSchema = z.object({ sha256: z.string(), entry: z.string() });

/** Writes a record; it is durable when this returns. */
export async function putRecord({ disk, sha256, encode }: RecordPorts, path: string, value: unknown): Promise<void> {
  const entry = JSON.stringify(value);
  await disk.writeWhole(path, encode(JSON.stringify({ sha256: await sha256(entry), entry })));
  await disk.sync([path]);
}

/** The text of a record, undefined where it was cut off while it was written, or never was. */
export async function recordAt({ disk, sha256, decode }: RecordPorts, path: string): Promise<string | undefined> {
  const bytes = await disk.read(path).catch((error: unknown) => {
    if (isFailure(error, 'folder/not-found')) return undefined;
    throw error;
  });
  if (!bytes) return undefined;
  try {
    const { sha256: sum, entry } = WrappedSchema.parse(JSON.parse(decode(bytes)));
    return (await sha256(entry)) === sum ? entry : undefined;
  } catch (error) {
    // Not a record: the disk failed while it was written.
    if (isFailure(error)) throw error;
    return undefined;
  }
}

import { z } from 'zod';
import { type ContentKey, PIECE_SIZE } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { SafePathSchema } from '#core/paths';
import type { ChangePorts } from './disk';
import { readJournal } from './journal';
import { ChangeSetIdSchema, KeySchema } from './schema';
import { keyAt, MetSchema, whatTheyMeet } from './settle';

/* What is asked of a disk before it is changed, and wants its files to be read: it is answered where the disk is. */

export const InspectionSchema = z.discriminatedUnion('of', [
  /** What sets meet that are to be turned one after the other. */
  z.object({ of: z.literal('sets'), sets: z.array(ChangeSetIdSchema).max(10_000), way: z.enum(['on', 'back']) }),
  /** What lies at some paths. */
  z.object({ of: z.literal('files'), paths: z.array(SafePathSchema).max(2_000_000) }),
  /** A small text, as records are. */
  z.object({ of: z.literal('text'), path: SafePathSchema }),
]);
export type Inspection = z.infer<typeof InspectionSchema>;

/** `sets`: what they meet. `files`: the key of each, null where nothing lies. `text`: null where there is none, or it is large. */
export const InspectedSchema = z.union([
  z.object({ met: z.array(MetSchema) }),
  z.object({ keys: z.array(KeySchema.nullable()) }),
  z.object({ text: z.string().nullable() }),
]);
export type Inspected = z.infer<typeof InspectedSchema>;

/** @throws Failure `changes/unknown`, `changes/*`, `folder/*` where a file cannot be read */
export async function inspect(inspection: Inspection, ports: ChangePorts): Promise<Inspected> {
  if (inspection.of === 'files') {
    const keys: (ContentKey | null)[] = [];
    for (const path of inspection.paths) {
      if (ports.signal.aborted) throw new Failure('job/cancelled');
      keys.push(await keyAt(path, ports));
    }
    return { keys };
  }
  if (inspection.of === 'text') return { text: await textAt(inspection.path, ports) };
  const { sets, way } = inspection;
  const journals = await Promise.all(
    sets.map(async (set) => {
      const at = await readJournal(ports, set);
      if (!at) throw new Failure('changes/unknown', { set });
      return at;
    }),
  );
  // What has gone this way already meets nothing any more.
  const turned = journals.filter((at) => at.way !== way || !at.ended);
  return { met: await whatTheyMeet(turned, way, ports) };
}

async function textAt(path: string, { disk, decode }: ChangePorts): Promise<string | null> {
  const entry = await disk.stat(path);
  if (!entry || entry.size > PIECE_SIZE) return null;
  try {
    return decode(await disk.read(path));
  } catch (error) {
    if (isFailure(error)) throw error;
    // No UTF-8.
    return null;
  }
}

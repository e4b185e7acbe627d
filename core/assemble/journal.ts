import { z } from 'zod';

/** A change to what lies on disk, as it is written down before it is made. */
const ChangeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('write-files'), tree: z.string(), paths: z.array(z.string()) }),
  z.object({ kind: z.literal('checked'), tree: z.string(), digest: z.string() }),
  z.object({ kind: z.literal('write-record'), before: z.string(), after: z.string() }),
  z.object({ kind: z.literal('swap'), from: z.string(), to: z.string() }),
  z.object({ kind: z.literal('remove-tree'), tree: z.string() }),
  z.object({ kind: z.literal('flag'), path: z.string(), readOnly: z.boolean() }),
  z.object({ kind: z.literal('edit-file'), tree: z.string(), path: z.string(), by: z.string() }),
]);

export const JournalEntrySchema = z.object({
  seq: z.number().int(),
  install: z.string(),
  /** The job that makes the change; entries of one job stand in the order of their `seq`. */
  job: z.string(),
  at: z.number(),
  change: ChangeSchema,
  state: z.enum(['intended', 'done', 'undone']),
});

export type JournalChange = z.infer<typeof ChangeSchema>;
export type JournalEntry = z.infer<typeof JournalEntrySchema>;

export type NextPhase = 'write' | 'swap' | 'nothing';

/**
 * Where laying down goes on after it was interrupted anywhere, told from its journal alone. Every phase can be
 * repeated: files are put in place whole, the check reads all of them again, the swap sets one pointer.
 */
export function whereToGoOn(entries: readonly JournalEntry[]): NextPhase {
  const last = entries.toSorted((a, b) => a.seq - b.seq).findLast(({ state }) => state !== 'undone');
  switch (last?.change.kind) {
    case 'swap':
      return last.state === 'done' ? 'nothing' : 'swap';
    case 'checked':
      return last.state === 'done' ? 'swap' : 'write';
    case 'write-record':
      return 'swap';
    default:
      return 'write';
  }
}

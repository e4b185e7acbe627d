import { z } from 'zod';
import { keySize } from '#core/digest';
import { isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import type { Journalled } from './journal';
import { putRecord, recordAt, type RecordPorts } from './own-records';
import { CHANGE_KINDS, ChangeSetIdSchema, type ChangeSet, PLACES, treeFolder } from './schema';
import { changedPaths, isReady } from './steps';

/* What was done to an install's folder, told briefly: by its change sets, and by others. */

const CountsSchema = z.object({
  /** Files that were got ready, and their bytes. */
  written: z.number(),
  bytes: z.number(),
  /** Files that were put over others, or where none was. */
  replaced: z.number(),
  added: z.number(),
  removed: z.number(),
  moved: z.number(),
  /** Read-only flags that were set or cleared; entries of earlier versions do not say. */
  flagged: z.number().exactOptional(),
  /** Whether the folder was swapped for another one. */
  swapped: z.boolean(),
});

export const HISTORY_VERSION = 1;

export const HistoryEntrySchema = z.object({
  version: z.literal(HISTORY_VERSION),
  id: ChangeSetIdSchema,
  /** When it was planned, or noticed; milliseconds since 1970, as all times here. */
  at: z.number(),
  /** `outside`: by others, as a survey found it. */
  what: z.enum([...CHANGE_KINDS, 'outside']),
  facts: z.record(z.string(), z.string().max(500)),
  counts: CountsSchema,
  /** `let-go`: in effect, `undone`: taken back, each for good. */
  state: z.enum(['planned', 'unfinished', 'made', 'taken-back', 'let-go', 'undone', 'seen']),
  begunAt: z.number().exactOptional(),
  endedAt: z.number().exactOptional(),
  letGoAt: z.number().exactOptional(),
});
export type HistoryEntry = z.infer<typeof HistoryEntrySchema>;

function stateOf({ way, ended }: Journalled): HistoryEntry['state'] {
  if (way === undefined) return 'planned';
  if (!ended) return 'unfinished';
  return way === 'on' ? 'made' : 'taken-back';
}

function countsOf({ steps }: ChangeSet): HistoryEntry['counts'] {
  const counts = { written: 0, bytes: 0, replaced: 0, added: 0, removed: 0, moved: 0, flagged: 0, swapped: false };
  for (const step of steps) {
    switch (step.do) {
      case 'copy':
      case 'write':
        counts.written += 1;
        counts.bytes += keySize(step.key);
        break;
      case 'place':
        counts[step.before === null ? 'added' : 'replaced'] += 1;
        break;
      case 'take':
        counts.removed += 1;
        break;
      case 'move':
        counts.moved += 1;
        break;
      case 'exchange':
        counts.swapped = true;
        break;
      case 'flag':
        counts.flagged += 1;
        break;
      case 'leave':
    }
  }
  return counts;
}

/** What a change set did, or is to do. */
export function entryOf(journalled: Journalled): HistoryEntry {
  const { set, begunAt, endedAt } = journalled;
  const { id, at, what, facts } = set;
  return {
    ...{ version: HISTORY_VERSION, id, at, what, facts, counts: countsOf(set), state: stateOf(journalled) },
    ...(begunAt !== undefined && { begunAt }),
    ...(endedAt !== undefined && { endedAt }),
  };
}

const pathOf = (id: string): string => `${PLACES.history}/${id}.dat`;

/** Keeps an entry; it is durable when this returns. */
export const putHistory = (ports: RecordPorts, entry: HistoryEntry): Promise<void> =>
  putRecord(ports, pathOf(entry.id), entry);

/**
 * All entries that outlast their change sets, and what others did; and the paths of those that cannot be read. One that was
 * cut off while it was written is left out.
 */
export async function readHistory(
  ports: RecordPorts,
): Promise<{ entries: HistoryEntry[]; unreadable: readonly string[] }> {
  const files = await ports.disk.list(PLACES.history);
  const entries: HistoryEntry[] = [];
  const unreadable: string[] = [];
  for (const { path } of files) {
    const text = await recordAt(ports, path);
    if (text === undefined) continue;
    try {
      entries.push(parseJson(text, HistoryEntrySchema, path));
    } catch (error) {
      // Damaged, or of a newer version.
      if (!isFailure(error)) throw error;
      unreadable.push(path);
    }
  }
  return { entries, unreadable };
}

/** What a set touches: files by their paths on the disk, and for a swap the folder as a whole. */
interface Touched {
  readonly whole: boolean;
  readonly paths: ReadonlySet<string>;
}

function touchedBy({ steps }: ChangeSet): Touched {
  const whole = steps.some((step) => step.do === 'exchange');
  const paths = steps.flatMap((step) => (isReady(step) ? [] : changedPaths(step)));
  return { whole, paths: new Set(paths) };
}

const isOfTree = (path: string): boolean => path.startsWith(treeFolder(''));

function overlap(a: Touched, b: Touched): boolean {
  if (a.whole && b.whole) return true;
  const [few, many] = a.paths.size < b.paths.size ? [a, b] : [b, a];
  if (few.whole && [...many.paths].some(isOfTree)) return true;
  return [...few.paths].some((path) => many.paths.has(path) || (many.whole && isOfTree(path)));
}

/** When a set last turned. */
const turnedAt = ({ set, begunAt }: Journalled): number => begunAt ?? set.at;

/**
 * For each set those in effect that were made after it last turned and touch the same files, newest first: they have to be
 * taken back before it can be, or before it can be made again.
 */
export function blockers(sets: readonly Journalled[]): Map<string, string[]> {
  const newest = sets.filter(({ way }) => way !== undefined).toSorted((a, b) => turnedAt(b) - turnedAt(a));
  const touched = newest.map(({ set }) => touchedBy(set));
  const inEffect = newest.map(({ way, ended }) => way === 'on' || !ended);
  return new Map(
    newest.map(({ set }, i) => {
      // What stands against a set that stands against it has to go first as well.
      const needed: number[] = [];
      for (let j = i - 1; j >= 0; j--) {
        if (inEffect[j] && [i, ...needed].some((k) => overlap(touched[k]!, touched[j]!))) needed.push(j);
      }
      return [set.id, needed.toReversed().map((j) => newest[j]!.set.id)];
    }),
  );
}

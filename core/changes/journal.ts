import { z } from 'zod';
import { Failure, isFailure } from '#core/failure';
import type { FolderEntry } from '#core/folders';
import { parseJson } from '#core/json';
import { type ChangePorts } from './disk';
import { putRecord, recordAt, type RecordPorts } from './own-records';
import {
  type ChangeSet,
  ChangeSetSchema,
  CHANGES_VERSION,
  type Leaves,
  LeavesSchema,
  PLACES,
  type Settlement,
  SettlementSchema,
} from './schema';

/** Which way a set is going, or has gone. */
export type Direction = 'on' | 'back';

const EntrySchema = z.discriminatedUnion('do', [
  z.object({
    do: z.literal('begin'),
    way: z.enum(['on', 'back']),
    at: z.number().exactOptional(),
    /** What lies in the tree that is put aside by it, as it was read last. */
    leaves: LeavesSchema.exactOptional(),
  }),
  /** What becomes of a step that met other bytes than it expects. */
  SettlementSchema.extend({ do: z.literal('settle') }),
  /** The first `steps` steps are made, and outlast a loss of power. */
  z.object({ do: z.literal('reached'), steps: z.number().int().nonnegative() }),
  z.object({ do: z.literal('end'), way: z.enum(['on', 'back']), at: z.number().exactOptional() }),
  /** What it keeps is being removed. */
  z.object({ do: z.literal('let-go') }),
]);
export type Entry = z.infer<typeof EntrySchema>;

/** A change set with how far it has come, told from its journal alone. */
export interface Journalled {
  /** As it was written down, with what was settled of its steps since. */
  readonly set: ChangeSet;
  readonly way: Direction | undefined;
  /** Steps that need not be looked at again when it goes on. */
  readonly reached: number;
  /** Of the first so many steps, whatever is to be got ready has been, and none after those has begun. */
  readonly ready: number;
  readonly ended: boolean;
  readonly lettingGo: boolean;
  /** When it last began to go its way, and when it came to its end, in milliseconds since 1970, where that was noted. */
  readonly begunAt: number | undefined;
  readonly endedAt: number | undefined;
  /** What lay in the tree that it has put aside, as it was read before it last began; undefined where that was not told. */
  readonly leaves: Leaves | undefined;
  /** Texts that steps put in place, or put back, instead of what they would, by the number of the step. */
  readonly texts: readonly (readonly [step: number, text: string])[];
  /** Entries that were read; the next one has this number. */
  readonly entries: number;
}

const VersionSchema = z.object({ version: z.number() });

const folderOfSet = (id: string): string => `${PLACES.journal}/${id}`;
// Files of our own end in `.dat`: some browsers look into every other kind before they let it be closed.
const planPath = (id: string): string => `${folderOfSet(id)}/plan.dat`;
const entryPath = (id: string, number: number): string => `${folderOfSet(id)}/${String(number).padStart(8, '0')}.dat`;

/** A set of which nothing has been begun. */
const planned = (set: ChangeSet): Journalled => ({
  ...{ set, way: undefined, reached: 0, ready: 0, ended: false, lettingGo: false, entries: 0 },
  ...{ begunAt: undefined, endedAt: undefined, leaves: undefined, texts: [] },
});

function settled(at: Journalled, { step, as, text }: Settlement): Pick<Journalled, 'set' | 'texts'> {
  return {
    set: { ...at.set, steps: at.set.steps.with(step, as) },
    texts: text === undefined ? at.texts : [...at.texts.filter(([other]) => other !== step), [step, text]],
  };
}

/** Writes a change set down, before any of it is made; it is durable when this returns. */
export async function openJournal(ports: RecordPorts, set: ChangeSet): Promise<Journalled> {
  await putRecord(ports, planPath(set.id), set);
  return planned(set);
}

/** Writes an entry; it is durable when this returns. */
export async function enter(ports: RecordPorts, at: Journalled, entry: Entry): Promise<Journalled> {
  await putRecord(ports, entryPath(at.set.id, at.entries), entry);
  return after(at, entry);
}

function after(at: Journalled, entry: Entry): Journalled {
  const next = { ...at, entries: at.entries + 1 };
  switch (entry.do) {
    case 'begin':
      return {
        ...next,
        ...{ way: entry.way, ended: false, begunAt: entry.at, leaves: entry.leaves },
        reached: entry.way === at.way ? at.reached : 0,
      };
    case 'reached':
      return { ...next, reached: entry.steps, ready: Math.max(at.ready, entry.steps) };
    case 'end':
      return { ...next, ended: true, endedAt: entry.at };
    case 'let-go':
      return { ...next, lettingGo: true };
    case 'settle':
      return { ...next, ...settled(at, entry) };
  }
}

/**
 * Reads how far a change set has come; undefined where there is none with this id. An entry that was cut off while it was
 * written was never followed by what it announces, and counts as not written; one before others must be whole.
 * @throws Failure `changes/newer`, `changes/damaged`
 */
export async function readJournal(ports: RecordPorts, id: string): Promise<Journalled | undefined> {
  const text = await recordAt(ports, planPath(id));
  if (text === undefined) return undefined;
  const { version } = parseJson(text, VersionSchema, planPath(id));
  if (version > CHANGES_VERSION) throw new Failure('changes/newer', { found: version, expected: CHANGES_VERSION });
  let at = planned(parseJson(text, ChangeSetSchema, planPath(id)));
  for (;;) {
    const entry = await recordAt(ports, entryPath(id, at.entries));
    if (entry === undefined) break;
    at = after(at, parseJson(entry, EntrySchema, entryPath(id, at.entries)));
  }
  if (await ports.disk.stat(entryPath(id, at.entries + 1))) {
    throw new Failure('changes/damaged', { path: entryPath(id, at.entries) });
  }
  return at;
}

/** The ids of all sets that have a journal, sorted. */
export async function listJournals({ disk }: Pick<ChangePorts, 'disk'>): Promise<string[]> {
  const files = await disk.list(PLACES.journal);
  return [...new Set(files.map(({ path }) => path.split('/')[1]!))];
}

/** Whether a set is between two states, told by its last entries alone: a plan may be large. @throws Failure `folder/*` */
async function isOpen(ports: RecordPorts, id: string, entries: readonly FolderEntry[]): Promise<boolean> {
  for (const { path } of entries.toReversed()) {
    const text = await recordAt(ports, path);
    // One that was cut off was never followed by what it announces.
    if (text === undefined) continue;
    const entry = parseJson(text, EntrySchema, path);
    if (entry.do === 'end' || entry.do === 'let-go') return false;
    if (entry.do !== 'settle') return true;
  }
  return false;
}

/** Whether a set can be gone on with or back, by this program or by a newer one. One whose journal is damaged can by none. */
async function leadsOn(ports: RecordPorts, id: string): Promise<boolean> {
  try {
    return (await readJournal(ports, id)) !== undefined;
  } catch (error) {
    if (!isFailure(error) || error.code.startsWith('folder/')) throw error;
    return isFailure(error, 'changes/newer');
  }
}

/**
 * The ids of sets that were begun and came neither to their end nor back: while there is one, the folder is between two
 * states. One whose journal is damaged is none, or nothing could be done with the folder ever again: it is told as a record
 * that cannot be read.
 * @throws Failure `folder/*`
 */
export async function listOpen(ports: RecordPorts): Promise<string[]> {
  const entries = new Map<string, FolderEntry[]>();
  for (const file of await ports.disk.list(PLACES.journal)) {
    const [, id, name] = file.path.split('/');
    if (id === undefined || name === undefined) continue;
    const own = entries.get(id) ?? [];
    entries.set(id, own);
    if (/^\d+\.dat$/.test(name)) own.push(file);
  }
  const open: string[] = [];
  for (const [id, own] of entries) {
    const isBegun = await isOpen(ports, id, own).catch((error: unknown) => {
      // An entry that this version does not know.
      if (!isFailure(error) || error.code.startsWith('folder/')) throw error;
      return true;
    });
    if (isBegun && (await leadsOn(ports, id))) open.push(id);
  }
  return open;
}

export const removeJournal = ({ disk }: Pick<ChangePorts, 'disk'>, id: string): Promise<void> =>
  disk.remove(folderOfSet(id));

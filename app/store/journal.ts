import { type JournalChange, type JournalEntry, JournalEntrySchema } from '#core/assemble';
import { db } from './db';

/** Writes down a change before it is made. Resolves once the entry is durable. */
export async function intend(install: string, job: string, change: JournalChange): Promise<number> {
  const transaction = (await db()).transaction('journal', 'readwrite', { durability: 'strict' });
  const seq = await transaction.store.add({ install, job, at: Date.now(), change, state: 'intended' });
  await transaction.done;
  return seq;
}

export async function markJournal(seq: number, state: 'done' | 'undone'): Promise<void> {
  const transaction = (await db()).transaction('journal', 'readwrite');
  const entry = await transaction.store.get(seq);
  if (entry) await transaction.store.put({ ...entry, state });
  await transaction.done;
}

/** A change with its entry before and its mark after. When it fails or is cut off, the entry stays `intended`. */
export async function journalled<T>(
  install: string,
  job: string,
  change: JournalChange,
  make: () => Promise<T>,
): Promise<T> {
  const seq = await intend(install, job, change);
  const result = await make();
  await markJournal(seq, 'done');
  return result;
}

/** The entries of a job in order. */
export async function journalOf(job: string): Promise<JournalEntry[]> {
  const entries = await (await db()).getAllFromIndex('journal', 'byJob', job);
  return entries.map((entry) => JournalEntrySchema.parse(entry)).toSorted((a, b) => a.seq - b.seq);
}

/** The latest entries of an install, newest first. */
export async function latestJournal(install: string, most: number): Promise<JournalEntry[]> {
  const entries: JournalEntry[] = [];
  const store = (await db()).transaction('journal').store;
  for (let cursor = await store.openCursor(null, 'prev'); cursor && entries.length < most;) {
    if (cursor.value.install === install) entries.push(JournalEntrySchema.parse(cursor.value));
    cursor = await cursor.continue();
  }
  return entries;
}

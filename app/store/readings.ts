import type { Reading } from '#core/survey';
import { packed, unpacked } from './columns';
import { db } from './db';
import { type StoredReading, StoredReadingSchema } from './records';
import { allStored } from './stored';

/** Puts down what a job read, so that it need not be read again when the job is cut off. */
export async function addReading(install: string, job: string, reading: Reading): Promise<void> {
  if (reading.paths.length > 0) await (await db()).add('readings', packed({ ...reading, install, job }));
}

export async function readingsOf(job: string): Promise<StoredReading[]> {
  const all = await (await db()).getAllFromIndex('readings', 'byJob', job);
  return allStored(StoredReadingSchema, all.map(unpacked), 'reading');
}

export async function dropReadings(job: string): Promise<void> {
  const transaction = (await db()).transaction('readings', 'readwrite');
  const keys = await transaction.store.index('byJob').getAllKeys(job);
  await Promise.all([...keys.map((key) => transaction.store.delete(key)), transaction.done]);
}

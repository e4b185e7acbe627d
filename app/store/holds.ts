import type { ModId } from '#core/builds';
import { db } from './db';
import { type HoldCheck, type HoldRecord, HoldRecordSchema, type StoredTrial, StoredTrialSchema } from './records';
import { allStored, storedIfThere } from './stored';

export async function getHold(install: string): Promise<HoldRecord | undefined> {
  return storedIfThere(HoldRecordSchema, await (await db()).get('holds', install), 'hold');
}

export async function putHold(hold: HoldRecord): Promise<void> {
  await (await db()).put('holds', hold);
}

export async function removeHold(install: string): Promise<void> {
  await (await db()).delete('holds', install);
}

/** Takes departures of a held folder over, or none any more. */
export async function acceptDrift(install: string, accepted: NonNullable<HoldRecord['accepted']>): Promise<void> {
  const transaction = (await db()).transaction('holds', 'readwrite');
  const hold = await transaction.store.get(install);
  if (hold) await transaction.store.put({ ...hold, accepted });
  await transaction.done;
}

const MAX_CHECKS = 400;

export async function addHoldCheck(install: string, check: HoldCheck): Promise<void> {
  const transaction = (await db()).transaction('holds', 'readwrite');
  const hold = await transaction.store.get(install);
  if (hold) await transaction.store.put({ ...hold, checks: [...hold.checks, check].slice(-MAX_CHECKS) });
  await transaction.done;
}

/** Starts of the game that are remembered of an install: more than anybody makes between two patches. */
const MOST_TRIALS = 500;

/** Remembers a start of the game. The same one whose log is read again is remembered once, as it was read last. */
export async function addTrial(trial: StoredTrial): Promise<void> {
  const transaction = (await db()).transaction('trials', 'readwrite');
  const isSame = ({ at, answer }: StoredTrial): boolean => at === trial.at && !answer.told && !trial.answer.told;
  for (let cursor = await transaction.store.index('byInstall').openCursor(trial.install); cursor;) {
    if (isSame(cursor.value)) await cursor.delete();
    cursor = await cursor.continue();
  }
  await transaction.store.add(trial);
  const keys = await transaction.store.index('byInstall').getAllKeys(trial.install);
  // They are numbered in the order in which they came.
  for (const key of keys.slice(0, Math.max(0, keys.length - MOST_TRIALS))) await transaction.store.delete(key);
  await transaction.done;
}

/** Takes a start of the game back: it says nothing of any mod any more, or only nothing of this one. */
export async function removeTrial(install: string, at: number, mod?: ModId): Promise<void> {
  const transaction = (await db()).transaction('trials', 'readwrite');
  for (let cursor = await transaction.store.index('byInstall').openCursor(install); cursor;) {
    if (cursor.value.at === at) {
      const { answer } = cursor.value;
      const mods = answer.mods.filter((one) => mod !== undefined && one.mod !== mod);
      // One that says nothing of any mod would count as a start of the game.
      if (mods.length === 0) await cursor.delete();
      else await cursor.update({ ...cursor.value, answer: { ...answer, mods } });
    }
    cursor = await cursor.continue();
  }
  await transaction.done;
}

/** All starts of the game, oldest first. */
export async function listTrials(install: string): Promise<StoredTrial[]> {
  const all = await (await db()).getAllFromIndex('trials', 'byInstall', install);
  return allStored(StoredTrialSchema, all, 'start of the game').toSorted((a, b) => a.at - b.at);
}

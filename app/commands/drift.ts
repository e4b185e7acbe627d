import { holdMeans, type MeansNow } from '~/changes';
import { isUnderWay, jobs } from '~/jobs';
import { query } from '~/queries';
import {
  acceptDrift,
  addHoldCheck,
  broadcast,
  getHold,
  getInstall,
  type Install,
  pastSurveys,
  updateInstall,
} from '~/store';
import { lookAtFollowed } from './followed';

/** A check by names, sizes and times is written down so often, while it finds what the one before found. */
const GLANCE_EVERY_MS = 6 * 3_600_000;

/** What goes on changing is read again so often. */
const AGAIN_MS = 2 * 60_000;

const lastRead = new Map<string, { readonly at: number; readonly which: string }>();

/** Whether the very same files had changed in a folder a moment ago, and were read then without an end of it. */
function isReadAlready(id: string, which: string): boolean {
  const last = lastRead.get(id);
  if (last && last.which === which && Date.now() - last.at < AGAIN_MS) return true;
  lastRead.set(id, { at: Date.now(), which });
  return false;
}

/** Says that the folder is not as it was surveyed, once. */
async function noteChanged({ id, changedAt }: Install): Promise<void> {
  const [surveyed = 0] = await pastSurveys(id);
  if (changedAt > surveyed) return;
  await updateInstall(id, (now) => ({ ...now, changedAt: Date.now() }));
  broadcast({ type: 'changed' });
}

const meansOf = ({ setting, lock, unlocked = 0 }: MeansNow): string => JSON.stringify([setting, lock, unlocked > 0]);

/**
 * Looks whether anything but the player's own files has changed in a folder since it was surveyed, by names, sizes and times. In a held
 * folder the bytes of what changed are read then, and the storefront's record is read again: it may have been written anew. Folders of
 * mods that are followed are compared as well.
 * @returns whether anything has changed; undefined where a job works on the folder, or it was never surveyed
 * @throws Failure `folder/*`, `served/*` where it cannot be looked at now
 */
export async function lookForDrift(id: string): Promise<boolean | undefined> {
  if ([...jobs.snapshot().values()].some((job) => job.record.install === id && isUnderWay(job))) return undefined;
  await lookAtFollowed(id);
  const changed = await query('sinceSurvey', id);
  if (changed === undefined) return undefined;
  const [install, hold] = await Promise.all([getInstall(id), getHold(id)]);
  if (!hold) {
    if (changed.files > 0) await noteChanged(install);
    return changed.files > 0;
  }
  if (changed.files > 0) {
    if (isReadAlready(id, changed.which)) await noteChanged(install);
    else await jobs.start('survey', id, { checkHold: true, trustEarlier: true });
    return true;
  }
  lastRead.delete(id);
  const last = hold.checks.at(-1);
  const means = await holdMeans(install, hold, false);
  // Before the first check there is nothing that a look at names and times could confirm.
  if (!last) return false;
  const isOld = Date.now() - last.at > GLANCE_EVERY_MS;
  const isOther = meansOf(means) !== meansOf(last);
  if (isOld || isOther) {
    await addHoldCheck(id, { at: Date.now(), drift: last.drift, ...means, glance: true });
    broadcast({ type: 'changed' });
  }
  return isOther;
}

/** Takes what drifted over as it lies there: it is no drift until it changes again. */
export async function takeDriftOver(id: string): Promise<void> {
  const [{ departures }, hold] = await Promise.all([query('holdView', id), getHold(id)]);
  const accepted = new Map(hold?.accepted);
  for (const { path, found } of departures) accepted.set(path, found ?? null);
  await acceptDrift(id, [...accepted]);
  broadcast({ type: 'changed' });
}

/** Has everything count as drift again that was taken over. */
export async function takeNothingOver(id: string): Promise<void> {
  await acceptDrift(id, []);
  broadcast({ type: 'changed' });
}

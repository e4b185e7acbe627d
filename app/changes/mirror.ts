import { z } from 'zod';
import { isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { canChange, storeOf } from '~/places';
import {
  getHold,
  getInstall,
  HoldRecordSchema,
  type Install,
  InstallSchema,
  listProfiles,
  putHold,
  putProfile,
  StoredProfileSchema,
  updateInstall,
} from '~/store';
import { changesOf, type Runner } from './changes-of';

/*
 * What a browser knows of an install lies in the folder's store too: cleared browser data then lose nothing of it, and another
 * browser finds it there.
 */

const KnownSchema = InstallSchema.unwrap().pick({
  ownership: true,
  weights: true,
  pins: true,
  bench: true,
  insisted: true,
  evidence: true,
  buildOrder: true,
  target: true,
  along: true,
  modFree: true,
  pools: true,
  profile: true,
  notKept: true,
  retention: true,
});

const MirrorSchema = z.object({
  version: z.literal(1),
  install: KnownSchema,
  hold: HoldRecordSchema.unwrap().omit({ install: true }).exactOptional(),
  profiles: z.array(StoredProfileSchema.unwrap().omit({ install: true })).default([]),
});
type Mirror = z.infer<typeof MirrorSchema>;

/** What is mirrored of an install: nothing of where it lies, or when somebody looked at it. */
async function mirrorOf(install: Install): Promise<Mirror> {
  const [held, profiles] = await Promise.all([getHold(install.id), listProfiles(install.id)]);
  const { install: _, ...hold } = held ?? {};
  return {
    version: 1,
    install: KnownSchema.parse(install),
    profiles: profiles.map(({ install: _, ...profile }) => profile),
    ...(held && { hold: hold as NonNullable<Mirror['hold']> }),
  };
}

/** Leaves in the store what is known of an install, where it is not there already. */
export async function mirrorInstall(runner: Runner, installId: string): Promise<void> {
  const install = await getInstall(installId);
  if (install.place.kind === 'browser-disk' || !(await canChange(install.place))) return;
  const text = JSON.stringify(await mirrorOf(install));
  const store = await storeOf(install);
  if (!store || (await store.mirror()) === text) return;
  await changesOf(install).carryOut(runner, { act: 'mirror', text });
}

/**
 * Takes over what another browser, or this one before its data were cleared, has left of an install. One that cannot be
 * read is left alone.
 */
export async function takeFromMirror(installId: string): Promise<void> {
  try {
    const text = await (await storeOf(await getInstall(installId)))?.mirror();
    if (text === undefined) return;
    const { install, hold, profiles } = parseJson(text, MirrorSchema, 'mirror.dat');
    for (const profile of profiles) await putProfile({ ...profile, install: installId });
    await updateInstall(installId, (now) => ({ ...now, ...install }));
    if (hold) await putHold({ ...hold, install: installId });
  } catch (error) {
    if (!isFailure(error)) throw error;
  }
}

import { z } from 'zod';
import { isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { canChange, storeOf } from '~/places';
import {
  DecidedSchema,
  FIRST_TITLE,
  FolderDecidedSchema,
  getHold,
  getInstall,
  HoldRecordSchema,
  type Install,
  lasting,
  listProfiles,
  putHold,
  StoredProfileSchema,
  takeOverInstall,
} from '~/store';
import { changesOf, type Runner } from './changes-of';

/*
 * What a person has decided of a folder lies in the folder's store too: cleared browser data then lose nothing of it, and another
 * browser finds it there.
 */

const VERSION = 2;
const FILE = 'mirror.dat';

const MirrorSchema = z.object({
  version: z.literal(VERSION),
  /** The id of the game that the folder is of. */
  game: z.string(),
  install: FolderDecidedSchema,
  hold: HoldRecordSchema.unwrap().omit({ install: true }).exactOptional(),
  profiles: z.array(StoredProfileSchema.unwrap().omit({ install: true })),
});
type Mirror = z.infer<typeof MirrorSchema>;

/** The first version told no game, and what the profile that counts decides with the folder's own; some of both it left out. */
const FirstSchema = MirrorSchema.omit({ game: true }).extend({
  version: z.literal(1),
  install: FolderDecidedSchema.extend(DecidedSchema.shape),
  profiles: MirrorSchema.shape.profiles.default([]),
});

function readMirror(text: string, game: string): Mirror {
  if (versionOf(text) !== 1) return parseJson(text, MirrorSchema, FILE);
  const { install, profiles, hold } = parseJson(text, FirstSchema, FILE);
  const counting = { id: install.profile, title: FIRST_TITLE, ...DecidedSchema.parse(install) };
  return {
    ...{ version: VERSION, game, install: FolderDecidedSchema.parse(install) },
    profiles: profiles.some(({ id }) => id === counting.id) ? profiles : [...profiles, counting],
    ...(hold && { hold }),
  };
}

/** What is mirrored of an install: nothing of where it lies, or when somebody looked at it. */
async function mirrorOf(install: Install): Promise<Mirror> {
  const [held, profiles] = await Promise.all([getHold(install.id), listProfiles(install.id)]);
  const { install: _, ...hold } = held ?? {};
  return {
    version: VERSION,
    game: install.game,
    install: FolderDecidedSchema.parse(lasting(install)),
    profiles: profiles.map(({ install: _, ...profile }) => profile),
    ...(held && { hold: hold as NonNullable<Mirror['hold']> }),
  };
}

/** Which version of a mirror a text is; 0 where it is none. */
const versionOf = (text: string): number => {
  try {
    return parseJson(text, z.looseObject({ version: z.number() }), FILE).version;
  } catch (error) {
    if (!isFailure(error)) throw error;
    return 0;
  }
};

/** Leaves in the store what is known of an install, where it is not there already. What a newer program has left stays. */
export async function mirrorInstall(runner: Runner, installId: string): Promise<void> {
  const install = await getInstall(installId);
  if (install.place.kind === 'browser-disk' || !(await canChange(install.place))) return;
  const text = JSON.stringify(await mirrorOf(install));
  const store = await storeOf(install);
  if (!store) return;
  const before = await store.mirror();
  if (before === text || (before !== undefined && versionOf(before) > VERSION)) return;
  await changesOf(install).carryOut(runner, { act: 'mirror', text });
}

/**
 * Takes over what another browser, or this one before its data were cleared, has left of an install. One that cannot be
 * read, is of another game, or lacks the profile that counts, is left alone.
 */
export async function takeFromMirror(installId: string): Promise<void> {
  try {
    const now = await getInstall(installId);
    const text = await (await storeOf(now))?.mirror();
    if (text === undefined) return;
    const mirror = readMirror(text, now.game);
    const hasCounting = mirror.profiles.some(({ id }) => id === mirror.install.profile);
    if (mirror.game !== now.game || !hasCounting) return;
    await takeOverInstall(installId, mirror.install, mirror.profiles);
    if (mirror.hold) await putHold({ ...mirror.hold, install: installId });
  } catch (error) {
    if (!isFailure(error)) throw error;
  }
}

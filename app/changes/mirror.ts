import { z } from 'zod';
import { MOST_MIRRORED } from '#core/contents';
import { isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { type Mod, ModSchema } from '#core/mods';
import { canChange, storeOf } from '~/places';
import {
  addRested,
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
  /** What was told of the releases that the folder rests on: no source need tell it again. */
  rests: z.array(ModSchema).exactOptional(),
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
async function mirrorOf(install: Install, rests: readonly Mod[]): Promise<Mirror> {
  const [held, profiles] = await Promise.all([getHold(install.id), listProfiles(install.id)]);
  const { install: _, ...hold } = held ?? {};
  return {
    version: VERSION,
    game: install.game,
    install: FolderDecidedSchema.parse(lasting(install)),
    profiles: profiles.map(({ install: _, ...profile }) => profile),
    ...(held && { hold: hold as NonNullable<Mirror['hold']> }),
    ...(rests.length > 0 && { rests: [...rests] }),
  };
}

/** The text of a mirror; what was told of releases is left out where it would be too long. */
function mirrorText({ rests, ...mirror }: Mirror): string {
  const whole = JSON.stringify({ ...mirror, rests });
  return whole.length <= MOST_MIRRORED ? whole : JSON.stringify(mirror);
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

/** Whose a mirror is: this folder's as this program keeps it, or why it is left alone. */
export type MirrorState = 'own' | 'newer' | 'other-game' | 'unreadable';

/** How what was left in the folder's store stands to an install; undefined where nothing was left, or the store cannot be asked. */
export async function mirrorState(install: Install): Promise<MirrorState | undefined> {
  const text = await (await storeOf(install))?.mirror();
  return text === undefined ? undefined : lookAtMirror(text, install.game).state;
}

type Looked = { readonly state: 'own'; readonly mirror: Mirror } | { readonly state: Exclude<MirrorState, 'own'> };

/** One that lacks the profile that counts cannot be read either. */
function lookAtMirror(text: string, game: string): Looked {
  if (versionOf(text) > VERSION) return { state: 'newer' };
  try {
    const mirror = readMirror(text, game);
    if (mirror.game !== game) return { state: 'other-game' };
    const hasCounting = mirror.profiles.some(({ id }) => id === mirror.install.profile);
    return hasCounting ? { state: 'own', mirror } : { state: 'unreadable' };
  } catch (error) {
    if (!isFailure(error)) throw error;
    return { state: 'unreadable' };
  }
}

/**
 * Leaves in the store what is known of an install, where it is not there already. What a newer program has left stays; and,
 * until the person says otherwise, what cannot be read or is of another game.
 * @param restsOf tells what is told of the releases that the folder rests on
 */
export async function mirrorInstall(
  runner: Runner,
  installId: string,
  restsOf: () => Promise<readonly Mod[]> = async () => [],
): Promise<void> {
  const install = await getInstall(installId);
  if (install.place.kind === 'browser-disk' || !(await canChange(install.place))) return;
  const text = mirrorText(await mirrorOf(install, await restsOf()));
  const store = await storeOf(install);
  if (!store) return;
  const before = await store.mirror();
  if (before === text) return;
  const state = before === undefined ? 'own' : lookAtMirror(before, install.game).state;
  if (state === 'newer' || (state !== 'own' && !install.mirrorsOver)) return;
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
    const looked = lookAtMirror(text, now.game);
    if (looked.state !== 'own') return;
    const { mirror } = looked;
    await takeOverInstall(installId, mirror.install, mirror.profiles);
    if (mirror.hold) await putHold({ ...mirror.hold, install: installId });
    if (mirror.rests) await addRested(now.game, mirror.rests);
  } catch (error) {
    if (!isFailure(error)) throw error;
  }
}

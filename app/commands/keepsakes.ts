import {
  type BagFit,
  fitBag,
  type Fitted,
  type Keepsake,
  KEEPSAKE_TAG,
  KeepsakeSchema,
  type OwnFile,
  placeAll,
} from '#core/keepsakes';
import { jobs } from '~/jobs';
import { broadcast, getGame, type Install, updateInstall } from '~/store';
import type { BagFile } from '~/workers';
import { handing } from './handing';
import { inPool } from './in-pool';

/** An archive that a person brings in, every file of which is as its manifest says. */
export interface ArchiveOffer extends BagFit {
  readonly file: File;
  readonly files: readonly BagFile[];
  /** What it says of the folder that it was made in, where it is one of ours. */
  readonly facts: Pick<Keepsake, 'build' | 'profile' | 'mods'>;
}

function keepsakeIn(tags: readonly (readonly [path: string, text: string])[]): Keepsake | undefined {
  const text = tags.find(([path]) => path === KEEPSAKE_TAG)?.[1];
  if (text === undefined) return undefined;
  try {
    return KeepsakeSchema.parse(JSON.parse(text));
  } catch {
    // What it says of itself only helps to place its files: they are checked by its manifest.
    return undefined;
  }
}

/** Checks an archive, and says where its files belong in an install. @throws Failure `bag/malformed`, `path/*` */
export async function lookIntoArchive(install: Install, file: File): Promise<ArchiveOffer> {
  const { rules } = await getGame(install.game);
  const { files, tags } = await inPool((pool) => pool.run({ do: 'look-into-bag', from: file }));
  const kept = keepsakeIn(tags);
  const outside = new Set((install.elsewhere ?? []).map(({ name }) => name));
  const fit = fitBag(
    files.map(({ path }) => path),
    rules,
    { kept, outside },
  );
  const { build, profile, mods } = kept ?? {};
  const facts = { ...(build && { build }), ...(profile !== undefined && { profile }), ...(mods && { mods }) };
  return { file, files, ...fit, facts };
}

/**
 * Takes the files of an archive into the store as a keepsake.
 * @param into where the files go of which the archive does not say where they belong; left out, where that is undefined
 * @returns the id of the job, and of the keepsake
 */
export function bringArchive(
  install: Install,
  { file, files, fitted, left, facts }: ArchiveOffer,
  into: (Pick<OwnFile, 'place' | 'kind'> & { readonly folder: string }) | undefined,
): Promise<string> {
  const contents = new Map(files.map((one) => [one.path, one]));
  const placed: readonly Fitted[] = [...fitted, ...(into && left.length > 0 ? placeAll(left, into) : [])];
  const wanted = placed.map(({ as, ...where }) => {
    const { key, modified } = contents.get(as)!;
    return { as, ...where, key, modified };
  });
  return jobs.start('bring-keepsake', install.id, { from: file, files: wanted, facts });
}

/** Notes whether a copy of each keepsake is kept in this browser; those that are there already stay until their keepsake is deleted. */
export async function decideOnCopies(id: string, keepsakeCopies: 'kept' | 'refused'): Promise<void> {
  await updateInstall(id, (now) => ({ ...now, keepsakeCopies }));
  broadcast({ type: 'changed' });
  if (keepsakeCopies === 'kept') await jobs.start('copy-keepsakes', id);
}

/** Archives that are dropped elsewhere. */
export const { hand: handArchiveOver, read: readHandedArchives } = handing<File>();

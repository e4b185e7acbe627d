import { type ArchivesRead, type DraftRelease, type KnownRelease, type ReadArchive } from '#core/archives';
import type { BuildLabel, ModId } from '#core/builds';
import { Failure } from '#core/failure';
import { keyPieces, keySize } from '#core/digest';
import { modById, releaseFileKey, releaseAt, releaseOrder, type Mod, type ReleaseFile } from '#core/mods';
import { idOfName } from '#core/tables';
import { jobs } from '~/jobs';
import { query, type ShelfView } from '~/queries';
import { broadcast, getCatalogue, getInstall, type Install, noteShelved, type OwnMod, updateInstall } from '~/store';
import type { ArchiveFile } from '~/workers';
import { handing } from './handing';
import { inPool } from './in-pool';
import { wanting } from './own-mods';

/** An archive that was read, with the file that it is. */
export interface OpenedArchive extends ReadArchive {
  readonly file: File;
  readonly files: readonly ArchiveFile[];
}

/** Archives that came together, and what they have for a folder. */
export interface ArchivesOffer {
  readonly archives: readonly OpenedArchive[];
  /** Those that cannot be read, and why. */
  readonly refused: readonly { readonly name: string; readonly failure: unknown }[];
  readonly read: ArchivesRead;
}

/**
 * Reads archives whole and tells what is in them; nothing is put down. One that cannot be read keeps no other from it.
 * @param told hears how far it is
 * @throws Failure `job/cancelled`
 */
export async function openArchives(
  install: Install,
  files: readonly File[],
  told: (done: { readonly name: string; readonly number: number }) => void = () => undefined,
): Promise<ArchivesOffer> {
  const archives: OpenedArchive[] = [];
  const refused: ArchivesOffer['refused'][number][] = [];
  await inPool(async (pool) => {
    for (const [number, file] of files.entries()) {
      told({ name: file.name, number });
      try {
        const looked = await pool.run({ do: 'look-into-archive', from: file });
        archives.push({ file, name: file.name, ...looked });
      } catch (failure) {
        refused.push({ name: file.name, failure });
      }
    }
  });
  const read = await query(
    'archives',
    install.id,
    archives.map(({ name, files: own, texts }) => ({ name, files: own, texts })),
  );
  return { archives, refused, read };
}

/** A release that is made of files of an archive, as a person has settled it. */
export interface Settled extends Pick<DraftRelease, 'archive' | 'name' | 'version' | 'mod'> {
  /** Builds that it is made for. */
  readonly builds: readonly BuildLabel[];
  /** Where it is from; the archive's name, where it is empty. */
  readonly source: string;
  /** Where each file of it comes to lie. */
  readonly places: readonly (readonly [path: string, place: string])[];
  /** Files of the game that it goes over. */
  readonly touches: readonly string[];
}

const dateOf = (files: readonly ArchiveFile[], now: number): string => {
  const latest = Math.max(0, ...files.map(({ modified }) => modified));
  // An archive may know no times, or have been made by a clock that goes wrong.
  return new Date(latest > 0 && latest <= now ? latest : now).toISOString().slice(0, 10);
};

function releaseFile(place: string, { key, sha256 }: ArchiveFile): ReleaseFile {
  const pieces = keyPieces(key);
  return {
    path: place,
    size: keySize(key),
    sha256: sha256 ?? pieces[0]!,
    ...(pieces.length > 1 && { pieces }),
    href: '',
  };
}

/** The mod that a release is put under: one that is known, or a new one of its name. */
function ownMod(known: Mod | undefined, name: string): Omit<Mod, 'releases'> {
  if (known) {
    const { releases: _, ...rest } = known;
    return rest;
  }
  return { id: idOfName(name), name, author: '', kind: 'data', lookedAfter: true, summary: '' };
}

/**
 * Puts releases onto the shelf: their files into the store, and those that nobody knows among the mods of the game. They go into
 * no folder by that.
 * @returns the releases, once they are there
 * @throws Failure as the job does; no release is added then
 */
export async function putOnShelf(
  install: Install,
  { archives }: ArchivesOffer,
  known: readonly KnownRelease[],
  settled: readonly Settled[],
): Promise<readonly (readonly [mod: ModId, version: string])[]> {
  const at = Date.now();
  const catalogue = await getCatalogue(install.game);
  const inArchive = archives.map(({ files }) => new Map(files.map((file) => [file.path, file])));
  const taken = archives.map((): ArchiveFile[] => []);
  const releases: { mod: string; release: string; keys: string[]; source: string }[] = [];
  for (const { mod, release, files } of known) {
    for (const { archive, path } of files) taken[archive]!.push(inArchive[archive]!.get(path)!);
    const all = releaseAt(modById(catalogue, mod)!, release)!.files;
    const source = [...new Set(files.map(({ archive }) => archives[archive]!.name))].join(', ');
    releases.push({ mod, release, keys: all.filter(({ size }) => size > 0).map(releaseFileKey), source });
  }
  const add = settled.map((one): OwnMod => {
    const before = modById(catalogue, one.mod?.id ?? idOfName(one.name));
    const mod = ownMod(before, one.name);
    const files = one.places.map(([path]) => inArchive[one.archive]!.get(path)!);
    const isTwice = releases.some((other) => other.mod === mod.id && other.release === one.version);
    if (isTwice || (before && releaseAt(before, one.version)))
      throw new Failure('shelf/release-there', { mod: mod.name, release: one.version });
    taken[one.archive]!.push(...files);
    const from = one.source || archives[one.archive]!.name;
    releases.push({ mod: mod.id, release: one.version, keys: files.map(({ key }) => key), source: from });
    const release: Mod['releases'][number] = {
      ...{
        version: one.version,
        date: dateOf(files, at),
        builds: [...one.builds],
        brokenOn: [],
        requires: [],
        requiresOneOf: [],
      },
      ...{ optional: [], conflicts: [], reports: [], touches: [...one.touches], unofficial: from.slice(0, 200) },
      files: one.places.map(([, place], i) => releaseFile(place, files[i]!)),
    };
    return { ...mod, releases: [release], game: install.game, from, at };
  });
  const from = archives.map(({ file }, i) => ({
    ...{ from: file, isBag: false },
    files: taken[i]!.map(({ path, key, modified }) => ({ path, key, modified })),
  }));
  const params = { archives: from.filter(({ files }) => files.length > 0), releases, add };
  await jobs.ended(await jobs.start('shelve', install.id, params));
  return [
    ...known.map(({ mod, release }) => [mod, release] as const),
    ...add.map(({ id, releases: [own] }) => [id, own!.version] as const),
  ];
}

/** Has releases be of the folder's mods: wanted, and in its target where it has one, in place of others of the same mods. */
export async function wantReleases(
  install: string,
  wanted: readonly (readonly [mod: ModId, version: string])[],
): Promise<void> {
  const { game } = await getInstall(install);
  const catalogue = await getCatalogue(game);
  const place = ([mod, version]: (typeof wanted)[number]): number => releaseOrder(modById(catalogue, mod)!, version);
  // Of several releases of a mod the newest is meant.
  const latest = [...new Map(wanted.toSorted((a, b) => place(a) - place(b)))];
  const mods = new Set(latest.map(([mod]) => mod));
  await updateInstall(install, (now) => {
    const had = new Map(now.weights);
    const { target } = now;
    return {
      ...wanting(now, new Map([...mods].map((mod) => [mod, had.get(mod) ?? 'want']))),
      ...(target && {
        target: {
          ...target,
          releases: [...target.releases.filter(([mod]) => !mods.has(mod)), ...latest],
          ...(target.order && { order: [...target.order, ...[...mods].filter((mod) => !target.order!.includes(mod))] }),
          at: Date.now(),
        },
      }),
    };
  });
  broadcast({ type: 'changed' });
}

/** Takes releases off the shelf, one after the other. @throws Failure of the first that cannot be taken off */
export async function takeOffShelf(install: string, releases: readonly ShelfView['releases'][number][]): Promise<void> {
  for (const { reference, files, bytes } of releases)
    await jobs.ended(await jobs.start('tend-store', install, { act: 'drop', reference, files, bytes }));
}

/** Keeps a person's words on a release of the shelf. */
export async function writeOnShelf(game: string, mod: ModId, version: string, words: string): Promise<void> {
  await noteShelved(game, mod, version, words.trim());
  broadcast({ type: 'changed' });
}

/** Archives of mods that are dropped elsewhere. */
export const { hand: handModsOver, read: readHandedMods } = handing<readonly File[]>();

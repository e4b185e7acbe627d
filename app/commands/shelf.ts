import { type ArchivesRead, type DraftRelease, type KnownRelease, type ReadArchive } from '#core/archives';
import type { BuildLabel, ModId } from '#core/builds';
import { inLanes } from '#core/calls';
import { Failure } from '#core/failure';
import { keyPieces, keySize } from '#core/digest';
import {
  type Catalogue,
  type Mod,
  modById,
  releaseAt,
  type ReleaseFile,
  releaseFileKey,
  releaseOrder,
} from '#core/mods';
import { idOfName } from '#core/tables';
import { jobs } from '~/jobs';
import { query, type ShelfView } from '~/queries';
import { broadcast, getCatalogue, getInstall, type Install, noteShelved, type OwnMod, updateInstall } from '~/store';
import type { ArchiveFile } from '~/workers';
import { decideFollowed, type FolderToRead } from './followed';
import { handing } from './handing';
import { inPool } from './in-pool';
import { wanting } from './own-mods';

/** An archive that was read, with the file that it is; or a folder. */
export interface OpenedArchive extends ReadArchive {
  readonly from: File | FolderToRead;
  readonly files: readonly ArchiveFile[];
}

/** Archives that came together, and what they have for a folder. */
export interface ArchivesOffer {
  readonly archives: readonly OpenedArchive[];
  /** Those that cannot be read, and why. */
  readonly refused: readonly { readonly name: string; readonly failure: unknown }[];
  readonly read: ArchivesRead;
}

/** Some kinds are unpacked in memory. */
const ARCHIVES_AT_ONCE = 2;

/**
 * Reads archives whole and tells what is in them; nothing is put down. One that cannot be read keeps no other from it.
 * @param told hears how far it is
 * @throws Failure `job/cancelled`
 */
export async function openArchives(
  install: Install,
  from: readonly (File | FolderToRead)[],
  told: (done: { readonly name: string; readonly number: number }) => void = () => undefined,
): Promise<ArchivesOffer> {
  const opened: (OpenedArchive | undefined)[] = from.map(() => undefined);
  const refused: ArchivesOffer['refused'][number][] = [];
  await inPool((pool) =>
    inLanes(from, ARCHIVES_AT_ONCE, { gate: () => undefined }, async (one, number) => {
      const what = one instanceof File ? one : one.from;
      told({ name: what.name, number });
      try {
        const looked = await pool.run({ do: 'look-into-archive', from: what });
        opened[number] = { from: one, name: what.name, ...looked };
      } catch (failure) {
        refused.push({ name: what.name, failure });
      }
    }),
  );
  const archives = opened.filter((one) => one !== undefined);
  const read = await query(
    'archives',
    install.id,
    archives.map(({ name, files, texts }) => ({ name, files, texts })),
  );
  const catalogue = await getCatalogue(install.game);
  return {
    archives,
    refused,
    read: { ...read, drafts: read.drafts.map((draft) => asUpdate(draft, archives, catalogue)) },
  };
}

/**
 * What lies in a folder that was taken before is another release of the same mod. Where it says no version of its own, or one that is
 * known with other bytes, the day of its newest file tells the two apart, and the time where that day has brought one already.
 */
function asUpdate(draft: DraftRelease, archives: readonly OpenedArchive[], catalogue: Catalogue): DraftRelease {
  const { from, files } = archives[draft.archive]!;
  if (from instanceof File) return draft;
  const [only, ...others] = from.before;
  const mod = draft.mod ?? (only && others.length === 0 ? { id: only.mod, name: only.name } : undefined);
  const known = mod && modById(catalogue, mod.id);
  const made = madeAt(files, Date.now());
  const [day, time] = [made.slice(0, 10), made.slice(0, 16).replace('T', ' ')];
  const { version: said } = draft;
  const names = said === '' ? [day, time] : [said, `${said} of ${day}`, `${said} of ${time}`];
  const free = names.find((name) => known === undefined || releaseAt(known, name) === undefined) ?? said;
  return { ...draft, mod, name: mod?.name ?? draft.name, version: free.slice(0, MOST_VERSION) };
}

/** Characters of a release's number. */
const MOST_VERSION = 40;

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

/** When the newest of some files was written (ISO 8601, UTC). */
function madeAt(files: readonly ArchiveFile[], now: number): string {
  const latest = files.reduce((most, { modified }) => Math.max(most, modified), 0);
  // An archive may know no times, or have been made by a clock that goes wrong.
  return new Date(latest > 0 && latest <= now ? latest : now).toISOString();
}

/** A file of a release, where it comes to lie; `sha256` of what has several pieces. */
export function releaseFile(place: string, { key }: ArchiveFile, sha256: string | undefined): ReleaseFile {
  const pieces = keyPieces(key);
  return {
    path: place,
    size: keySize(key),
    sha256: sha256 ?? pieces[0]!,
    ...(pieces.length > 1 && { pieces }),
    href: '',
  };
}

/** SHA-256 of the files that are settled and have several pieces, archive by archive: a file of one piece has that one's digest. */
async function wholeDigests(
  archives: readonly OpenedArchive[],
  settled: readonly Settled[],
): Promise<ReadonlyMap<string, string>[]> {
  return inPool((pool) =>
    Promise.all(
      archives.map(async ({ from, files }, i) => {
        const taken = new Set(
          settled.flatMap(({ archive, places }) => (archive === i ? places.map(([path]) => path) : [])),
        );
        const paths = files.flatMap(({ path, key }) => (taken.has(path) && keyPieces(key).length > 1 ? [path] : []));
        if (paths.length === 0) return new Map<string, string>();
        const what = from instanceof File ? from : from.from;
        return new Map((await pool.run({ do: 'digest-in-archive', from: what, paths })).digests);
      }),
    ),
  );
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
): Promise<readonly PutRelease['release'][]> {
  const at = Date.now();
  const catalogue = await getCatalogue(install.game);
  const inArchive = archives.map(({ files }) => new Map(files.map((file) => [file.path, file])));
  const taken = archives.map((): ArchiveFile[] => []);
  const releases: ShelveRelease[] = [];
  const put: PutRelease[] = [];
  /** Where contents lie that are in folders, not in archives. */
  const onDisk = (some: readonly (readonly [archive: number, file: ArchiveFile])[]): ShelveRelease['from'] =>
    some.flatMap(([archive, { key, path }]) => {
      const { from } = archives[archive]!;
      return from instanceof File ? [] : [[key, `${from.onDisk}/${path}`] as const];
    });
  for (const { mod, release, files } of known) {
    for (const { archive, path } of files) taken[archive]!.push(inArchive[archive]!.get(path)!);
    const all = releaseAt(modById(catalogue, mod)!, release)!.files;
    const source = [...new Set(files.map(({ archive }) => archives[archive]!.name))].join(', ');
    const from = onDisk(files.map(({ archive, path }) => [archive, inArchive[archive]!.get(path)!]));
    releases.push({ mod, release, keys: all.filter(({ size }) => size > 0).map(releaseFileKey), from, source });
    put.push({ release: [mod, release], archives: new Set(files.map(({ archive }) => archive)) });
  }
  const digests = await wholeDigests(archives, settled);
  const add = settled.map((one): OwnMod => {
    const before = modById(catalogue, one.mod?.id ?? idOfName(one.name));
    const mod = ownMod(before, one.name);
    const files = one.places.map(([path]) => inArchive[one.archive]!.get(path)!);
    const isTwice = releases.some((other) => other.mod === mod.id && other.release === one.version);
    if (isTwice || (before && releaseAt(before, one.version)))
      throw new Failure('shelf/release-there', { mod: mod.name, release: one.version });
    taken[one.archive]!.push(...files);
    const from = one.source || archives[one.archive]!.name;
    const lies = onDisk(files.map((file) => [one.archive, file]));
    releases.push({ mod: mod.id, release: one.version, keys: files.map(({ key }) => key), from: lies, source: from });
    put.push({ release: [mod.id, one.version], archives: new Set([one.archive]) });
    const release: Mod['releases'][number] = {
      ...{
        version: one.version,
        date: madeAt(files, at).slice(0, 10),
        builds: [...one.builds],
        brokenOn: [],
        requires: [],
        requiresOneOf: [],
      },
      ...{ optional: [], conflicts: [], reports: [], touches: [...one.touches], unofficial: from.slice(0, 200) },
      files: one.places.map(([path, place], i) => releaseFile(place, files[i]!, digests[one.archive]!.get(path))),
    };
    return { ...mod, releases: [release], game: install.game, from, at };
  });
  const unpacked = archives.flatMap(({ from }, i) =>
    from instanceof File && taken[i]!.length > 0
      ? [{ from, isBag: false, files: taken[i]!.map(({ path, key, modified }) => ({ path, key, modified })) }]
      : [],
  );
  await jobs.ended(await jobs.start('shelve', install.id, { archives: unpacked, releases, add }));
  for (const [i, { from: folder }] of archives.entries()) {
    const own = put.flatMap(({ release, archives: numbers }) => (numbers.has(i) ? [release] : []));
    if (!(folder instanceof File) && own.length > 0)
      await decideFollowed(install.id, folder.followed, [{ ...folder, releases: own }]);
  }
  return put.map(({ release }) => release);
}

/** What the job that shelves takes of a release. */
interface ShelveRelease {
  readonly mod: string;
  readonly release: string;
  readonly keys: readonly string[];
  readonly from: readonly (readonly [key: string, path: string])[];
  readonly source: string;
}

/** A release that goes onto the shelf, and the archives that its files come from, by their numbers. */
interface PutRelease {
  readonly release: readonly [mod: ModId, version: string];
  readonly archives: ReadonlySet<number>;
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

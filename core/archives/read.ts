import { compareLabels, type ModId } from '#core/builds';
import { type ContentKey, keySize } from '#core/digest';
import { type Catalogue, type Mod, modById, recogniseMods, releaseAt, releaseOrder } from '#core/mods';
import { nameKey } from '#core/tables';
import type { Ground } from './mod-form';
import { namedRelease } from './named';
import { type ArchivePart, placeFiles } from './place';
import { toldInFolder } from './told';

/** An archive that was read whole, or a folder as if it were one. */
export interface ReadArchive {
  readonly name: string;
  readonly files: readonly { readonly path: string; readonly key: ContentKey; readonly modified: number }[];
  /** Short texts in which a mod may say what it is. */
  readonly texts: readonly (readonly [path: string, text: string])[];
}

/** A file of one of several archives. */
interface InArchive {
  readonly archive: number;
  readonly path: string;
}

/** A release that is known, told by its bytes, be it that its files lie in several archives. */
export interface KnownRelease {
  readonly mod: ModId;
  readonly name: string;
  readonly release: string;
  readonly files: readonly (InArchive & { readonly place: string })[];
  /** Places of its files that lie in none of the archives. */
  readonly missing: readonly string[];
  /** The newest release of the mod among the archives, where this is an older one. */
  readonly newer: string | undefined;
}

/** What is to become a release of one's own: for a person to name, and to say where it goes where that is not sure. */
export interface DraftRelease {
  readonly archive: number;
  readonly name: string;
  /** Empty where nothing tells it. */
  readonly version: string;
  /** The mod that it seems to be of, where that is known. */
  readonly mod: Pick<Mod, 'id' | 'name'> | undefined;
  readonly parts: readonly ArchivePart[];
  /** The newest release of the mod among the archives, by how they are called, where this is an older one. */
  readonly newer: string | undefined;
}

export interface ArchivesRead {
  readonly known: readonly KnownRelease[];
  readonly drafts: readonly DraftRelease[];
  /** Notes and pictures, which go nowhere. */
  readonly aside: readonly InArchive[];
}

const SEPARATOR = '\u0000';

type Found = Omit<KnownRelease, 'newer'>;

/** Releases by their bytes, be they several of one mod. What has only a smaller part of one may be another one. */
function knownReleases(archives: readonly ReadArchive[], catalogue: Catalogue): KnownRelease[] {
  let left = archives.flatMap(({ files }, archive) =>
    files.flatMap(({ path, key }) => (keySize(key) > 0 ? [{ path: `${archive}${SEPARATOR}${path}`, key }] : [])),
  );
  const all: Found[] = [];
  for (;;) {
    const known = new Set(all.map(({ mod, release }) => `${mod}${SEPARATOR}${release}`));
    const found = releasesIn(left, catalogue).filter(({ mod, release }) => !known.has(`${mod}${SEPARATOR}${release}`));
    if (found.length === 0) break;
    all.push(...found);
    const taken = new Set(found.flatMap(({ files }) => files.map((file) => `${file.archive}${SEPARATOR}${file.path}`)));
    left = left.filter(({ path }) => !taken.has(path));
  }
  const newest = new Map<ModId, string>();
  for (const { mod: id, release } of all) {
    const mod = modById(catalogue, id)!;
    const best = newest.get(id);
    if (best === undefined || releaseOrder(mod, best) < releaseOrder(mod, release)) newest.set(id, release);
  }
  return all.map((one) => {
    const best = newest.get(one.mod);
    return { ...one, newer: best === one.release ? undefined : best };
  });
}

function releasesIn(
  all: readonly { readonly path: string; readonly key: ContentKey }[],
  catalogue: Catalogue,
): Found[] {
  return recogniseMods(all, catalogue).flatMap(({ mod: id, release, found, total, files }): Found[] => {
    const mod = modById(catalogue, id)!;
    if (found * 2 <= total && found !== total) return [];
    const here = files.map(({ path, place }) => {
      const [archive, own] = path.split(SEPARATOR) as [string, string];
      return { archive: Number(archive), path: own, place };
    });
    const places = new Set(here.map(({ place }) => place));
    // A file without bytes is had by whoever has the rest.
    const missing = releaseAt(mod, release)!.files.flatMap(({ path, size }) =>
      size > 0 && !places.has(path) ? [path] : [],
    );
    return [{ mod: id, name: mod.name, release, files: here, missing }];
  });
}

/** The folders of mods in an archive that has several are a release each; all else of it is one. */
function draftsOf(parts: readonly ArchivePart[]): ArchivePart[][] {
  const mods = parts.filter(({ why, to }) => why === 'mark' && to !== undefined);
  const places = new Set(mods.map(({ to }) => to));
  if (places.size < 2 || mods.length < parts.length) return parts.length > 0 ? [[...parts]] : [];
  return [...places].map((place) => mods.filter(({ to }) => to === place));
}

/**
 * Tells what archives that came together have: releases that are known, by bytes; and what else there is, with where it belongs.
 */
export function readArchives(archives: readonly ReadArchive[], catalogue: Catalogue, ground: Ground): ArchivesRead {
  const known = knownReleases(archives, catalogue);
  const byName = new Map(catalogue.mods.map((mod) => [nameKey(mod.name), mod]));
  const modOf = (id: string | undefined, called: string): DraftRelease['mod'] => {
    const mod = (id === undefined ? undefined : modById(catalogue, id)) ?? byName.get(nameKey(called));
    return mod && { id: mod.id, name: mod.name };
  };
  const aside: InArchive[] = [];
  const drafts = archives.flatMap(({ name, files, texts }, archive): Omit<DraftRelease, 'newer'>[] => {
    const taken = new Set(
      known.flatMap((one) => one.files.filter((file) => file.archive === archive).map(({ path }) => path)),
    );
    const told = toldInFolder(texts);
    const left = files.flatMap(({ path }) => (taken.has(path) ? [] : [path]));
    const placement = placeFiles(left, ground, (folder) => told(folder).id);
    for (const path of placement.aside) aside.push({ archive, path });
    const named = namedRelease(name);
    const drafted = draftsOf(placement.parts);
    return drafted.map((parts) => {
      const says = parts.map(({ from }) => told(from)).reduce((all, one) => ({ ...one, ...all }), {});
      const folder = drafted.length > 1 ? parts[0]!.to!.split('/').at(-1)! : named.name;
      // No longer than a catalogue takes them.
      const own = (says.name ?? folder).slice(0, 80);
      return {
        archive,
        name: own,
        version: (says.version ?? named.version).slice(0, 40),
        mod: modOf(says.id, own),
        parts,
      };
    });
  });
  const sameMod = (one: (typeof drafts)[number]): string => one.mod?.id ?? nameKey(one.name);
  const newest = new Map<string, string>();
  const told = [
    ...known.map(({ mod, release }) => [mod, release] as const),
    ...drafts.map((one) => [sameMod(one), one.version] as const),
  ];
  for (const [mod, version] of told) {
    const best = newest.get(mod);
    if (version !== '' && (best === undefined || compareLabels(best, version) < 0)) newest.set(mod, version);
  }
  return {
    known,
    aside,
    drafts: drafts.map((one) => {
      const best = newest.get(sameMod(one));
      const isOlder = best !== undefined && one.version !== '' && compareLabels(one.version, best) < 0;
      return { ...one, newer: isOlder ? best : undefined };
    }),
  };
}

import type { ContentKey, Sha256 } from '#core/digest';
import { type Catalogue, type Mod, modById, type Release, releaseAt, releaseFileKey } from '#core/mods';
import { releaseDigest } from './facts';
import type { HoldSheet } from './sheet';

/*
 * A hold sheet together with what belongs to it, as one archive (docs/formats.md): the sheet, and where the person says so the
 * manifests of its depots, with an index of them, and the files of its mods, with a catalogue of them.
 */

/** What files are called in the payload of such an archive. */
export const SHEET_FILES = {
  sheet: 'hold-sheet.json',
  index: 'builds/index.json',
  catalogue: 'mods/catalogue.json',
} as const;

/** Files of the payload that are read as texts. */
export const SHEET_TEXTS = /^(hold-sheet\.json|builds\/[^/]+|mods\/catalogue\.json)$/;

export const manifestInArchive = (depot: string): string => `builds/${depot}.meta4`;

/** Of each mod a sheet has one release. */
export const modFileInArchive = (mod: string, path: string): string => `mods/files/${mod}/${path}`;

/** A file of an archive. */
export interface ArchivedFile {
  readonly path: string;
  readonly key: ContentKey;
}

/** A release of which an archive has the files. */
export interface OfferedRelease {
  /** The mod with this release alone. */
  readonly mod: Mod;
  readonly release: Release;
  /** What its files are called in the archive. */
  readonly files: readonly ArchivedFile[];
}

export interface ShelfOffer {
  /** Releases that are to be had nowhere else. */
  readonly takes: readonly (OfferedRelease & {
    /** Whether no catalogue here has it. */
    readonly isNew: boolean;
  })[];
  /** Releases that their catalogue has. */
  readonly had: number;
  /** Releases that are not taken, and why. */
  readonly refused: readonly {
    readonly name: string;
    readonly release: string;
    readonly why: 'not-on-sheet' | 'not-as-claimed' | 'incomplete' | 'other-files';
  }[];
}

/** Whether two releases have the same files, byte for byte. */
function isSame(a: Release, b: Release): boolean {
  const keys = new Map(b.files.map((file) => [file.path, releaseFileKey(file)]));
  return a.files.length === keys.size && a.files.every((file) => keys.get(file.path) === releaseFileKey(file));
}

/**
 * Says which releases of an archive can go on the shelf: those that the sheet speaks of, whose files are all there and are as
 * the archive's own catalogue and the sheet claim.
 * @param catalogue of the archive
 * @param files of the archive, each with what its bytes are
 * @param known what is known here
 */
export async function shelfOffer(
  { sheet, catalogue, files }: { sheet: HoldSheet; catalogue: Catalogue; files: readonly ArchivedFile[] },
  known: Catalogue,
  sha256: Sha256,
): Promise<ShelfOffer> {
  const there = new Map(files.map(({ path, key }) => [path, key]));
  const claims = new Map(sheet.releases.map((claim) => [claim.mod as string, claim]));
  const takes: ShelfOffer['takes'][number][] = [];
  const refused: ShelfOffer['refused'][number][] = [];
  let had = 0;
  for (const mod of catalogue.mods) {
    for (const release of mod.releases) {
      const claim = claims.get(mod.id);
      const own = release.files.map((file) => ({
        path: modFileInArchive(mod.id, file.path),
        key: releaseFileKey(file),
      }));
      const digest = await releaseDigest(release.files, sha256);
      const refuse = (why: ShelfOffer['refused'][number]['why']): void =>
        void refused.push({ name: mod.name, release: release.version, why });
      const isThere = own.every(({ path, key }) => there.get(path) === key);
      const here = modById(known, mod.id);
      const same = here && releaseAt(here, release.version);
      if (claim?.release !== release.version) refuse('not-on-sheet');
      else if (claim.digest !== undefined && claim.digest !== digest) refuse('not-as-claimed');
      else if (own.length === 0 || !isThere) refuse('incomplete');
      else if (same && !isSame(same, release)) refuse('other-files');
      else if (same?.files.every(({ href }) => href !== '')) had += 1;
      else takes.push({ mod: { ...mod, releases: [release] }, release, files: own, isNew: !same });
    }
  }
  return { takes, had, refused };
}

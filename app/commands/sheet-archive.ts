import { Failure } from '#core/failure';
import { type HoldSheet, parseHoldSheet, SHEET_FILES, SHEET_TEXTS, type ShelfOffer, shelfOffer } from '#core/hold';
import { parseJson } from '#core/json';
import { CatalogueSchema } from '#core/mods';
import { jobs } from '~/jobs';
import { platformSha256 } from '~/remote';
import { getCatalogue, type Install } from '~/store';
import type { BagFile } from '~/workers';
import type { HandedFile } from './games';
import { handing } from './handing';
import { inPool } from './in-pool';

/** A hold sheet that came in an archive, with what else that has. Every file of it is as its checksum says. */
export interface SheetArchive {
  readonly file: File;
  readonly sheet: HoldSheet;
  readonly text: Uint8Array;
  /** An index of its build with its manifests, to be handed over as a source; none where it has none. */
  readonly builds: readonly HandedFile[];
  readonly files: readonly BagFile[];
  readonly offer: ShelfOffer;
}

const bytesOfText = (text: string): Uint8Array => new TextEncoder().encode(text);

/**
 * Checks an archive with a hold sheet, and says what of it could be taken over. Nothing is.
 * @throws Failure `bag/malformed`, `json/*`, `hold-sheet/unknown-version`
 */
export async function lookIntoSheet(install: Install, file: File): Promise<SheetArchive> {
  const look = { do: 'look-into-bag', from: file, texts: SHEET_TEXTS } as const;
  const { files, texts: found } = await inPool((pool) => pool.run(look));
  const texts = new Map(found);
  const text = texts.get(SHEET_FILES.sheet);
  if (text === undefined) throw new Failure('bag/malformed', { file: file.name, what: 'it has no hold sheet in it' });
  const sheet = parseHoldSheet(text, SHEET_FILES.sheet);
  const listed = texts.get(SHEET_FILES.catalogue);
  const none = { takes: [], had: 0, refused: [] };
  const offer =
    listed === undefined
      ? none
      : await shelfOffer(
          { sheet, catalogue: parseJson(listed, CatalogueSchema, SHEET_FILES.catalogue), files },
          await getCatalogue(install.game),
          platformSha256,
        );
  const index = texts.get(SHEET_FILES.index);
  const builds =
    index === undefined
      ? []
      : [...texts].flatMap(([path, own]): HandedFile[] =>
          path.startsWith('builds/') ? [{ name: path.slice('builds/'.length), bytes: bytesOfText(own) }] : [],
        );
  return { file, sheet, text: bytesOfText(text), builds, files, offer };
}

/**
 * Takes the files of releases that are to be had nowhere else onto the shelf: into the store, as unofficial releases that name
 * the archive. They go into no folder by that.
 * @throws Failure as the job does; no release is added then
 */
export async function shelveOffered(install: Install, { file, files, offer }: SheetArchive): Promise<void> {
  const contents = new Map(files.map((one) => [one.path, one]));
  const releases = offer.takes.map(({ mod, release, files: own }) => ({
    ...{ mod: mod.id, release: release.version },
    keys: own.map(({ path }) => contents.get(path)!.key),
  }));
  const taken = offer.takes.flatMap(({ files: own }) => own.map(({ path }) => contents.get(path)!));
  const at = Date.now();
  const add = offer.takes
    .filter(({ isNew }) => isNew)
    .map(({ mod }) => ({
      ...mod,
      releases: mod.releases.map((release) => ({
        ...release,
        unofficial: file.name.slice(0, 200),
        files: release.files.map((one) => ({ ...one, href: '' })),
      })),
      ...{ game: install.game, from: file.name, at },
    }));
  await jobs.ended(
    await jobs.start('shelve', install.id, { archives: [{ from: file, isBag: true, files: taken }], releases, add }),
  );
}

/** Archives with a hold sheet that are dropped elsewhere. */
export const { hand: handSheetOver, read: readHandedSheets } = handing<File>();

import type { DepotIndex } from '#core/builds';
import type { ContentKey } from '#core/digest';
import { isFailure } from '#core/failure';
import { type HoldSheet, manifestInArchive, modFileInArchive } from '#core/hold';
import { type Catalogue, type Mod, modById, releaseAt, releaseFileKey } from '#core/mods';
import { treePath } from '~/folders';
import { platformSha256, readText, request } from '~/remote';
import { type InstallContext, installContext, type ManifestEntry, MOST_MANIFEST } from './install-context';
import { recordedSource } from './recording';
import { storedOf } from './stored';
import type { SheetParts } from './views';

/* What a hold sheet can be handed on with. */

/**
 * The text of a manifest just as its digest is of, from its source or of a build that was recorded here; undefined where it is
 * not to be had any more.
 */
async function manifestText(
  { href, sha256 }: ManifestEntry,
  recorded: ReadonlyMap<string, string>,
): Promise<string | undefined> {
  const own = recorded.get(sha256);
  if (own !== undefined || href === '') return own;
  try {
    const text = await readText(await request(href), href, MOST_MANIFEST);
    return (await platformSha256(text)) === sha256 ? text : undefined;
  } catch (error) {
    if (!isFailure(error)) throw error;
    return undefined;
  }
}

/** Texts of manifests of builds that were recorded here, by their digests. */
async function recordedTexts(game: string): Promise<ReadonlyMap<string, string>> {
  const texts = [...(await recordedSource(game))].flatMap(([path, text]) => (path.endsWith('.meta4') ? [text] : []));
  return new Map(await Promise.all(texts.map(async (text) => [await platformSha256(text), text] as const)));
}

async function manifestsFor({ index }: InstallContext, sheet: HoldSheet) {
  const texts: [path: string, text: string][] = [];
  const entries: DepotIndex['manifests'] = [];
  const without: string[] = [];
  const recorded = await recordedTexts(index.game.id);
  for (const { id, manifestSha256 } of sheet.depots) {
    const entry = index.manifests.find((one) => one.depot === id && one.sha256 === manifestSha256);
    const text = entry && (await manifestText(entry, recorded));
    if (!entry || text === undefined) {
      without.push(index.depots.find((depot) => depot.id === id)?.title ?? id);
      continue;
    }
    const { mirrors: _, bundles: __, ...rest } = entry;
    texts.push([manifestInArchive(id), text]);
    // The manifest lies beside the index; where a file of the game is to be had is not told on.
    entries.push({ ...rest, build: sheet.build, href: `${id}.meta4`, filesHref: '' });
  }
  const build = index.builds.find(({ label }) => label === sheet.build);
  const { branch: _, ...bare } = build ?? { label: sheet.build, date: sheet.heldAt.slice(0, 10) };
  const handed: DepotIndex = {
    ...{ format: 'regressum-depot-index', version: 1, game: index.game, branches: [] },
    ...{ builds: [bare], manifests: entries },
    depots: index.depots.filter(({ id }) => entries.some(({ depot }) => depot === id)),
  };
  return { index: handed, texts, without };
}

/** The releases of a sheet whose files all lie on the disk, with where. */
async function modsFor({ install, found, catalogue }: InstallContext, sheet: HoldSheet) {
  const places = new Map<ContentKey, string>(found.map(({ path, key }) => [key, treePath(install.tree, path)]));
  const stored = await storedOf(install);
  const mods: Mod[] = [];
  const files: [as: string, path: string, size: number][] = [];
  const without: string[] = [];
  for (const { mod: id, name, release: version } of sheet.releases) {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    const own = (release?.files ?? []).map((file) => {
      const key = releaseFileKey(file);
      return [modFileInArchive(id, file.path), places.get(key) ?? stored.get(key), file.size] as const;
    });
    if (!mod || !release || own.length === 0 || own.some(([, path]) => path === undefined)) {
      without.push(`${name} ${version}`);
      continue;
    }
    // Where it is to be had is not told on: who gets the archive has it, or asks their own catalogue.
    mods.push({ ...mod, releases: [{ ...release, files: release.files.map((file) => ({ ...file, href: '' })) }] });
    files.push(...own.map(([as, path, size]) => [as, path!, size] as [string, string, number]));
  }
  return { catalogue: { format: 'regressum-mod-catalogue', version: 1, mods } as Catalogue, files, without };
}

/** The manifests and the mods' files that a sheet speaks of, as far as they are to be had here. */
export async function sheetParts(installId: string, sheet: HoldSheet): Promise<SheetParts> {
  const here = await installContext(installId);
  const [builds, mods] = await Promise.all([manifestsFor(here, sheet), modsFor(here, sheet)]);
  return { builds, mods };
}

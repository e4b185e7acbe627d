import { type ContentKey, contentKey, type Sha256 } from '#core/digest';
import type { DepotId, DepotIndex, ModId } from '#core/builds';
import { Failure } from '#core/failure';
import type { LaidFile } from '#core/manifest';
import { type Catalogue, modById, needsOf, releaseAt, releaseFileKey } from '#core/mods';
import { PathSet } from '#core/paths';

export type Owner =
  | { readonly kind: 'depot'; readonly depot: DepotId }
  | { readonly kind: 'mod'; readonly mod: ModId; readonly release: string }
  /** Written by Regressum itself, from text. */
  | { readonly kind: 'written'; readonly text: string };

/** A file that the new folder shall hold. */
export interface TargetFile {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
  readonly sha256: string;
  readonly owner: Owner;
  /** Where it is to be had, relative to the service's origin; empty for what Regressum writes. */
  readonly href: string;
}

export interface TargetInput {
  readonly index: DepotIndex;
  /** The laid tree of the target build. */
  readonly laid: readonly LaidFile[];
  readonly filesHref: ReadonlyMap<DepotId, string>;
  readonly catalogue: Catalogue;
  /** The chosen release of each mod. */
  readonly releases: ReadonlyMap<ModId, string>;
}

/** A path below a base address, each part encoded for a URL. */
export function fileHref(base: string, path: string): string {
  return base + path.split('/').map(encodeURIComponent).join('/');
}

/** Requirements before the mods that need them, otherwise in the catalogue's order. */
export function loadOrder(catalogue: Catalogue, releases: ReadonlyMap<ModId, string>): ModId[] {
  const order: ModId[] = [];
  const seen = new Set<ModId>();
  const visit = (id: ModId): void => {
    const version = releases.get(id);
    const mod = modById(catalogue, id);
    if (seen.has(id) || version === undefined || !mod) return;
    seen.add(id);
    const release = releaseAt(mod, version);
    for (const need of release ? needsOf(release).flat() : []) visit(need.mod);
    order.push(id);
  };
  for (const { id } of catalogue.mods) visit(id);
  return order;
}

/** The text of the list of mods to load: one mod's id a line, in load order. */
export function loadOrderText(catalogue: Catalogue, releases: ReadonlyMap<ModId, string>): string {
  return loadOrder(catalogue, releases)
    .map((id) => `${id}\n`)
    .join('');
}

/** Key and digest of a text that Regressum writes itself; it must be one piece. */
export async function writtenKey(
  text: string,
  sha256: Sha256,
): Promise<{ size: number; key: ContentKey; sha256: string }> {
  const digest = await sha256(text);
  // Mod ids are ASCII by their schema, so characters are bytes.
  return { size: text.length, key: contentKey(text.length, [digest]), sha256: digest };
}

/**
 * The whole tree that is to lie on disk: the laid depots, the files of the chosen releases, the list of mods to load.
 * @returns sorted by path
 * @throws Failure `path/*` where two of its files cannot stand side by side
 */
export async function targetTree(input: TargetInput, sha256: Sha256): Promise<TargetFile[]> {
  const { index, laid, filesHref, catalogue, releases } = input;
  const files: TargetFile[] = laid.map(({ path, size, key, sha256: digest, depot }) => ({
    path,
    size,
    key,
    sha256: digest,
    owner: { kind: 'depot', depot },
    href: fileHref(filesHref.get(depot) ?? '', path),
  }));
  for (const [id, version] of releases) {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    if (!release) throw new Failure('target/unknown-release', { mod: id, release: version });
    for (const file of release.files) {
      const { path, size, sha256: digest, href } = file;
      const owner: Owner = { kind: 'mod', mod: id, release: version };
      files.push({ path, size, key: releaseFileKey(file), sha256: digest, owner, href });
    }
  }
  if (releases.size > 0) {
    const text = loadOrderText(catalogue, releases);
    const owner: Owner = { kind: 'written', text };
    files.push({ path: index.game.rules.loadOrder, ...(await writtenKey(text, sha256)), owner, href: '' });
  }
  const names = new PathSet();
  for (const { path } of files) names.add(path);
  return files.toSorted((a, b) => (a.path < b.path ? -1 : 1));
}

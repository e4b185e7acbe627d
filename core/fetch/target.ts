import { mergeModList, readModList } from '#core/mod-list';
import { type ContentKey, contentKey, type Sha256 } from '#core/digest';
import type { DepotId, DepotIndex, ModId } from '#core/builds';
import { Failure } from '#core/failure';
import type { LaidFile } from '#core/manifest';
import { type Catalogue, loadOrder, modById, releaseAt, releaseFileKey } from '#core/mods';
import { PathSet } from '#core/paths';
import { utf8Length } from '#core/text';

export type Owner =
  | { readonly kind: 'depot'; readonly depot: DepotId }
  | { readonly kind: 'mod'; readonly mod: ModId; readonly release: string }
  /** Written by Regressum itself, from text. */
  | { readonly kind: 'written'; readonly text: string };

/** A file of a depot, of a mod, or written: one copy that the new folder could hold. */
export interface TargetCopy {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
  readonly sha256: string;
  readonly owner: Owner;
  /** Where it is to be had, relative to the service's origin; empty for what Regressum writes. */
  readonly href: string;
  /** Where it is to be had too. */
  readonly mirrors?: readonly string[] | undefined;
}

/** A file that the new folder shall hold. */
export interface TargetFile extends TargetCopy {
  /** Copies that it covers: of a depot, or of mods that are loaded earlier. Lowest first. */
  readonly covers?: readonly TargetCopy[];
  /** It is wanted as it lies in the folder, though its owner brings another: a person has set something of a mod there. */
  readonly asFound?: true;
}

export interface TargetInput {
  readonly index: DepotIndex;
  /** The laid tree of the target build. */
  readonly laid: readonly LaidFile[];
  readonly filesHref: ReadonlyMap<DepotId, string>;
  /** Other base addresses of the depots' files. */
  readonly mirrors?: ReadonlyMap<DepotId, readonly string[]>;
  readonly catalogue: Catalogue;
  /** The chosen release of each mod. */
  readonly releases: ReadonlyMap<ModId, string>;
  /** The mods in the order in which a person has them, as far as they do. */
  readonly order?: readonly ModId[] | undefined;
  /** The list of mods to load as it lies in the folder: what of it is not known stays in it. */
  readonly list?: string | undefined;
}

/** A path that is in an address as it is. */
const PLAIN_PATH = /^[\w./-]*$/;

/** A path below a base address, each part encoded for a URL. */
export const fileHref = (base: string, path: string): string =>
  base + (PLAIN_PATH.test(path) ? path : path.split('/').map(encodeURIComponent).join('/'));

/** Key and digest of a text that Regressum writes itself; it must be one piece. */
export async function writtenKey(
  text: string,
  sha256: Sha256,
): Promise<{ size: number; key: ContentKey; sha256: string }> {
  const digest = await sha256(text);
  const size = utf8Length(text);
  return { size, key: contentKey(size, [digest]), sha256: digest };
}

/** The files of a release. @throws Failure `target/unknown-release` */
function filesOfRelease(catalogue: Catalogue, id: ModId, version: string): TargetCopy[] {
  const mod = modById(catalogue, id);
  const release = mod && releaseAt(mod, version);
  if (!release) throw new Failure('target/unknown-release', { mod: id, release: version });
  const owner: Owner = { kind: 'mod', mod: id, release: version };
  return release.files.map((file) => {
    const { path, size, sha256, href } = file;
    return { path, size, key: releaseFileKey(file), sha256, owner, href };
  });
}

/**
 * The whole tree that is to lie on disk: the laid depots, over them the files of the chosen releases in load order, over
 * those the list of mods to load. Of several copies for a path the last one stays, and says which it covers.
 * @returns sorted by path
 * @throws Failure `path/*` where two of its files cannot stand side by side, `target/unknown-release`
 */
export async function targetTree(input: TargetInput, sha256: Sha256): Promise<TargetFile[]> {
  const { index, laid, filesHref, mirrors, catalogue, releases, order, list: listed = '' } = input;
  const files = new Map<string, TargetFile>();
  const lay = (copy: TargetCopy): void => {
    const below = files.get(copy.path);
    if (!below) return void files.set(copy.path, copy);
    const { covers = [], ...covered } = below;
    files.set(copy.path, { ...copy, covers: [...covers, covered] });
  };
  const owners = new Map<DepotId, Owner>();
  for (const { path, size, key, sha256: digest, depot } of laid) {
    const base = filesHref.get(depot) ?? '';
    const href = base === '' ? '' : fileHref(base, path);
    let owner = owners.get(depot);
    if (!owner) owners.set(depot, (owner = { kind: 'depot', depot }));
    const copy: { -readonly [Part in keyof TargetCopy]: TargetCopy[Part] } = {
      path,
      size,
      key,
      sha256: digest,
      owner,
      href,
    };
    const others = mirrors?.get(depot);
    if (others) copy.mirrors = others.map((other) => fileHref(other, path));
    lay(copy);
  }
  const byMod = new Map([...releases].map(([id, version]) => [id, filesOfRelease(catalogue, id, version)]));
  const running = loadOrder(catalogue, releases, order);
  for (const id of running) byMod.get(id)!.forEach(lay);
  const { loadOrder: list, listSyntax } = index.game.rules;
  const isKnown = (id: string): boolean => modById(catalogue, id) !== undefined;
  const text = mergeModList(listed, running, isKnown, listSyntax);
  if (list !== undefined && (releases.size > 0 || readModList(text, listSyntax).length > 0)) {
    const owner: Owner = { kind: 'written', text };
    lay({ path: list, ...(await writtenKey(text, sha256)), owner, href: '' });
  }
  const names = new PathSet();
  for (const path of files.keys()) names.add(path);
  return [...files.values()].toSorted((a, b) => (a.path < b.path ? -1 : 1));
}

/** The copies of depots that mods cover: kept, so that taking a mod out needs no fetching. */
export const coveredVanilla = (target: readonly TargetFile[]): TargetCopy[] =>
  target.flatMap(({ covers = [] }) => covers.filter(({ owner }) => owner.kind === 'depot'));

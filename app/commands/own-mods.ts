import { sha256 as wholeSha256 } from '@noble/hashes/sha2.js';
import type { ModId } from '#core/builds';
import { Failure } from '#core/failure';
import { keyPieces, keyPieceSize, PIECE_SIZE, pieceCount, pieceRange, toHex } from '#core/digest';
import type { ReleaseFile, Weight } from '#core/mods';
import type { FoundFile } from '#core/survey';
import type { ModTable, ReadListed } from '#core/tables';
import type { FolderReader } from '#core/folders';
import { sourceOf } from '~/places';
import { type Given, query } from '~/queries';
import { broadcast, getCatalogue, getInstall, type Install, putOwnMods, removeOwnMod, updateInstall } from '~/store';
import { orderWith } from './order';

/** Adds mods to those that an install wants; of one that is there already the weight is changed. */
export function wanting(now: Install, wanted: ReadonlyMap<ModId, Weight>): Install {
  const kept = now.weights.map(([id, weight]) => [id, wanted.get(id) ?? weight] as const);
  const known = new Set(kept.map(([id]) => id));
  return { ...now, weights: [...kept, ...[...wanted].filter(([id]) => !known.has(id))] };
}

/** Adds mods to those that a person wants of an install; of one that is there already the weight is changed. */
export async function wantMods(install: string, wanted: ReadonlyMap<ModId, Weight>): Promise<void> {
  await updateInstall(install, (now) => wanting(now, wanted));
  broadcast({ type: 'changed' });
}

/**
 * Takes over a table of mods without faults: the mods for every install, the weights for this one. A mod without a weight
 * keeps the one that it has here, and is wanted where it has none.
 * @param from what it was read from
 */
export async function takeOverTable(
  install: string,
  { mods, weights }: Pick<ModTable, 'mods' | 'weights'>,
  from: string,
): Promise<void> {
  const at = Date.now();
  const { game } = await getInstall(install);
  const own = mods.map((mod) => ({ ...mod, game, from, at }));
  const change = (now: Install): Install => {
    const had = new Map(now.weights);
    return wanting(now, new Map(mods.map(({ id }) => [id, weights.get(id) ?? had.get(id) ?? 'want'])));
  };
  await putOwnMods(own, { install, change });
  broadcast({ type: 'changed' });
}

/**
 * Wants the mods of a list that somebody published, in the roles that they have there; those that others need come by themselves.
 * @param keeps to just these releases, as far as they are known, in the order of the list
 */
export async function takeOverList(install: string, listed: readonly ReadListed[], keeps: boolean): Promise<void> {
  const weights = new Map(
    listed.flatMap(({ mod, role }) => (mod === undefined || role === 'needed' ? [] : [[mod, role] as const])),
  );
  const pins = new Map(
    listed.flatMap(({ mod, release, isKnown }) => (mod !== undefined && isKnown ? [[mod, release] as const] : [])),
  );
  await updateInstall(install, (now) => ({
    ...wanting(now, weights),
    ...(keeps && {
      pins: [...(now.pins ?? []).filter(([mod]) => !pins.has(mod)), ...pins],
      order: orderWith(now.order, [...new Set(listed.flatMap(({ mod }) => mod ?? []))]),
    }),
  }));
  broadcast({ type: 'changed' });
}

/** SHA-256 of a whole file, read piece by piece: the platform's own takes only what lies in memory at once. */
async function wholeDigest(reader: FolderReader, path: string): Promise<string> {
  const file = await reader.open(path);
  try {
    const hash = wholeSha256.create();
    for (let i = 0; i < pieceCount(file.size); i++) {
      const { start, end } = pieceRange(file.size, i);
      hash.update(await file.read(start, end));
    }
    return toHex(hash.digest());
  } finally {
    file.close();
  }
}

/** The files of a release that lie in the folder and are to be had nowhere else. @throws Failure `folder/*` */
async function carriedFiles(install: Install, found: readonly FoundFile[]): Promise<ReleaseFile[]> {
  const { reader, root } = await sourceOf(install, install.tree);
  const files: ReleaseFile[] = [];
  for (const { path, size, key } of found) {
    // A release tells its pieces in the usual size alone.
    const pieces = keyPieceSize(key) === PIECE_SIZE ? keyPieces(key) : undefined;
    if (pieces?.length === 1) files.push({ path, size, sha256: pieces[0]!, href: '' });
    else {
      const sha256 = await wholeDigest(reader, root === '' ? path : `${root}/${path}`);
      files.push({ path, size, sha256, pieces, href: '' });
    }
  }
  return files;
}

/**
 * Takes over a release that a person wrote down, with the files of it that lie in the folder, so that they go along to
 * another build.
 * @param id of the mod where no catalogue has it: the game finds mods by the folder that they lie in
 * @throws Failure `folder/*` where one of its files cannot be read; nothing is taken over then
 */
export async function takeOverWritten(
  install: Install,
  { mods, weights }: Pick<ModTable, 'mods' | 'weights'>,
  id: ModId | undefined,
  found: readonly FoundFile[],
): Promise<void> {
  const files = found.length === 0 ? [] : await carriedFiles(install, found);
  const known = new Set((await getCatalogue(install.game)).mods.map((mod) => mod.id));
  const idOf = (own: ModId): ModId => (known.has(own) ? own : (id ?? own));
  const written = {
    mods: mods.map((mod) => ({
      ...mod,
      id: idOf(mod.id),
      releases: mod.releases.map((release) => ({ ...release, files })),
    })),
    weights: new Map([...weights].map(([own, weight]) => [idOf(own), weight])),
  };
  await takeOverTable(install.id, written, 'by hand');
}

/** Forgets what was brought in of a mod; the catalogue's own stays. A mod that nobody else knows is no longer wanted. */
export async function forgetOwnMod(install: string, id: ModId): Promise<void> {
  const { game } = await getInstall(install);
  await removeOwnMod(game, id);
  const isKnown = (await getCatalogue(game)).mods.some((mod) => mod.id === id);
  if (!isKnown) await updateInstall(install, (now) => ({ ...now, weights: now.weights.filter(([own]) => own !== id) }));
  broadcast({ type: 'changed' });
}

/**
 * Takes over only the mods and weights of a hold sheet.
 * @throws Failure `json/*`, or `hold-sheet/not-as-claimed` with a mod that is not known; nothing is changed then
 * @returns how many mods it wants
 */
export async function wantModsOfSheet(install: string, given: Given, file: string): Promise<number> {
  const { weights, unknown } = await query('readSheetWeights', install, given, file);
  const [first] = unknown;
  if (first) throw new Failure('hold-sheet/not-as-claimed', { file, claim: first.claim, found: first.claimed });
  const wanted = new Map(Object.entries(weights) as [ModId, Weight][]);
  await wantMods(install, wanted);
  return wanted.size;
}

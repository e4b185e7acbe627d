import { type BuildLabel, type DepotIndex, ownKind } from '#core/builds';
import { keyPieces, keyPieceSize, PIECE_SIZE, type ContentKey } from '#core/digest';
import { Failure } from '#core/failure';
import { type ManifestFile, manifestFiles, parseMetalink } from '#core/manifest';
import { topFolder } from '#core/paths';
import {
  declareBuilds,
  depotIdOf,
  leftOut,
  makeSource,
  movedBuild,
  type NewBuild,
  type NewDepot,
  placeIndex,
  WHOLE_BUILD,
  withoutBuilds,
} from '#core/sources';
import { keysByPath } from '#core/survey';
import { getIndex, getManifest, putManifest, putTold, RECORDED_SOURCE, saidIndex, updateGame } from '~/store';
import { fileAt, type InstallContext, installContext } from './install-context';
import { platformSha256 } from '~/remote';
import { wholeDigests } from './surveying';
import type { RecordedFile, RecordPlan } from './views';

/* Builds that a person records from own folders: each is a full build, known by its manifest. See stages.ts. */

/** Top folders that are recorded as one depot. */
export interface NewPart {
  readonly depot: string;
  readonly folders: readonly string[];
}

type Why = RecordPlan['left'][number]['why'];

/** Why a file of a folder is no part of the game; undefined for one that is. */
function whyNot({ index, installed, found, trees }: InstallContext): (path: string) => Why | undefined {
  const { rules } = index.game;
  const there = keysByPath(found);
  // Settings that are just as a build has them are that build's.
  const isShipped = (path: string): boolean =>
    [...trees.values()].some((tree) => fileAt(tree, path)?.key === there.get(path));
  const ofMods = new Set(installed.flatMap(({ files }) => files.map(({ path }) => path)));
  return (path) => {
    const why = leftOut(index.game, path, isShipped);
    if (why === 'own') return ownKind(rules, path);
    return why === 'mod' || ofMods.has(path) ? 'mods' : undefined;
  };
}

class Sums<Name extends string> {
  readonly #sums = new Map<Name, { name: Name; files: number; bytes: number }>();

  add(name: Name, size: number): void {
    let sum = this.#sums.get(name);
    if (!sum) this.#sums.set(name, (sum = { name, files: 0, bytes: 0 }));
    sum.files += 1;
    sum.bytes += size;
  }

  get all(): readonly { name: Name; files: number; bytes: number }[] {
    return [...this.#sums.values()];
  }
}

/** What recording a folder would take, by top folders, and what it would leave out. */
export async function recordPlan(installId: string): Promise<RecordPlan> {
  const here = await installContext(installId);
  const why = whyNot(here);
  const [folders, left] = [new Sums(), new Sums<Why>()];
  for (const { path, size } of here.found) {
    const because = why(path);
    if (because) left.add(because, size);
    else folders.add(topFolder(path), size);
  }
  return { folders: folders.all, left: left.all.map(({ name, ...sum }) => ({ why: name, ...sum })) };
}

/**
 * The files that are recorded, each with the SHA-256 of the whole where it is known; of the others it has to be read.
 * @param parts what goes into which depot; a folder that is in none is no part of the game. Undefined = all into one
 */
export async function recordFiles(installId: string, parts?: readonly NewPart[]): Promise<RecordedFile[]> {
  const here = await installContext(installId);
  const why = whyNot(here);
  const known = wholeDigests(here);
  const depots = parts && new Map(parts.flatMap(({ depot, folders }) => folders.map((name) => [name, depot] as const)));
  return here.found.flatMap(({ path, size, key }) => {
    const depot = depots ? depots.get(topFolder(path)) : WHOLE_BUILD;
    return why(path) !== undefined || depot === undefined ? [] : [{ path, size, key, depot, sha256: known(key) }];
  });
}

const manifestFile = (path: string, size: number, key: ContentKey, sha256: string): ManifestFile => {
  const pieceSize = keyPieceSize(key);
  return { path, size, sha256, pieces: keyPieces(key), ...(pieceSize !== PIECE_SIZE && { pieceSize }) };
};

/** Keeps what was recorded, and has it be a source of the game. */
async function putRecorded(game: string, index: DepotIndex): Promise<void> {
  await putTold(game, RECORDED_SOURCE.id, { index: { value: index } });
  await updateGame(game, (now) => ({
    ...now,
    sources: now.sources.some(({ kind }) => kind === 'recorded') ? now.sources : [...now.sources, RECORDED_SOURCE],
  }));
}

/** @throws Failure `source/exists` where the game has a build of this label, `json/does-not-fit` for a bad label or date */
export async function takeRecorded(
  game: string,
  build: NewBuild,
  files: readonly (RecordedFile & { readonly sha256: string })[],
): Promise<void> {
  const known = await getIndex(game);
  if (known.builds.some(({ label }) => label === build.label))
    throw new Failure('source/exists', { found: build.label });
  const before = await saidIndex(game, RECORDED_SOURCE.id);
  // A depot that was recorded before goes on; one of a source's may be cut otherwise, and is another.
  const idOf = new Map(before?.depots.map(({ id, title }) => [title, id]));
  const taken = new Set<string>(known.depots.map(({ id }) => id));
  const depots = [...new Set(files.map(({ depot }) => depot))].map((title) => {
    const id = idOf.get(title) ?? depotIdOf(title, taken);
    taken.add(id);
    return {
      ...{ id, title, kind: 'core' as const },
      files: files
        .filter(({ depot }) => depot === title)
        .map(({ path, size, key, sha256 }) => manifestFile(path, size, key, sha256)),
    };
  });
  const options = { sha256: platformSha256, has: 'manifests' } as const;
  const made = await makeSource(before, known.game, build, depots, options);
  for (const { href, sha256, build: label, depot: id } of made.index.manifests) {
    const text = made.manifests.get(href);
    if (text !== undefined) await putManifest(sha256, parseMetalink(text, label, id, href));
  }
  await putRecorded(game, placeIndex(made.index, undefined));
}

/** Adds builds of which nothing but the label is known. */
export async function declare(game: string, labels: readonly BuildLabel[]): Promise<void> {
  const known = await getIndex(game);
  const before = await saidIndex(game, RECORDED_SOURCE.id);
  const today = new Date().toISOString().slice(0, 10);
  await putRecorded(game, declareBuilds(before, known.game, known.builds, labels, today));
}

/** Forgets a build that was recorded or declared here. */
export async function forgetRecorded(game: string, label: string): Promise<void> {
  const before = await saidIndex(game, RECORDED_SOURCE.id);
  if (before) await putRecorded(game, withoutBuilds(before, new Set([label])));
}

/** Moves a build that was recorded or declared here to another date. @param date ISO */
export async function moveRecorded(game: string, label: string, date: string): Promise<void> {
  const before = await saidIndex(game, RECORDED_SOURCE.id);
  if (before) await putRecorded(game, movedBuild(before, label, date));
}

const sumOf = (counts: readonly number[]): number | undefined =>
  counts.length === 0 ? undefined : counts.reduce((sum, one) => sum + one, 0);

/** The builds that were recorded or declared here; `files` of those of which the files are known. */
export async function recorded(game: string): Promise<{ label: string; date: string; files: number | undefined }[]> {
  const index = await saidIndex(game, RECORDED_SOURCE.id);
  return (index?.builds ?? []).map(({ label, date }) => ({
    ...{ label, date },
    files: sumOf(index!.manifests.filter(({ build }) => build === label).map(({ files }) => files)),
  }));
}

/** What was recorded as a source of manifests, to be put on any web server or handed on: texts by their paths. */
export async function recordedSource(game: string): Promise<ReadonlyMap<string, string>> {
  const index = await saidIndex(game, RECORDED_SOURCE.id);
  const { game: whole } = await getIndex(game);
  const texts = new Map<string, string>();
  let made: DepotIndex | undefined;
  for (const { label, date, branch } of index?.builds ?? []) {
    const depots: NewDepot[] = [];
    for (const { id, title, kind } of index!.depots) {
      const entry = index!.manifests.find((one) => one.build === label && one.depot === id);
      const manifest = entry && (await getManifest(entry.sha256));
      if (manifest) depots.push({ id, title, kind, files: manifestFiles(manifest) });
    }
    // Of one that was only declared nobody else learns anything.
    if (depots.length === 0) continue;
    const options = { sha256: platformSha256, has: 'manifests' } as const;
    const next = await makeSource(made, whole, { label, date, branch }, depots, options);
    for (const [path, text] of next.manifests) texts.set(path, text);
    made = next.index;
  }
  if (made) texts.set('index.json', `${JSON.stringify(made, null, 2)}\n`);
  return texts;
}

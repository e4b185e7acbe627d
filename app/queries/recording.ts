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
import { getIndex, getManifest, putManifest, putTold, RECORDED_SOURCE, saidIndex, updateGame } from '~/store';
import { installContext } from './install-context';
import { platformSha256 } from '~/remote';
import { namesOf, wholeDigests } from './surveying';
import type { RecordedFile, RecordPlan } from './views';

/* Builds that a person records from own folders: each is a full build, known by its manifest. See stages.ts. */

/** Top folders that are recorded as one depot. */
export interface NewPart {
  readonly depot: string;
  readonly folders: readonly string[];
}

type Why = RecordPlan['left'][number]['why'];

/** The files of a folder, each with why it is no part of the game; undefined for one that is. */
async function sorted(installId: string) {
  const here = await installContext(installId);
  const { found, index } = here;
  const rows = found.map(({ path, size, key }) => ({ path, size, state: 'stray' as const, found: key }));
  const names = await namesOf(here, rows);
  const whyNot = (path: string): Why | undefined => {
    const own = ownKind(index.game.rules, path);
    if (own) return own;
    if (leftOut(index.game, path) === 'mod') return 'mods';
    const kind = names.get(path)?.kind;
    return kind === 'mod' || kind === 'loader' || kind === 'load-order' ? 'mods' : undefined;
  };
  return { here, files: found.map((file) => ({ ...file, why: whyNot(file.path) })) };
}

const sums = <Name>(all: readonly (readonly [Name, number])[]): Map<Name, { files: number; bytes: number }> => {
  const by = new Map<Name, { files: number; bytes: number }>();
  for (const [name, size] of all) {
    const { files, bytes } = by.get(name) ?? { files: 0, bytes: 0 };
    by.set(name, { files: files + 1, bytes: bytes + size });
  }
  return by;
};

/** What recording a folder would take, by top folders, and what it would leave out. */
export async function recordPlan(installId: string): Promise<RecordPlan> {
  const { files } = await sorted(installId);
  const game = files.filter(({ why }) => why === undefined);
  return {
    folders: [...sums(game.map(({ path, size }) => [topFolder(path), size]))].map(([name, sum]) => ({ name, ...sum })),
    left: [...sums(files.flatMap(({ why, size }) => (why ? [[why, size] as const] : [])))].map(([why, sum]) => ({
      why,
      ...sum,
    })),
  };
}

/**
 * The files that are recorded, each with the SHA-256 of the whole where it is known; of the others it has to be read.
 * @param parts what goes into which depot; a folder that is in none is no part of the game. Undefined = all into one
 */
export async function recordFiles(installId: string, parts?: readonly NewPart[]): Promise<RecordedFile[]> {
  const { here, files } = await sorted(installId);
  const known = wholeDigests(here);
  const depots = parts && new Map(parts.flatMap(({ depot, folders }) => folders.map((name) => [name, depot] as const)));
  return files.flatMap(({ path, size, key, why }) => {
    const depot = depots ? depots.get(topFolder(path)) : WHOLE_BUILD;
    return why !== undefined || depot === undefined ? [] : [{ path, size, key, depot, sha256: known(key) }];
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

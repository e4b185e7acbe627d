import { contentKey, type ContentKey, keyPieceSize, keySize, PIECE_SIZE } from '#core/digest';
import { type Keepsake, type OwnFile, ownName, putBackOf, type SavedWith, savedWith } from '#core/keepsakes';
import { presetOwners } from '#core/mods';
import { likeliestBuild, readBefore, type Reading } from '#core/survey';
import {
  contentsBeside,
  isKeptInFolder,
  keepsakeAt,
  keepsakesBy,
  keepsakesOf,
  listOwn,
  type OwnPlace,
  ownPlaces,
  ownReadBefore,
} from '~/places';
import { platformSha256 } from '~/remote';
import { getCatalogue, getGame, getInstall, getProfile, type Install, listProfiles } from '~/store';
import { hashFiles } from '~/workers';
import { identities, installContext, installedReleases } from './install-context';
import type { CopyView, KeepsakesView, KeepsakeView, OwnPlaceView } from './views';

/* The player's own files, and what was kept of them. */

/** What a keepsake says of the folder that it is made in. */
export async function standing(installId: string): Promise<Pick<Keepsake, 'build' | 'profile' | 'mods'>> {
  const here = await installContext(installId);
  const { install, survey, trees } = here;
  const build = likeliestBuild(identities(here), trees.keys());
  const { title } = await getProfile(install);
  return { ...(build && { build }), profile: title, ...(survey && { mods: [...installedReleases(here)] }) };
}

interface ReadPlace {
  readonly view: OwnPlaceView;
  readonly files: readonly OwnFile[];
}

/** Reads the files of a place: those alone whose digests are not known from before. */
async function readPlace(
  place: OwnPlace,
  earlier: readonly Reading[],
  install: Install,
  also: readonly OwnFile[],
): Promise<ReadPlace> {
  const { name, title, synced } = place;
  const kind = install.elsewhere?.find((one) => one.name === name)?.kind;
  const about = { name, title, synced, kind };
  const listed = await listOwn(place, also);
  if ('failure' in listed) return { view: { ...about, files: 0, bytes: 0, failure: listed.failure }, files: [] };
  const { source, files } = listed;
  const known = readBefore(earlier);
  const keys = new Map<string, ContentKey>();
  for (const { path, size, modified } of files) {
    const key = known(path, size, modified);
    if (key && keyPieceSize(key) === PIECE_SIZE) keys.set(path, key);
  }
  const wanted = files.filter(({ path }) => !keys.has(path));
  const prefix = source.root === '' ? '' : `${source.root}/`;
  const wishes = wanted.map(({ path, size }) => ({ path: prefix + path, size }));
  const { signal } = new AbortController();
  const looking = { reader: source.reader, sha256: platformSha256, signal, progress: () => undefined };
  const { contents } = await hashFiles(wishes, looking);
  for (const [i, { path }] of wanted.entries()) {
    const content = contents[i];
    if (content) keys.set(path, contentKey(content.size, content.pieces));
  }
  const own = files.flatMap(({ path, kind: of, modified }): OwnFile[] => {
    const key = keys.get(path);
    return key ? [{ place: name, path, kind: of, key, modified: Number.isNaN(modified) ? null : modified }] : [];
  });
  const bytes = files.reduce((sum, { size }) => sum + size, 0);
  return { view: { ...about, files: files.length, bytes }, files: own };
}

/** @param also files that are looked for besides, though no rule says that they are the player's */
export async function readOwnNow(install: Install, also: readonly OwnFile[] = []): Promise<ReadPlace[]> {
  const { rules } = await getGame(install.game);
  const earlier = await ownReadBefore(install);
  const places = await ownPlaces(install, rules);
  return Promise.all(places.map((place) => readPlace(place, earlier(place.name), install, also)));
}

/** All keepsakes of an install, and the places that they are made of. */
export async function keepsakes(installId: string): Promise<KeepsakesView> {
  const install = await getInstall(installId);
  const [list, read, inFolder] = await Promise.all([
    keepsakesOf(install),
    readOwnNow(install),
    isKeptInFolder(install),
  ]);
  const { lies, ...rest } = list;
  return {
    ...rest,
    ...{ places: read.map(({ view }) => view), needed: await neededBy(install) },
    ...{ lies, inFolder: inFolder && (lies !== 'browser' || install.place.kind === 'browser-disk') },
  };
}

/** What copying keepsakes to this browser comes to: those that have no copy there, and their contents, each once. */
export async function keepsakesToCopy(installId: string): Promise<CopyView> {
  const install = await getInstall(installId);
  const { uncopied } = await keepsakesOf(install);
  const all = await keepsakesBy(
    install,
    uncopied.map(({ id }) => id),
  );
  // Contents of a picked folder's keepsakes lie on this browser's disk already.
  const comes = (await contentsBeside(install)) !== undefined;
  const keys = new Set(comes ? [...all.values()].flatMap(({ files }) => files.map(({ key }) => key)) : []);
  return { keepsakes: uncopied.length, bytes: [...keys].reduce((sum, key) => sum + keySize(key), 0) };
}

/** A keepsake beside what lies there now. @throws Failure `keepsake/gone`, `folder/*` */
export async function keepsakeView(installId: string, id: string): Promise<KeepsakeView> {
  const install = await getInstall(installId);
  const keepsake = await keepsakeAt(install, id);
  const read = await readOwnNow(install, keepsake.files);
  const now = read.flatMap(({ files }) => files);
  const ownerOf = presetOwners(await getCatalogue(install.game));
  const modOf = new Map(
    [...keepsake.files, ...now].flatMap((file) => {
      const mod = file.kind === 'presets' ? ownerOf(file.path) : undefined;
      return mod ? [[ownName(file), mod.name] as const] : [];
    }),
  );
  const readNow = new Set(read.flatMap(({ view }) => (view.failure ? [] : [view.name])));
  const rows = putBackOf(keepsake, now, (place) => readNow.has(place));
  return { keepsake, ...rows, places: read.map(({ view }) => view), modOf };
}

/** The saves of an install, wherever they lie, with the mods that each was written with. */
export async function savesWith(installId: string): Promise<SavedWith[]> {
  const here = await installContext(installId);
  const { keepsakes: heads } = await keepsakesOf(here.install);
  const kept = await keepsakesBy(
    here.install,
    heads.map(({ id }) => id),
  );
  const now = (await readOwnNow(here.install)).flatMap(({ files }) => files);
  const mods = here.survey && [...installedReleases(here).keys()];
  return savedWith(
    now.filter(({ kind }) => kind === 'saves'),
    [...kept.values()],
    mods,
  );
}

/** Keepsakes that profiles were left in, with the titles of those that need them. */
async function neededBy({ id, profile, pools = [] }: Install): Promise<Map<string, string>> {
  const profiles = await listProfiles(id);
  const needed = new Map<string, string>();
  for (const [pool, keepsake] of pools) {
    const owner = profiles.find((one) => pool.startsWith(`${one.id}/`));
    // What the profile that counts has lies in the folder.
    if (owner?.id !== profile) needed.set(keepsake, owner?.title ?? 'profiles that share');
  }
  return needed;
}

import {
  type ArchivePart,
  type ArchivesRead,
  type Ground,
  placeOf,
  readArchives,
  type ReadArchive,
  spellingOf,
} from '#core/archives';
import { asMod, type GameRules } from '#core/builds';
import { type Catalogue, modById, releaseAt } from '#core/mods';
import type { FoundFile } from '#core/survey';
import { getOffered, listInstalls, listProfiles, listShelved } from '~/store';
import { unknownModFiles } from './along';
import { trialsOf } from './evidence';
import { keptContents } from './history';
import { keepLast } from './keep-last';
import { type InstallContext, installContext, installedReleases } from './install-context';
import type { DraftPlaces, ShelfView } from './views';

/* Releases that are kept as copies of one's own, and what archives bring. */

const keptGround = keepLast(
  (trees: InstallContext['trees'], catalogue: Catalogue, unknown: readonly FoundFile[], rules: GameRules): Ground => {
    const vanilla = new Set([...trees.values()].flatMap((tree) => tree.map(({ path }) => path)));
    // How a mod lies is told by its newest release: several together have files of each other's names.
    const known = catalogue.mods.flatMap(({ id, releases }) =>
      (releases.at(-1)?.files ?? []).map(({ path }) => ({ path, mod: id })),
    );
    return { rules, vanilla, mods: [...known, ...unknown.map(({ path }) => ({ path }))] };
  },
);
const keptSpelling = keepLast(spellingOf);

export const groundOf = (here: InstallContext): Ground =>
  keptGround(here.trees, here.catalogue, unknownModFiles(here), here.index.game.rules);

/** Tells what archives have for a folder. Nothing is taken from them. */
export async function archives(installId: string, read: readonly ReadArchive[]): Promise<ArchivesRead> {
  const here = await installContext(installId);
  return readArchives(read, here.catalogue, groundOf(here));
}

/** Where the files of drafts come to lie, and whose they lie over there, draft by draft. */
export async function placesOfDrafts(
  installId: string,
  drafts: readonly (readonly Pick<ArchivePart, 'from' | 'to' | 'paths'>[])[],
): Promise<DraftPlaces[]> {
  const here = await installContext(installId);
  const ground = groundOf(here);
  const spelled = keptSpelling(ground);
  const vanilla = new Set(ground.vanilla);
  const owners = new Map<string, string>();
  const installed = installedReleases(here);
  for (const { id, name, releases } of here.catalogue.mods) {
    const release = releases.find(({ version }) => version === installed.get(id));
    for (const { path } of release?.files ?? []) owners.set(path.toLowerCase(), name);
  }
  return drafts.map((parts) => {
    const places = parts.flatMap((part) =>
      part.paths.flatMap((path): [path: string, place: string][] => {
        const place = placeOf(part, path);
        return place === undefined ? [] : [[path, spelled(place)]];
      }),
    );
    const seen = new Set<string>();
    const clashes = places.flatMap(([, place]) => {
      const key = place.toLowerCase();
      return seen.has(key) ? [place] : (seen.add(key), []);
    });
    const all = places.map(([, place]) => place);
    const mods = new Set(all.flatMap((place) => owners.get(place.toLowerCase()) ?? []));
    return { places, clashes, game: all.filter((place) => vanilla.has(place)), mods: [...mods] };
  });
}

/** The releases of a game that lie on the shelf, with what is known of each. */
export async function shelf(installId: string): Promise<ShelfView> {
  const [here, kept] = await Promise.all([installContext(installId), keptContents(installId)]);
  const { catalogue, install } = here;
  const trials = await trialsOf(installId, catalogue);
  const onDisk = installedReleases(here);
  const [shelved, offered, folders, profiles] = await Promise.all([
    listShelved(install.game),
    getOffered(install.game),
    listInstalls(),
    listProfiles(installId),
  ]);
  const known = new Map(shelved.map((one) => [JSON.stringify([one.mod, one.version]), one]));
  const targets = [...folders.filter(({ game }) => game === install.game), ...profiles].map(({ target }) => target);
  const wanted = new Set(targets.flatMap((target) => target?.releases ?? []).map((one) => JSON.stringify(one)));
  const pins = new Map(install.pins);
  const isOffered = (id: string, version: string): boolean => {
    const mod = modById(offered, id);
    const release = mod && releaseAt(mod, version);
    return release?.unofficial === undefined && release?.files.every(({ href }) => href !== '') === true;
  };
  const releases = (kept ?? []).flatMap(
    ({ id: reference, reason, at, files, bytes, missing }): ShelfView['releases'][number][] => {
      if (reason.kind !== 'release' || reason.game !== install.game) return [];
      const mod = modById(catalogue, reason.mod);
      const release = mod && releaseAt(mod, reason.release);
      const id = asMod(reason.mod);
      const note = known.get(JSON.stringify([id, reason.release]));
      const own = trials.filter((trial) => trial.mod === reason.mod && trial.release === reason.release);
      return [
        {
          ...{ reference, mod: id, name: mod?.name ?? reason.mod, version: reason.release, at, files, bytes, missing },
          ...{ from: note?.from, unofficial: release?.unofficial, note: release?.note, words: note?.words ?? '' },
          isOffered: isOffered(id, reason.release),
          isFrozen: pins.get(id) === reason.release,
          isBenched: (install.bench ?? []).some(({ mod: benched }) => benched === id),
          ran: [...new Set(own.flatMap(({ build, ran }) => (ran ? [build] : [])))],
          failed: [...new Set(own.flatMap(({ build, ran }) => (ran ? [] : [build])))],
          inFolder: onDisk.get(id) === reason.release,
          isWanted: wanted.has(JSON.stringify([id, reason.release])),
          paths: release?.files.map(({ path }) => path) ?? [],
        },
      ];
    },
  );
  releases.sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }) || b.at - a.at);
  const mods = [...new Set(catalogue.mods.map(({ name }) => name))];
  return { releases, mods, canKeep: kept !== undefined };
}

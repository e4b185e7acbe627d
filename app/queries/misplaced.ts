import { placeFiles, placeOf } from '#core/archives';
import { ownKind } from '#core/builds';
import { modById, releaseFileKey } from '#core/mods';
import { fileName, folderOf, isBelow, topFolder } from '#core/paths';
import { unknownModFiles } from './along';
import { type InstallContext, installContext } from './install-context';
import { groundOf } from './shelf';
import type { MisplacedView } from './views';

/* Files of mods that lie where they are not looked for: unpacked one folder too deep, or beside the folder of mods. */

type Move = readonly [from: string, to: string];

/** The moves of which the place is free, each place once: nothing is put over another file. */
function freeMoves(moves: readonly Move[], taken: ReadonlySet<string>): Move[] {
  const places = new Set(taken);
  return moves.filter(([from, to]) => {
    const isFree = from !== to && !places.has(to.toLowerCase());
    places.add(to.toLowerCase());
    return isFree;
  });
}

/** A known mod is told by its bytes, and where they belong by its release. */
const known = ({ installed, catalogue }: InstallContext, taken: ReadonlySet<string>): MisplacedView[] =>
  installed.flatMap(({ mod, files }): MisplacedView[] => {
    const moves = freeMoves(
      files.map(({ path, place }): Move => [path, place]),
      taken,
    );
    return moves.length > 0 ? [{ mod, name: modById(catalogue, mod)?.name ?? mod, moves }] : [];
  });

/** Files of nobody: of no build, of no known mod, and not the player's. */
function nobodys(here: InstallContext): string[] {
  const { rules } = here.index.game;
  const ours = new Set<string>(here.installed.flatMap(({ files }) => files.map(({ path }) => path)));
  for (const tree of here.trees.values()) for (const { path } of tree) ours.add(path);
  const releases = here.catalogue.mods.flatMap((mod) => mod.releases);
  const bytes = new Set(releases.flatMap(({ files }) => files.map(releaseFileKey)));
  return here.found.flatMap(({ path, key }) =>
    ours.has(path) || bytes.has(key) || path === rules.loadOrder || ownKind(rules, path) !== undefined ? [] : [path],
  );
}

/** A folder that lies too deep is called as the mod's own is; nothing else tells its id. */
const nameOfFolder = (folder: string): string | undefined => fileName(folder) || undefined;

/** Files of unknown mods, of which the rules and the folders tell surely that they belong elsewhere. */
function unknown(here: InstallContext, taken: ReadonlySet<string>): MisplacedView[] {
  const { modsFolder } = here.index.game.rules;
  const inMods = new Set(unknownModFiles(here).map(({ path }) => path));
  const groups = new Map<string, { base: string; paths: string[] }>();
  for (const path of nobodys(here)) {
    const base = modsFolder !== undefined && inMods.has(path) ? modsFolder : '';
    // Where no build is known, all that lies outside the folder of mods may be the game's.
    if (base === '' && here.trees.size === 0) continue;
    const rest = base === '' ? path : path.slice(base.length + 1);
    const top = `${base}\u0000${folderOf(rest) === '' ? '' : topFolder(rest)}`;
    const group = groups.get(top) ?? { base, paths: [] };
    groups.set(top, group);
    group.paths.push(rest);
  }
  const ground = groundOf(here);
  return [...groups.values()].flatMap(({ base, paths }) => {
    const { parts, aside } = placeFiles(paths, ground, nameOfFolder);
    return parts.flatMap((part): MisplacedView[] => {
      // What is said of the game's own files, or by a folder's name alone, is no word on a mod.
      if (!part.isSure || part.to === undefined || part.why === 'same-folder') return [];
      const own = [...part.paths, ...aside.filter((path) => part.from !== '' && isBelow(path, part.from))];
      const all = own.map((path): Move => [base === '' ? path : `${base}/${path}`, placeOf(part, path)!]);
      const moves = freeMoves(all, taken);
      // Of a folder that goes elsewhere all goes, or nothing.
      return moves.length > 0 && moves.length === own.length
        ? [{ mod: undefined, name: fileName(part.to) || fileName(own[0]!), moves }]
        : [];
    });
  });
}

/** Mods of which files lie in the wrong place in the folder, and where they belong. */
export async function misplaced(installId: string): Promise<MisplacedView[]> {
  const here = await installContext(installId);
  const taken = new Set(here.found.map(({ path }) => path.toLowerCase()));
  return taken.size === 0 ? [] : [...known(here, taken), ...unknown(here, taken)];
}

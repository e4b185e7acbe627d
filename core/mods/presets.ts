import { folderOf } from '#core/paths';
import type { Catalogue, Mod } from './schema';

/** Letters and digits alone, in small letters: names of folders and files are written in many ways. */
const plain = (text: string): string => text.toLowerCase().replaceAll(/[^\p{L}\p{N}]/gu, '');

/**
 * Says of settings of mods which mod each is of: one of whose releases has a file at the path, or in its folder or one above it
 * that no other mod is in; else the one whose id or name a folder or the file has.
 * @returns undefined for what nothing tells
 */
export function presetOwners({ mods }: Catalogue): (path: string) => Mod | undefined {
  const atPath = new Map<string, Mod>();
  /** Null: several mods are in it. */
  const inFolder = new Map<string, Mod | null>();
  const byName = new Map<string, Mod | null>();
  const note = (map: Map<string, Mod | null>, name: string, mod: Mod): void => {
    const other = map.get(name);
    map.set(name, other === undefined || other === mod ? mod : null);
  };
  for (const mod of mods) {
    note(byName, plain(mod.id), mod);
    note(byName, plain(mod.name), mod);
    for (const { path } of mod.releases.flatMap(({ files }) => files)) {
      atPath.set(path, mod);
      for (let folder = folderOf(path); folder !== ''; folder = folderOf(folder)) note(inFolder, folder, mod);
    }
  }
  return (path) => {
    const exact = atPath.get(path);
    if (exact) return exact;
    for (let folder = folderOf(path); folder !== ''; folder = folderOf(folder)) {
      const owner = inFolder.get(folder);
      if (owner) return owner;
    }
    const parts = path.split('/').toReversed();
    const names = [parts[0]!.replace(/\.[^.]+$/, ''), ...parts.slice(1)];
    for (const name of names) {
      const owner = byName.get(plain(name));
      if (owner) return owner;
    }
    return undefined;
  };
}

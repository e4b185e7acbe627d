import type { ModId } from '#core/builds';
import type { Keepsake, OwnFile } from './keepsake';
import { ownName } from './put-back';

/** A save, with the mods that lay in the folder when it was first seen; undefined where nobody knows. */
export interface SavedWith {
  readonly save: OwnFile;
  readonly mods: readonly ModId[] | undefined;
}

/**
 * Says with which mods each save was written. A keepsake is made before every change, so the oldest one that has a save with
 * just these bytes says what lay there then; one that none has was written since, with what lies there now.
 * @param keepsakes of the folder, in any order; those that came out of archives or other folders tell nothing
 * @param now mods that lie in the folder; undefined where nobody knows
 */
export function savedWith(
  saves: readonly OwnFile[],
  keepsakes: readonly Keepsake[],
  now: readonly ModId[] | undefined,
): SavedWith[] {
  const first = new Map<string, Keepsake>();
  const own = keepsakes.filter(({ why }) => why === 'asked' || why === 'change');
  for (const keepsake of own.toSorted((a, b) => a.at - b.at)) {
    for (const file of keepsake.files) {
      const name = `${file.key} ${ownName(file)}`;
      if (!first.has(name)) first.set(name, keepsake);
    }
  }
  return saves.map((save) => {
    const seen = first.get(`${save.key} ${ownName(save)}`);
    return { save, mods: seen ? seen.mods?.map(([mod]) => mod) : now };
  });
}

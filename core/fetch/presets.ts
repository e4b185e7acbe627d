import { type GameRules, isPreset } from '#core/builds';
import { type ContentKey, keyPieces, keySize } from '#core/digest';
import type { TargetFile } from './target';

/**
 * A target as it is to lie in a folder where a person has set something of their mods: what a release brings at such a place is
 * only a start, so what lies there already is what is wanted.
 * @param found contents of the folder, by path
 * @returns the same list where there is nothing of the kind
 */
export function withPresets(
  target: readonly TargetFile[],
  found: ReadonlyMap<string, ContentKey>,
  rules: Pick<GameRules, 'own'>,
): readonly TargetFile[] {
  if (!rules.own.some(({ kind }) => kind === 'presets')) return target;
  let isOther = false;
  const settled = target.map((file): TargetFile => {
    const key = found.get(file.path);
    if (key === undefined || key === file.key || !isPreset(rules, file.path)) return file;
    isOther = true;
    // Nobody fetches what lies there, so only its key counts: the digest of a whole file of several pieces is not in it.
    return { ...file, size: keySize(key), key, sha256: keyPieces(key)[0]!, asFound: true };
  });
  return isOther ? settled : target;
}

import { type GameRules, isPreset, ownKind } from '#core/builds';
import { type ContentKey, keyPieces, keySize } from '#core/digest';
import type { TargetFile } from './target';

/** What is known of files that a rule of the game names as the player's, and a depot or a mod brings. */
export interface SetByHand {
  /** Whether a build brings such a file with these contents: then nobody has set anything in it. */
  readonly isOfBuild: (path: string, key: ContentKey) => boolean;
  /** What the file with the loader's switch would be with the switch otherwise: those are the same but for it. */
  readonly switched: ReadonlySet<ContentKey>;
}

/** Whether what lies at a file's place is that file with what a person has set in it. */
function isSetByHand(
  { path, key: wanted, owner }: TargetFile,
  found: ContentKey,
  rules: GameRules,
  { isOfBuild, switched }: SetByHand,
): boolean {
  // Of a mod's file nobody tells its other versions apart from what a person has set.
  if (isPreset(rules, path)) return true;
  if (owner.kind !== 'depot') return false;
  // One value of it is the player's, and everything else the game's.
  if (path === rules.loaderSwitch?.file) return switched.has(wanted);
  return ownKind(rules, path) !== undefined && !isOfBuild(path, found);
}

/**
 * A target as it is to lie in a folder where a person has set something: what a depot or a mod brings at such a place is theirs until
 * somebody changed it, and then what lies there is what is wanted, as far as the rules say so.
 * @param found contents of the folder, by path
 * @returns the same list where there is nothing of the kind
 */
export function withOwnSettings(
  target: readonly TargetFile[],
  found: ReadonlyMap<string, ContentKey>,
  rules: GameRules,
  known: SetByHand,
): readonly TargetFile[] {
  let isOther = false;
  const settled = target.map((file): TargetFile => {
    const key = found.get(file.path);
    if (key === undefined || key === file.key || !isSetByHand(file, key, rules, known)) return file;
    isOther = true;
    // Nobody fetches what lies there, so only its key counts: the digest of a whole file of several pieces is not in it.
    return { ...file, size: keySize(key), key, sha256: keyPieces(key)[0]!, asFound: true };
  });
  return isOther ? settled : target;
}

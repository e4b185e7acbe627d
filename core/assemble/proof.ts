import type { DepotId } from '#core/builds';
import { type ContentKey, type Sha256, treeDigest } from '#core/digest';
import type { Owner, TargetFile } from '#core/fetch';

/** Files and bytes. */
interface Sum {
  readonly files: number;
  readonly bytes: number;
}

/** Whose files were expected, and how many of them lie there byte for byte. */
export interface ProvenPart {
  readonly owner: Exclude<Owner, { kind: 'written' }> | { readonly kind: 'written' };
  readonly expected: Sum;
  readonly right: Sum;
  /** Copies of the same owner that others cover, so that they lie nowhere. */
  readonly covered: number;
}

/** What a folder has of what it should have, so that anybody can work it out again. */
export interface Proof {
  readonly parts: readonly ProvenPart[];
  readonly expected: Sum;
  readonly right: Sum;
  /** Tree digest of what should lie there. */
  readonly expectedDigest: string;
  /** Tree digest of what lies at the same paths; the same one only where every byte is right. */
  readonly foundDigest: string;
  /** Files that count as they lie there, since a person has set something of a mod in them. */
  readonly asFound: number;
  /** Paths that are not right, sorted; at most {@link MOST_WRONG}. */
  readonly wrong: readonly string[];
}

export const MOST_WRONG = 200;

const nameOf = (owner: Owner): string =>
  owner.kind === 'depot' ? `depot ${owner.depot}` : owner.kind === 'mod' ? `mod ${owner.mod}` : 'written';

/**
 * Holds what lies in a folder against a target, owner by owner. The sums of the parts are those of the whole.
 * @param target in any order
 * @param found contents by path; what is not in the target does not count
 * @param under depots whose copies lie below that of another depot, by path
 */
export async function proofOf(
  target: readonly TargetFile[],
  found: ReadonlyMap<string, ContentKey>,
  sha256: Sha256,
  under: ReadonlyMap<string, readonly DepotId[]> = new Map(),
): Promise<Proof> {
  const parts = new Map<string, { owner: ProvenPart['owner']; expected: Sum; right: Sum; covered: number }>();
  const partOf = (owner: Owner) => {
    const name = nameOf(owner);
    let part = parts.get(name);
    if (!part) {
      const none = { files: 0, bytes: 0 };
      const told = owner.kind === 'written' ? { kind: 'written' as const } : owner;
      parts.set(name, (part = { owner: told, expected: none, right: none, covered: 0 }));
    }
    return part;
  };
  const plus = ({ files, bytes }: Sum, size: number): Sum => ({ files: files + 1, bytes: bytes + size });
  const wrong: string[] = [];
  for (const { path, size, key, owner, covers = [] } of target) {
    const part = partOf(owner);
    part.expected = plus(part.expected, size);
    if (found.get(path) === key) part.right = plus(part.right, size);
    else wrong.push(path);
    for (const copy of covers) partOf(copy.owner).covered += 1;
    for (const depot of under.get(path) ?? []) partOf({ kind: 'depot', depot }).covered += 1;
  }
  const sum = (of: 'expected' | 'right'): Sum =>
    [...parts.values()].reduce(
      (all, part) => ({ files: all.files + part[of].files, bytes: all.bytes + part[of].bytes }),
      { files: 0, bytes: 0 },
    );
  const there = target.flatMap(({ path }) => {
    const key = found.get(path);
    return key === undefined ? [] : [{ path, key }];
  });
  return {
    parts: [...parts.values()],
    ...{ expected: sum('expected'), right: sum('right') },
    expectedDigest: await treeDigest(target, sha256),
    foundDigest: await treeDigest(there, sha256),
    asFound: target.reduce((files, file) => files + (file.asFound ? 1 : 0), 0),
    wrong: wrong.toSorted().slice(0, MOST_WRONG),
  };
}

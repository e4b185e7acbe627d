import type { BuildLabel, ModId } from '#core/builds';
import { type Catalogue, releaseFileKey } from '#core/mods';
import type { ContentKey } from '#core/digest';
import type { ExpectedFile, SurveyRow, Trees } from '#core/survey';

/** Who is likely to have changed files: told by whose bytes lie there now. */
export type DriftCause =
  /** They are as another build has them: an update of the storefront. */
  | { readonly kind: 'update'; readonly build: BuildLabel }
  /** They are files of a release. */
  | { readonly kind: 'mod'; readonly mod: ModId; readonly name: string; readonly release: string }
  /** Nothing that is known has them. */
  | { readonly kind: 'hand' };

export interface CausedDrift {
  readonly cause: DriftCause;
  readonly rows: readonly SurveyRow[];
}

/** The contents that a tree has at some paths: made for these alone, since there may be dozens of large trees. */
function keysAt(tree: readonly ExpectedFile[], paths: ReadonlySet<string>): ReadonlyMap<string, ContentKey> {
  const keys = new Map<string, ContentKey>();
  for (const { path, key } of tree) if (paths.has(path)) keys.set(path, key);
  return keys;
}

/** Whether a row is as a tree has it: the same bytes there, or nothing where it has nothing. */
const isAs = ({ path, found }: SurveyRow, tree: ReadonlyMap<string, unknown>): boolean => tree.get(path) === found;

/**
 * Says of drifted files who is likely to have changed them. Of several builds that explain some, the one that explains most
 * counts, the newer of two that explain as many; the others' files are no update's.
 * @param rows departures from what is held
 * @param held the build that is held: its own files are nobody's update
 * @param trees of all builds, old to new
 */
export function driftCauses(
  rows: readonly SurveyRow[],
  held: BuildLabel,
  { trees, catalogue }: { readonly trees: Trees; readonly catalogue: Catalogue },
): CausedDrift[] {
  const caused: CausedDrift[] = [];
  let left = rows.filter(({ state }) => state !== 'unreadable');
  const paths = new Set(left.map(({ path }) => path));
  let best: { build: BuildLabel; rows: SurveyRow[] } | undefined;
  for (const [build, tree] of trees) {
    if (build === held) continue;
    const keys = keysAt(tree, paths);
    const explained = left.filter((row) => isAs(row, keys));
    // A file that is gone alone says nothing: every build that never had it would do.
    const speaks = explained.some(({ found }) => found !== undefined);
    if (speaks && explained.length >= (best?.rows.length ?? 1)) best = { build, rows: explained };
  }
  if (best) {
    caused.push({ cause: { kind: 'update', build: best.build }, rows: best.rows });
    const explained = new Set(best.rows);
    left = left.filter((row) => !explained.has(row));
  }
  const owners = new Map(
    catalogue.mods.flatMap(({ id, name, releases }) =>
      releases.flatMap(({ version, files }) =>
        files.map((file) => [`${releaseFileKey(file)} ${file.path}`, { mod: id, name, release: version }] as const),
      ),
    ),
  );
  const byRelease = new Map<string, { cause: DriftCause; rows: SurveyRow[] }>();
  const hand: SurveyRow[] = [];
  for (const row of left) {
    const owner = row.found === undefined ? undefined : owners.get(`${row.found} ${row.path}`);
    if (!owner) {
      hand.push(row);
      continue;
    }
    const name = `${owner.mod} ${owner.release}`;
    const group = byRelease.get(name) ?? { cause: { kind: 'mod', ...owner }, rows: [] };
    group.rows.push(row);
    byRelease.set(name, group);
  }
  caused.push(...byRelease.values());
  if (hand.length > 0) caused.push({ cause: { kind: 'hand' }, rows: hand });
  return caused;
}

/** A departure that a person has taken over: at this path these bytes, or nothing, are right from now on. */
export type Accepted = readonly (readonly [path: string, found: string | null])[];

/** Departures without those that were taken over and are still as they were then. */
export function unaccepted(rows: readonly SurveyRow[], accepted: Accepted): readonly SurveyRow[] {
  if (accepted.length === 0) return rows;
  const taken = new Map(accepted);
  return rows.filter(({ path, found, state }) => state === 'unreadable' || taken.get(path) !== (found ?? null));
}

import type { BuildLabel, Depot, DepotId } from '#core/builds';
import type { ContentKey } from '#core/digest';
import { hasKeyAt, type Manifest } from '#core/manifest';
import { type FoundFile, keysByPath } from './compare';
import { type DepotIdentity, likeliestBuild } from './identify';

/** What people do to a folder by hand, as its files show it. */
export type MixedCase =
  /** The program is of another build than the data. */
  | { readonly kind: 'program-apart'; readonly program: BuildLabel; readonly data: BuildLabel }
  /** Some files of a depot are right, the others are not there. */
  | { readonly kind: 'half-copied'; readonly depot: DepotId; readonly absent: number; readonly total: number }
  /** Nothing of a depot that counts is there: an add-on that is owned, a pack that is wanted, a forgotten one. */
  | { readonly kind: 'not-there'; readonly depot: DepotId }
  /** Another language lies where this one is wanted; `wanted` files of the wanted one are right. */
  | { readonly kind: 'other-language'; readonly wanted: DepotId; readonly instead: DepotId; readonly files: number }
  /** Files of the lower of two depots lie over those of the upper one. */
  | { readonly kind: 'wrong-way-round'; readonly lower: DepotId; readonly upper: DepotId; readonly files: number };

export interface MixedInput {
  /** The depots that count, in laying order, and what was found of each. */
  readonly depots: readonly Depot[];
  readonly identities: readonly DepotIdentity[];
  /** Known builds, old to new. */
  readonly builds: readonly BuildLabel[];
  readonly found: readonly FoundFile[];
  /** The manifests of the depots at the likeliest build, in laying order. */
  readonly manifests: readonly Manifest[];
  /** Those of the languages that do not count. */
  readonly otherLanguages: readonly Manifest[];
}

/** Files of a depot by what lies at their paths. Those that a later depot covers are not asked for. */
interface Counts {
  readonly depot: DepotId;
  /** Its own copy. */
  right: number;
  /** Nothing. */
  absent: number;
  /** The copy of a depot below, which its own should cover. */
  under: number;
  total: number;
}

/** Counts for each manifest, in laying order. */
function countFiles(manifests: readonly Manifest[], onDisk: ReadonlyMap<string, ContentKey>): Counts[] {
  const covered = new Set<string>();
  // From the top of the pile down, so that what covers a file is known when its depot is looked at.
  const counts = manifests.toReversed().map((manifest) => {
    const count: Counts = { depot: manifest.depot, right: 0, absent: 0, under: 0, total: 0 };
    const below = manifests.slice(0, manifests.indexOf(manifest)).map(contentsByPath);
    manifest.paths.forEach((path, i) => {
      if (covered.has(path)) return;
      covered.add(path);
      const key = onDisk.get(path);
      count.total += 1;
      if (key === undefined) count.absent += 1;
      else if (hasKeyAt(manifest, i, key)) count.right += 1;
      else if (below.some((has) => has(path, key))) count.under += 1;
    });
    return count;
  });
  return counts.toReversed();
}

/** Whether a manifest has a content at a path. */
function contentsByPath(manifest: Manifest): (path: string, key: ContentKey) => boolean {
  // Made when it is asked first: of a folder that is as it should be nothing is.
  let places: Map<string, number> | undefined;
  return (path, key) => {
    places ??= new Map(manifest.paths.map((one, i) => [one, i]));
    const place = places.get(path);
    return place !== undefined && hasKeyAt(manifest, place, key);
  };
}

function programApart({ depots, identities, builds }: MixedInput): MixedCase[] {
  const programs = new Set(depots.filter(({ kind }) => kind === 'program').map(({ id }) => id));
  const program = identities.find(({ depot, builds: told }) => programs.has(depot) && told.length > 0);
  const data = likeliestBuild(
    identities.filter(({ depot }) => !programs.has(depot)),
    builds,
  );
  if (!program || data === undefined || program.builds.includes(data)) return [];
  return [{ kind: 'program-apart', program: program.builds.at(-1)!, data }];
}

/** Whether nothing of a depot was put in: what lies at its paths is nothing, or what it should cover. */
const isNotThere = ({ right, absent, under, total }: Counts): boolean =>
  right === 0 && absent > 0 && absent + under === total;

function partlyThere({ depots }: MixedInput, counts: readonly Counts[]): MixedCase[] {
  // A folder with nothing of the game in it is no mixture.
  if (counts.every(({ right }) => right === 0)) return [];
  return counts.flatMap((count): MixedCase[] => {
    const { depot, right, absent, under, total } = count;
    const kind = depots.find(({ id }) => id === depot)?.kind;
    if (kind === undefined || absent === 0) return [];
    // Of languages another one may be there instead, which is said elsewhere.
    if (isNotThere(count)) return kind === 'language' ? [] : [{ kind: 'not-there', depot }];
    return right > 0 && right + absent + under === total ? [{ kind: 'half-copied', depot, absent, total }] : [];
  });
}

function otherLanguage(
  { depots, manifests, otherLanguages }: MixedInput,
  onDisk: ReadonlyMap<string, ContentKey>,
): MixedCase[] {
  const wanted = depots.find(({ kind }) => kind === 'language');
  const own = manifests.find(({ depot }) => depot === wanted?.id);
  if (!wanted || !own) return [];
  const rightOf = (manifest: Manifest): number => countFiles([manifest], onDisk)[0]!.right;
  const mine = rightOf(own);
  return otherLanguages.flatMap((manifest): MixedCase[] => {
    const right = rightOf(manifest);
    return right > mine ? [{ kind: 'other-language', wanted: wanted.id, instead: manifest.depot, files: right }] : [];
  });
}

function wrongWayRound(
  { manifests }: MixedInput,
  onDisk: ReadonlyMap<string, ContentKey>,
  counts: readonly Counts[],
): MixedCase[] {
  // Where nothing of the upper depot is there, nobody laid it below the lower one.
  const notThere = new Set(counts.filter(isNotThere).map(({ depot }) => depot));
  const upper = new Map<string, { manifest: Manifest; place: number }>();
  const pairs = new Map<string, Extract<MixedCase, { kind: 'wrong-way-round' }>>();
  for (const manifest of manifests.toReversed()) {
    manifest.paths.forEach((path, i) => {
      const over = upper.get(path);
      if (over === undefined) return void upper.set(path, { manifest, place: i });
      const key = onDisk.get(path);
      const { depot } = over.manifest;
      if (key === undefined || notThere.has(depot)) return;
      if (!hasKeyAt(manifest, i, key) || hasKeyAt(over.manifest, over.place, key)) return;
      const pair = `${manifest.depot} ${depot}`;
      const files = (pairs.get(pair)?.files ?? 0) + 1;
      pairs.set(pair, { kind: 'wrong-way-round', lower: manifest.depot, upper: depot, files });
    });
  }
  return [...pairs.values()];
}

/** Names the ways in which a folder is a mixture. Files that were altered or belong to nobody are no case of these. */
export function mixedCases(input: MixedInput): MixedCase[] {
  const onDisk = keysByPath(input.found);
  const counts = countFiles(input.manifests, onDisk);
  return [
    ...programApart(input),
    ...wrongWayRound(input, onDisk, counts),
    ...otherLanguage(input, onDisk),
    ...partlyThere(input, counts),
  ];
}

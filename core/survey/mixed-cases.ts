import type { BuildLabel, Depot, DepotId } from '#core/builds';
import type { ContentKey } from '#core/digest';
import { fileAt, type Manifest } from '#core/manifest';
import type { FoundFile } from './compare';
import { type DepotIdentity, likeliestBuild } from './identify';

/** What people do to a folder by hand, as its files show it. */
export type MixedCase =
  /** The program is of another build than the data. */
  | { readonly kind: 'program-apart'; readonly program: BuildLabel; readonly data: BuildLabel }
  /** Some files of a depot are right, the others are not there. */
  | { readonly kind: 'half-copied'; readonly depot: DepotId; readonly absent: number; readonly total: number }
  /** Nothing of an add-on that is owned, or of a pack that is wanted, is there. */
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

interface Counts {
  right: number;
  absent: number;
  total: number;
}

/** Files of a manifest by whether they are there; a path that a later depot covers is not asked for. */
function countFiles(
  manifest: Manifest,
  onDisk: ReadonlyMap<string, ContentKey>,
  covered: ReadonlySet<string> = new Set(),
): Counts {
  const counts: Counts = { right: 0, absent: 0, total: 0 };
  manifest.paths.forEach((path, i) => {
    if (covered.has(path)) return;
    const key = onDisk.get(path);
    counts.total += 1;
    if (key === undefined) counts.absent += 1;
    else if (key === fileAt(manifest, i).key) counts.right += 1;
  });
  return counts;
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

function partlyThere(input: MixedInput, onDisk: ReadonlyMap<string, ContentKey>): MixedCase[] {
  const cases: MixedCase[] = [];
  const covered = new Set<string>();
  // From the top of the pile down, so that what covers a file is known when its depot is looked at.
  for (const manifest of input.manifests.toReversed()) {
    const { right, absent, total } = countFiles(manifest, onDisk, covered);
    const depot = input.depots.find(({ id }) => id === manifest.depot);
    manifest.paths.forEach((path) => covered.add(path));
    if (!depot || absent === 0) continue;
    if (absent === total && (depot.kind === 'add-on' || depot.kind === 'optional')) {
      cases.push({ kind: 'not-there', depot: depot.id });
    } else if (right > 0 && right + absent === total) {
      cases.push({ kind: 'half-copied', depot: depot.id, absent, total });
    }
  }
  return cases.toReversed();
}

function otherLanguage(
  { depots, manifests, otherLanguages }: MixedInput,
  onDisk: ReadonlyMap<string, ContentKey>,
): MixedCase[] {
  const wanted = depots.find(({ kind }) => kind === 'language');
  const own = manifests.find(({ depot }) => depot === wanted?.id);
  if (!wanted || !own) return [];
  const mine = countFiles(own, onDisk).right;
  return otherLanguages.flatMap((manifest): MixedCase[] => {
    const { right } = countFiles(manifest, onDisk);
    return right > mine ? [{ kind: 'other-language', wanted: wanted.id, instead: manifest.depot, files: right }] : [];
  });
}

function wrongWayRound({ manifests }: MixedInput, onDisk: ReadonlyMap<string, ContentKey>): MixedCase[] {
  const upper = new Map<string, { depot: DepotId; key: ContentKey }>();
  const pairs = new Map<string, Extract<MixedCase, { kind: 'wrong-way-round' }>>();
  for (const manifest of manifests.toReversed()) {
    manifest.paths.forEach((path, i) => {
      const { key } = fileAt(manifest, i);
      const over = upper.get(path);
      if (over === undefined) upper.set(path, { depot: manifest.depot, key });
      else if (onDisk.get(path) === key && key !== over.key) {
        const pair = `${manifest.depot} ${over.depot}`;
        const files = (pairs.get(pair)?.files ?? 0) + 1;
        pairs.set(pair, { kind: 'wrong-way-round', lower: manifest.depot, upper: over.depot, files });
      }
    });
  }
  return [...pairs.values()];
}

/** Names the ways in which a folder is a mixture. Files that were altered or belong to nobody are no case of these. */
export function mixedCases(input: MixedInput): MixedCase[] {
  const onDisk = new Map(input.found.map(({ path, key }) => [path, key]));
  return [
    ...programApart(input),
    ...wrongWayRound(input, onDisk),
    ...otherLanguage(input, onDisk),
    ...partlyThere(input, onDisk),
  ];
}

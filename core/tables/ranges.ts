import { type Build, type BuildLabel, compareLabels } from '#core/builds';

/** From and to, both included; an end that is left out is open. */
export interface Range {
  readonly from?: string;
  readonly to?: string;
}

/** Characters of a range of two labels, which have at most 40 each. */
const MOST_WORDS = 100;

/** Stands for a label with blanks while the words around it are read; nobody writes such characters (Unicode, private use). */
const standIn = (index: number): string => `\uE000${index}\uE001`;

/** Those labels of which a range would not know where they end, the longest first: one may begin another. */
export const labelsWithBlanks = (labels: readonly string[]): string[] =>
  labels.filter((label) => /\s/.test(label)).toSorted((a, b) => b.length - a.length);

/**
 * A range as people write it: `1.12 to 1.14` (or with a dash between spaces, or a long one), `2.0 or newer`, `from 2.0`,
 * `up to 1.14`, `1.14` alone, `any`. Undefined for anything with blanks that is none of these.
 * @param blanks what {@link labelsWithBlanks} gives
 */
export function parseRange(text: string, blanks: readonly string[] = []): Range | undefined {
  const said = text.trim();
  if (said.length > MOST_WORDS) return undefined;
  const words = blanks.reduce((rest, label, i) => rest.replaceAll(label, standIn(i)), said);
  const range = rangeOfWords(words);
  const back = (end: string): string => blanks.reduce((rest, label, i) => rest.replaceAll(standIn(i), label), end);
  return range && Object.fromEntries(Object.entries(range).map(([side, end]) => [side, back(end)]));
}

function rangeOfWords(words: string): Range | undefined {
  if (/^(any|all|any release|all builds|\*)$/i.test(words)) return {};
  const newer = /^(?:from\s+(\S+)|(\S+)\s+(?:or|and)\s+(?:newer|later)|(\S+)\+)$/i.exec(words);
  if (newer) return { from: (newer[1] ?? newer[2] ?? newer[3])! };
  const older = /^(?:up to\s+(\S+)|(\S+)\s+(?:or|and)\s+older)$/i.exec(words);
  if (older) return { to: (older[1] ?? older[2])! };
  const [, from, to] = /^(\S+)\s*(?:\bto\b|–|—|\s-\s|\.\.)\s*(\S+)$/i.exec(words) ?? [];
  if (from !== undefined && to !== undefined) return { from, to };
  return /^\S+$/.test(words) ? { from: words, to: words } : undefined;
}

/** Parts of a cell: by `;`, and by `,` where no `;` is in it. Undefined where there are more than `most`. */
export function partsOfCell(cell: string, most: number): string[] | undefined {
  const parts = cell.split(cell.includes(';') ? ';' : ',', most + 1);
  return parts.length > most ? undefined : parts.map((part) => part.trim()).filter((part) => part !== '');
}

/** What ranges need of a build. */
export type BranchBuild = Pick<Build, 'label' | 'branch'>;

/**
 * The builds in a range, by the order in which they stand, on the branches of its ends: `2.9.4 or newer` speaks of no build
 * that came out on trial alone. An end that is no known build is placed by its spelling, so that `up to 3.0` holds every
 * 2.9, on any branch. One that is known alone by its beginning, `2.9` or `2.9.x`, speaks of all that begin so.
 * @param builds from old to new
 */
export function buildsInRange(range: Range, builds: readonly BranchBuild[]): BuildLabel[] {
  const { from, to } = range;
  const [first, last] = [from, to].map((end) => end?.replace(/\.[x*]$/i, ''));
  const beginWith = (start: string): BuildLabel[] =>
    builds.flatMap(({ label }) => (label === start || label.startsWith(`${start}.`) ? [label] : []));
  if (first !== undefined && from === to && !builds.some(({ label }) => label === from)) return beginWith(first);
  // Up to `2.9.x` is up to the newest that begins so.
  return between({ from: first, to: last === to ? to : (beginWith(last!).at(-1) ?? last) }, builds);
}

function between(
  { from, to }: { from: string | undefined; to: string | undefined },
  builds: readonly BranchBuild[],
): BuildLabel[] {
  const placeOf = (end: string | undefined): number => builds.findIndex(({ label }) => label === end);
  const [first, last] = [placeOf(from), placeOf(to)];
  const branches = new Set([first, last].flatMap((place) => (place < 0 ? [] : [builds[place]!.branch])));
  const isIn = ({ label, branch }: BranchBuild, place: number): boolean =>
    (branches.size === 0 || branches.has(branch)) &&
    (from === undefined || (first >= 0 ? place >= first : compareLabels(label, from) >= 0)) &&
    (to === undefined || (last >= 0 ? place <= last : compareLabels(label, to) <= 0));
  return builds.filter(isIn).map(({ label }) => label);
}

/** Builds as ranges of neighbours on a branch: `2.9.4; 3.0.2 to 3.1.1`. Read back, they are the same builds. */
export function rangesOfBuilds(some: readonly BuildLabel[], builds: readonly BranchBuild[]): string {
  const asked = new Set(some);
  const runs: [BuildLabel, BuildLabel][] = [];
  for (const branch of new Set(builds.map((build) => build.branch))) {
    let run: [BuildLabel, BuildLabel] | undefined;
    for (const { label } of builds.filter((build) => build.branch === branch)) {
      if (!asked.has(label)) run = undefined;
      else if (run) run[1] = label;
      else runs.push((run = [label, label]));
    }
  }
  return runs.map(([from, to]) => (from === to ? from : `${from} to ${to}`)).join('; ');
}

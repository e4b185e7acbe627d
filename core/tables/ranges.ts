import { type BuildLabel, compareLabels } from '#core/builds';

/** From and to, both included; an end that is left out is open. */
export interface Range {
  readonly from?: string;
  readonly to?: string;
}

/**
 * A range as people write it: `1.12 to 1.14` (or with a dash between spaces, or a long one), `2.0 or newer`, `from 2.0`,
 * `up to 1.14`, `1.14` alone, `any`. Undefined for anything with blanks that is none of these.
 */
export function parseRange(text: string): Range | undefined {
  const words = text.trim();
  if (/^(any|all|any release|all builds|\*)$/i.test(words)) return {};
  const newer = /^(?:from\s+(\S+)|(\S+)\s+(?:or|and)\s+(?:newer|later)|(\S+)\+)$/i.exec(words);
  if (newer) return { from: (newer[1] ?? newer[2] ?? newer[3])! };
  const older = /^(?:up to\s+(\S+)|(\S+)\s+(?:or|and)\s+older)$/i.exec(words);
  if (older) return { to: (older[1] ?? older[2])! };
  const [, from, to] = /^(\S+)\s*(?:\bto\b|–|—|\s-\s|\.\.)\s*(\S+)$/i.exec(words) ?? [];
  if (from !== undefined && to !== undefined) return { from, to };
  return /^\S+$/.test(words) ? { from: words, to: words } : undefined;
}

/** Parts of a cell: by `;`, and by `,` where no `;` is in it. */
export const partsOfCell = (cell: string): string[] =>
  cell
    .split(cell.includes(';') ? ';' : ',')
    .map((part) => part.trim())
    .filter((part) => part !== '');

/**
 * The builds in a range, by the order in which they stand; an end that is no known build is placed by its spelling, so
 * that `up to 3.0` holds every 2.9.
 * @param builds from old to new
 */
export function buildsInRange({ from, to }: Range, builds: readonly BuildLabel[]): BuildLabel[] {
  const after = (build: BuildLabel, place: number): boolean => {
    if (from === undefined) return true;
    const at = builds.findIndex((label) => label === from);
    return at >= 0 ? place >= at : compareLabels(build, from) >= 0;
  };
  const before = (build: BuildLabel, place: number): boolean => {
    if (to === undefined) return true;
    const at = builds.findIndex((label) => label === to);
    return at >= 0 ? place <= at : compareLabels(build, to) <= 0;
  };
  return builds.filter((build, place) => after(build, place) && before(build, place));
}

/** Builds as ranges of neighbours: `2.9.4; 3.0.2 to 3.1.1`. Read back, they are the same builds. */
export function rangesOfBuilds(some: readonly BuildLabel[], builds: readonly BuildLabel[]): string {
  const runs: [number, number][] = [];
  builds.forEach((build, place) => {
    if (!some.includes(build)) return;
    const last = runs.at(-1);
    if (last?.[1] === place - 1) last[1] = place;
    else runs.push([place, place]);
  });
  return runs.map(([from, to]) => (from === to ? builds[from] : `${builds[from]} to ${builds[to]}`)).join('; ');
}

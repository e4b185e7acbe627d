import type { BuildLabel } from './schema';

/** A build, or several neighbours that are folded into one narrow column. */
export type BuildColumn = readonly [BuildLabel, ...BuildLabel[]];

const LEAST_FOLDED = 2;

/** Folds neighbouring builds that nothing speaks of; each build stays in just one column, in the same order. */
export function foldBuilds(builds: readonly BuildLabel[], spokenOf: ReadonlySet<BuildLabel>): BuildColumn[] {
  const columns: BuildColumn[] = [];
  let silent: BuildLabel[] = [];
  const close = (): void => {
    const [first, ...more] = silent;
    if (first !== undefined && silent.length >= LEAST_FOLDED) columns.push([first, ...more]);
    else columns.push(...silent.map((build): BuildColumn => [build]));
    silent = [];
  };
  for (const build of builds) {
    if (!spokenOf.has(build)) {
      silent.push(build);
      continue;
    }
    close();
    columns.push([build]);
  }
  close();
  return columns;
}

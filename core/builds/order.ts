import type { BuildLabel } from './schema';

/**
 * Builds in the order that a person gave them. Those that it does not name, since they are newer than it, stay behind the
 * build that they followed.
 */
export function orderBuilds<Build extends { readonly label: BuildLabel }>(
  builds: readonly Build[],
  order: readonly BuildLabel[],
): Build[] {
  const placed = order.flatMap((label) => builds.find((build) => build.label === label) ?? []);
  builds.forEach((build, i) => {
    if (placed.includes(build)) return;
    const before = builds[i - 1];
    placed.splice(before ? placed.indexOf(before) + 1 : 0, 0, build);
  });
  return placed;
}

/** The order with one build a place earlier (-1) or later (1); the same where there is no such place. */
export function moveBuild(order: readonly BuildLabel[], build: BuildLabel, step: -1 | 1): BuildLabel[] {
  const from = order.indexOf(build);
  const to = from + step;
  if (from < 0 || to < 0 || to >= order.length) return [...order];
  return order.with(from, order[to]!).with(to, build);
}

import { type Journalled, treeFolder } from '#core/changes';

/** The tree that is the game's folder once sets have been taken back, newest first. */
function treeAfter(current: string, taken: readonly Journalled[]): string {
  let tree = current;
  for (const { set } of taken) for (const step of set.steps) if (step.do === 'exchange') tree = step.from;
  return tree;
}

/** The trees that a set may begin to turn from: those that it swaps, or the one that it changes files of. */
function treesOf({ set }: Journalled): ReadonlySet<string> {
  const swapped = set.steps.flatMap((step) => (step.do === 'exchange' ? [step.from, step.to] : []));
  if (swapped.length > 0) return new Set(swapped);
  const paths = set.steps.flatMap((step) =>
    step.do === 'place' || step.do === 'move' ? [step.to] : step.do === 'take' || step.do === 'flag' ? [step.path] : [],
  );
  return new Set(paths.filter((path) => path.startsWith(treeFolder(''))).map((path) => path.split('/')[1]!));
}

/**
 * Whether a set belongs to a folder that is put aside, even once those that stand in its way have been taken back: it cannot be
 * turned then before that folder counts again.
 * @param after what has to be taken back before it, newest first
 */
export function isOfOtherTree(one: Journalled, after: readonly Journalled[], current: string): boolean {
  const trees = treesOf(one);
  return trees.size > 0 && !trees.has(treeAfter(current, after));
}

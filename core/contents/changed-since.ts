import { type Journalled, PLACES, treeFolder } from '#core/changes';
import { keySize } from '#core/digest';
import { isBelow } from '#core/paths';

/** The tree that is the game's folder once sets have been taken back, newest first. */
function treeAfter(current: string, taken: readonly Journalled[]): string {
  let tree = current;
  for (const { set } of taken) for (const step of set.steps) if (step.do === 'exchange') tree = step.from;
  return tree;
}

/**
 * Of the files that a set has put in place, or the folder that it has, those that are not as it left them, as far as sizes
 * tell, once those that stand in its way are taken back. None for one that is not in effect.
 * @param after what has to be taken back before it, by its id
 * @param sizes of what lies on the disk, by path
 */
export function changedSince(
  { set, way, ended }: Journalled,
  sets: readonly Journalled[],
  after: ReadonlyMap<string, readonly string[]>,
  current: string,
  sizes: ReadonlyMap<string, number>,
): number {
  if (way !== 'on' || !ended) return 0;
  const byId = new Map(sets.map((one) => [one.set.id, one]));
  const before = (after.get(set.id) ?? []).flatMap((id) => byId.get(id) ?? []);
  const tree = treeAfter(current, before);
  const overlaid = new Set(
    before.flatMap((one) =>
      one.set.steps.flatMap((step) => (step.do === 'place' || step.do === 'move' ? [step.to] : [])),
    ),
  );
  const removed = new Set(
    before.flatMap((one) => one.set.steps.flatMap((step) => (step.do === 'take' ? [step.path] : []))),
  );
  let changed = 0;
  for (const step of set.steps) {
    if (step.do === 'exchange' && step.to !== tree) changed += 1;
    if (step.do !== 'place' || overlaid.has(step.to) || removed.has(step.to)) continue;
    // What lies outside is in no list: whether it has changed is told when it is taken back.
    if (isBelow(step.to, PLACES.beside) && !sizes.has(step.to)) continue;
    const isOfOtherTree = step.to.startsWith(treeFolder('')) && !step.to.startsWith(`${treeFolder(tree)}/`);
    if (isOfOtherTree || sizes.get(step.to) !== keySize(step.key)) changed += 1;
  }
  return changed;
}

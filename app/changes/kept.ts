import { type Journalled, PLACES, treeFolder } from '#core/changes';
import type { Changes } from './changes-of';

/** A change set, and the bytes that it keeps so that it can be taken back or made again. */
export interface KeptChange extends Journalled {
  readonly bytes: number;
}

/** All change sets of an install that are not let go, newest first. @throws Failure `folder/*`, `served/*`, `changes/*` */
export async function keptChanges(changes: Changes): Promise<KeptChange[]> {
  const [all, current] = await Promise.all([changes.list(), changes.disk.current()]);
  const sizeOf = async (folder: string): Promise<number> =>
    (await changes.disk.list(folder)).reduce((sum, { size }) => sum + size, 0);
  const kept = await Promise.all(
    all.map(async (one): Promise<KeptChange> => {
      const { set, way } = one;
      const folders = [`${PLACES.kept}/${set.id}`, `${PLACES.staged}/${set.id}`];
      for (const step of set.steps) {
        if (step.do !== 'exchange') continue;
        // Made, it keeps the tree that it put aside; taken back, the one that it had made.
        const own = way === 'back' ? step.to : step.from;
        if (own !== current) folders.push(treeFolder(own));
      }
      const sizes = await Promise.all(folders.map(sizeOf));
      return { ...one, bytes: sizes.reduce((sum, size) => sum + size, 0) };
    }),
  );
  return kept.toReversed();
}

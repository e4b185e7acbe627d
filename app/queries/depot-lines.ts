import { fetchLine } from '#core/builds';
import { type FetchItem, isNowhere } from '#core/fetch';
import type { Target } from '~/store';
import { entriesOf, type InstallContext } from './install-context';
import type { DepotLine } from './views';

/** All depots of a build, in laying order, with how much of each is still to come and its line of the fetch list. */
export function depotLines(
  { index, depots }: InstallContext,
  target: Target,
  items: readonly FetchItem[],
): DepotLine[] {
  const entries = new Map(entriesOf(index, depots, target.build).map((entry) => [entry.depot, entry]));
  const sum = (some: readonly FetchItem[]) => ({
    files: some.length,
    bytes: some.reduce((total, { size }) => total + size, 0),
  });
  return depots.flatMap((depot) => {
    const entry = entries.get(depot.id);
    if (!entry) return [];
    const lacking = items.filter(
      ({ owner, source }) => owner.kind === 'depot' && owner.depot === depot.id && source.how === 'fetch',
    );
    return [
      {
        ...{ depot, manifest: entry.id ?? entry.sha256, files: entry.files, bytes: entry.bytes },
        line: fetchLine(index.game.rules.fetchLine, depot, entry),
        lacking: sum(lacking),
        nowhere: sum(lacking.filter(isNowhere)),
      },
    ];
  });
}

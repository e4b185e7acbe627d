import { ownKind } from '#core/builds';
import { IN_GAME, type OwnFile } from '#core/keepsakes';
import { releaseFileKey } from '#core/mods';
import { keysByPath } from '#core/survey';
import { addressesOf, installContext, isFresh } from './install-context';
import type { LossesView } from './views';

/** What deleting the files of a folder would lose, as they were surveyed last. */
export async function losses(installId: string): Promise<LossesView> {
  const here = await installContext(installId);
  const { found, catalogue, index } = here;
  const { rules } = index.game;
  const ofMods = catalogue.mods.flatMap(({ releases }) => releases.flatMap(({ files }) => files));
  const had = new Set([
    ...addressesOf(here).keys(),
    ...ofMods.flatMap((file) => (file.href === '' ? [] : [releaseFileKey(file)])),
  ]);
  const own = found.filter(({ path }) => ownKind(rules, path) !== undefined);
  const others = found.filter(({ path }) => ownKind(rules, path) === undefined);
  const again = others.filter(({ key }) => had.has(key));
  const sum = (files: typeof found) => ({
    files: files.length,
    bytes: files.reduce((bytes, { size }) => bytes + size, 0),
  });
  return {
    found: keysByPath(found),
    fresh: isFresh(here),
    ...{ again: sum(again), own: sum(own) },
    lost: others.flatMap(({ path, key }): OwnFile[] =>
      had.has(key) || path === rules.loadOrder
        ? []
        : [{ place: IN_GAME, path, kind: 'content', key, modified: null, along: true }],
    ),
  };
}

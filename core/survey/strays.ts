import type { ContentKey } from '#core/digest';
import type { BuildLabel, GameRules, ModId } from '#core/builds';
import { type Catalogue, type InstalledMod, modById } from '#core/mods';
import { isBelow } from '#core/paths';
import type { SurveyRow } from './compare';
import type { Trees } from './identify';

/** Whose a file is that the expected tree does not have (or has with other bytes). */
export type StrayName =
  | { readonly kind: 'leftover'; readonly builds: readonly BuildLabel[] }
  | { readonly kind: 'mod'; readonly mod: ModId; readonly release: string; readonly place: string }
  | { readonly kind: 'loader'; readonly mod: ModId; readonly release: string; readonly place: string }
  /** The list of mods to load, which the loader, the player and Regressum write. */
  | { readonly kind: 'load-order' }
  | { readonly kind: 'own' }
  | { readonly kind: 'unknown' };

function buildsWithFile(trees: Trees): (path: string, key: ContentKey) => BuildLabel[] {
  const builds = new Map<string, BuildLabel[]>();
  for (const [build, tree] of trees) {
    for (const { path, key } of tree) {
      const name = `${path}\0${key}`;
      const known = builds.get(name);
      if (known) known.push(build);
      else builds.set(name, [build]);
    }
  }
  return (path, key) => builds.get(`${path}\0${key}`) ?? [];
}

/**
 * Names each stray or altered file: the mod (or the loader) whose bytes it is, the builds that have just these bytes
 * at this path, the player's own, or unknown; in this order, since a mod's bytes are the surest sign.
 */
export function nameStrays(
  rows: readonly SurveyRow[],
  trees: Trees,
  installed: readonly InstalledMod[],
  catalogue: Catalogue,
  rules: GameRules,
): Map<string, StrayName> {
  const buildsOf = buildsWithFile(trees);
  const modFiles = new Map<string, StrayName>();
  for (const { mod, release, files } of installed) {
    const kind = modById(catalogue, mod)?.kind === 'loader' ? 'loader' : 'mod';
    for (const { path, place } of files) modFiles.set(path, { kind, mod, release, place });
  }
  const names = new Map<string, StrayName>();
  for (const { path, state, found } of rows) {
    if (found === undefined || state === 'true') continue;
    const builds = buildsOf(path, found);
    const own = rules.own.some((folder) => isBelow(path, folder));
    names.set(
      path,
      modFiles.get(path) ??
        (path === rules.loadOrder
          ? { kind: 'load-order' }
          : builds.length > 0
            ? { kind: 'leftover', builds }
            : own
              ? { kind: 'own' }
              : { kind: 'unknown' }),
    );
  }
  return names;
}

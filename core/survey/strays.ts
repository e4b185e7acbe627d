import type { ContentKey } from '#core/digest';
import { type BuildLabel, type GameRules, type ModId, ownKind, type OwnKind } from '#core/builds';
import { type Catalogue, type InstalledMod, modById } from '#core/mods';
import type { SurveyRow } from './compare';
import type { Trees } from './identify';
import type { LearnedBuild, LearnedContents, LearnedFrom } from './learned';

/** Whose a file is that the expected tree does not have (or has with other bytes). */
export type StrayName =
  | { readonly kind: 'leftover'; readonly builds: readonly BuildLabel[] }
  | { readonly kind: 'mod'; readonly mod: ModId; readonly release: string; readonly place: string }
  | { readonly kind: 'loader'; readonly mod: ModId; readonly release: string; readonly place: string }
  /** The list of mods to load, which the loader, the player and Regressum write. */
  | { readonly kind: 'load-order' }
  | { readonly kind: 'own'; readonly what: OwnKind }
  /** Of a build that a person recorded. */
  | { readonly kind: 'learned'; readonly label: string; readonly from: LearnedFrom }
  | { readonly kind: 'unknown' };

const noLearned = (): LearnedBuild | undefined => undefined;

/** The builds that have a content at a path, for the paths that are asked for. */
function buildsWithFile(rows: readonly SurveyRow[], trees: Trees): (path: string) => BuildLabel[] {
  const asked = new Map<string, { found: ContentKey; builds: BuildLabel[] }>();
  for (const { path, state, found } of rows) {
    if (found !== undefined && state !== 'true') asked.set(path, { found, builds: [] });
  }
  for (const [build, tree] of trees) {
    for (const { path, key } of tree) {
      const row = asked.get(path);
      if (row?.found === key) row.builds.push(build);
    }
  }
  return (path) => asked.get(path)?.builds ?? [];
}

/**
 * Names each stray or altered file: the mod (or the loader) whose bytes it is, the builds that have just these bytes
 * at this path (or that a person recorded as one), the player's own, or unknown; in this order, since a mod's bytes are
 * the surest sign.
 */
export function nameStrays(
  rows: readonly SurveyRow[],
  trees: Trees,
  installed: readonly InstalledMod[],
  catalogue: Catalogue,
  rules: GameRules,
  learned: LearnedContents = noLearned,
): Map<string, StrayName> {
  const buildsOf = buildsWithFile(rows, trees);
  const modFiles = new Map<string, StrayName>();
  for (const { mod, release, files } of installed) {
    const kind = modById(catalogue, mod)?.kind === 'loader' ? 'loader' : 'mod';
    for (const { path, place } of files) modFiles.set(path, { kind, mod, release, place });
  }
  const nameByPlace = (path: string, found: ContentKey): StrayName => {
    const builds = buildsOf(path);
    if (builds.length > 0) return { kind: 'leftover', builds };
    const record = learned(path, found);
    if (record) return { kind: 'learned', label: record.label, from: record.from };
    const what = ownKind(rules, path);
    return what ? { kind: 'own', what } : { kind: 'unknown' };
  };
  const names = new Map<string, StrayName>();
  for (const { path, state, found } of rows) {
    if (found === undefined || state === 'true') continue;
    const sure = modFiles.get(path) ?? (path === rules.loadOrder ? { kind: 'load-order' as const } : undefined);
    names.set(path, sure ?? nameByPlace(path, found));
  }
  return names;
}

/** What is counted together: strays of one build, of one release, of one kind. */
export type StrayGroup =
  | { readonly kind: 'leftover'; readonly build: BuildLabel }
  | { readonly kind: 'mod' | 'loader'; readonly mod: ModId; readonly release: string }
  | { readonly kind: 'learned'; readonly label: string }
  | { readonly kind: 'own'; readonly what: OwnKind }
  | { readonly kind: 'load-order' | 'unknown' };

/** A file that several builds have is counted with the newest of them. */
export function strayGroup(name: StrayName): StrayGroup {
  switch (name.kind) {
    case 'leftover':
      return { kind: 'leftover', build: name.builds.at(-1)! };
    case 'mod':
    case 'loader':
      return { kind: name.kind, mod: name.mod, release: name.release };
    case 'learned':
      return { kind: 'learned', label: name.label };
    case 'own':
      return { kind: 'own', what: name.what };
    case 'load-order':
    case 'unknown':
      return { kind: name.kind };
  }
}

import { type BuildLabel, asBuild } from '#core/builds';
import { type Catalogue, CatalogueSchema } from '#core/mods';

/** A release in short, for tests; whatever is left out is empty. */
export interface ReleaseSketch {
  version: string;
  builds?: string[];
  requires?: { mod: string; from?: string; to?: string }[];
  requiresOneOf?: { mod: string; from?: string; to?: string }[][];
  optional?: { mod: string; from?: string; to?: string }[];
  conflicts?: { mod: string; from?: string; to?: string }[];
  /** Undefined, where it is said: nobody knows. */
  touches?: string[] | undefined;
  brokenOn?: string[];
  programs?: string[];
  reports?: { build: string; for: number; against: number }[];
  files?: { path: string; size: number; sha256: string; href: string }[];
}

/** A catalogue of mods whose ids are the keys; releases stand from old to new. */
export function catalogueOf(mods: Record<string, ReleaseSketch[]>, kinds: Record<string, string> = {}): Catalogue {
  return CatalogueSchema.parse({
    format: 'regressum-mod-catalogue',
    version: 1,
    mods: Object.entries(mods).map(([id, releases]) => ({
      id,
      name: id,
      author: 'A Tester',
      kind: kinds[id] ?? 'script',
      lookedAfter: true,
      summary: '',
      releases: releases.map((release) => ({ date: '2026-01-01', builds: [], touches: [], files: [], ...release })),
    })),
  });
}

export const builds = (...labels: string[]): BuildLabel[] => labels.map(asBuild);

import { readFileSync } from 'node:fs';
import { asMod, type BuildLabel, type ModId } from '#core/builds';
import { bestSet, candidatesAt, type ChooseQuestion, ChooseQuestionSchema } from '#core/choose';
import { parseJson } from '#core/json';
import { inRange, modById, needsOf, type Requirement, type Weight } from '#core/mods';
import { randomFrom } from './random';

const VALUE: Record<Weight, number> = { must: 1_000_000, want: 1_000, spare: 1 };

export interface Shape {
  readonly mods: number;
  readonly releases: number;
  readonly builds: number;
  /** How deep requirements go. */
  readonly depth: number;
  /** Shares of releases with a conflict, and with a list of which one is required. */
  readonly conflicts: number;
  readonly oneOf: number;
}

export const LARGE: Shape = { mods: 300, releases: 5, builds: 60, depth: 6, conflicts: 0.05, oneOf: 0.1 };
export const HARD: Shape = { mods: 150, releases: 4, builds: 1, depth: 3, conflicts: 0.9, oneOf: 0.8 };

/** Mods in layers, each requiring some of the layers below, with releases that follow one another along the builds. */
export function makeQuestion(seed: number, shape: Shape): ChooseQuestion {
  const random = randomFrom(seed);
  const pick = <T>(items: readonly T[]): T => items[Math.floor(random() * items.length)]!;
  const labels = Array.from({ length: shape.builds }, (_, i) => `1.${i}`);
  const layerOf = (i: number): number =>
    Math.min(shape.depth, Math.floor(Math.log2(1 + (i * 2 ** shape.depth) / shape.mods)));
  const ids = Array.from({ length: shape.mods }, (_, i) => `mod-${i}`);
  const range = (mod: string): object => {
    const from = 1 + Math.floor(random() * shape.releases);
    return random() < 0.5
      ? { mod }
      : { mod, from: String(Math.max(1, from - 2)), to: String(Math.min(shape.releases, from + 2)) };
  };
  const mods = ids.map((id, i) => {
    const below = ids.filter((_, other) => layerOf(other) < layerOf(i));
    const span = shape.builds / shape.releases;
    return {
      ...{ id, name: id, author: 'A Modder', kind: 'script', lookedAfter: true, summary: '' },
      releases: Array.from({ length: shape.releases }, (_, r) => {
        const first = Math.floor(Math.max(0, (r - 0.8 * random()) * span));
        const last = Math.min(shape.builds, Math.ceil((r + 1 + random()) * span));
        return {
          ...{ version: String(r + 1), date: '2026-01-01', files: [] },
          builds: shape.builds === 1 ? labels : labels.slice(first, last),
          requires: below.length > 0 && random() < 0.7 ? [range(pick(below))] : [],
          requiresOneOf: below.length > 1 && random() < shape.oneOf ? [[range(pick(below)), range(pick(below))]] : [],
          conflicts: random() < shape.conflicts ? [range(pick(ids.filter((other) => other !== id)))] : [],
        };
      }),
    };
  });
  const weights = Object.fromEntries(
    ids.flatMap((id) => (random() < 0.85 ? [[id, pick(['must', 'want', 'want', 'want', 'spare'])]] : [])),
  );
  return ChooseQuestionSchema.parse({
    ...{ format: 'regressum-choose-question', version: 1, builds: labels, weights },
    catalogue: { format: 'regressum-mod-catalogue', version: 1, mods },
  });
}

export const readQuestion = (file: string): ChooseQuestion =>
  parseJson(readFileSync(file, 'utf8'), ChooseQuestionSchema, file);

interface Wishes {
  readonly weights: ReadonlyMap<ModId, Weight>;
  readonly pins: ReadonlyMap<ModId, string>;
}

export const wishesOf = ({ weights, pins }: ChooseQuestion): Wishes => ({
  weights: new Map(Object.entries(weights).map(([id, weight]) => [asMod(id), weight])),
  pins: new Map(Object.entries(pins).map(([id, version]) => [asMod(id), version])),
});

export function solveAt(
  { catalogue, builds }: ChooseQuestion,
  wishes: Wishes,
  build: BuildLabel,
): { value: number; exact: boolean; gap: number } {
  const { value, exact, gap } = bestSet({ catalogue, build, ...wishes }, builds);
  return { value, exact, gap };
}

/**
 * The same question as a mixed-integer program in the LP format: a variable for each release that supports the build, at
 * most one of a mod, each need met, no conflict.
 */
export function programAt({ catalogue }: ChooseQuestion, { weights, pins }: Wishes, build: BuildLabel): string {
  const candidates = candidatesAt(catalogue, build);
  const name = (mod: number, release: number): string => `x${mod}_${release}`;
  const places = new Map(catalogue.mods.map(({ id }, i) => [id, i]));
  const inSet = ({ mod, from, to }: Requirement): string[] =>
    (candidates.get(mod) ?? []).flatMap(({ version }, r) =>
      inRange(modById(catalogue, mod)!, version, { mod, from, to }) ? [name(places.get(mod)!, r)] : [],
    );
  const goal: string[] = [];
  const rows: string[] = [];
  const variables: string[] = [];
  for (const [id, releases] of candidates) {
    const mod = places.get(id)!;
    const own = releases.map((_, r) => name(mod, r));
    variables.push(...own);
    rows.push(`${own.join(' + ')} <= 1`);
    const weight = weights.get(id);
    releases.forEach((release, r) => {
      if (weight) goal.push(`${VALUE[weight]} ${own[r]}`);
      const pin = pins.get(id);
      if (pin !== undefined && pin !== release.version) rows.push(`${own[r]} = 0`);
      for (const need of needsOf(release)) {
        const set = [...new Set(need.flatMap(inSet))].filter((variable) => variable !== own[r]);
        if (set.length === 0) rows.push(`${own[r]} = 0`);
        else rows.push(`${set.join(' + ')} - ${own[r]} >= 0`);
      }
      for (const variable of release.conflicts.flatMap(inSet)) {
        if (!own.includes(variable)) rows.push(`${own[r]} + ${variable} <= 1`);
      }
    });
  }
  return [
    'Maximize',
    ` obj: ${goal.join(' + ') || '0 x0'}`,
    'Subject To',
    ...rows.map((row, i) => ` c${i}: ${row}`),
    'Binary',
    ` ${variables.join(' ')}`,
    'End',
  ].join('\n');
}

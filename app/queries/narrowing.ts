import { buildOrder, headBuild, type ModId } from '#core/builds';
import { assess, isAtLeast } from '#core/mend';
import { modById, needsOf, releaseAt } from '#core/mods';
import { changedSince, narrow, type Sign, weightOf } from '#core/narrow';
import { likeliestBuild } from '#core/survey';
import { listTrials, type Narrowing, type StoredTrial } from '~/store';
import { evidenceOf } from './evidence';
import { identities, installContext, installedReleases, personalOrder } from './install-context';
import type { NarrowView } from './views';

/* What breaks the game: suspects, and the starts that narrow them down. */

/** The last start of which it is known that all went well; what a person says of one tells nothing of mods. */
const lastThatRan = (trials: readonly StoredTrial[]): StoredTrial | undefined =>
  trials.findLast(
    ({ answer }) => answer.outcome === 'title' && answer.mods.length > 0 && answer.mods.every(({ ran }) => ran),
  );

/** Mods by their places, with what each does not run without among them. */
function needsAmong(mods: readonly (readonly [ModId, string])[], catalogue: Parameters<typeof modById>[0]): number[][] {
  const places = new Map(mods.map(([mod], i) => [mod, i]));
  return mods.map(([id, version]) => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    return (release ? needsOf(release) : []).flatMap((some) => {
      const there = some.map((need) => places.get(need.mod)).find((place) => place !== undefined);
      return there === undefined ? [] : [there];
    });
  });
}

/** All that some mods need, themselves included. */
function withNeeds(some: readonly number[], needs: readonly (readonly number[])[]): Set<number> {
  const all = new Set(some);
  for (const one of all) for (const need of needs[one]!) all.add(need);
  return all;
}

/** Undefined before the first survey. */
export async function narrowing(installId: string): Promise<NarrowView | undefined> {
  const here = await installContext(installId);
  const { install, catalogue, trees, index } = here;
  const build = likeliestBuild(identities(here), trees.keys());
  if (build === undefined) return undefined;
  const [evidence, trials] = await Promise.all([evidenceOf(here), listTrials(installId)]);
  const installed = installedReleases(here);
  const under: Narrowing | undefined = install.narrowing;
  const releases = under
    ? under.releases
    : personalOrder(here, installed).map((mod) => [mod, installed.get(mod)!] as const);
  const input = evidence.inputAt(build);
  const sorted = trials.toSorted((a, b) => a.at - b.at);
  const ran = lastThatRan(sorted);
  const last = sorted.at(-1);
  const changed =
    ran &&
    changedSince(
      ran.answer.mods.map(({ mod, release }) => [mod, release]),
      releases,
    );
  const isChanged = new Set([...(changed?.added ?? []), ...(changed?.updated ?? [])]);
  const failed = new Set(last?.answer.mods.flatMap(({ mod, ran: did }) => (did ? [] : [mod])));
  const before = index.builds
    .map(({ label }) => label)
    .filter((label) => buildOrder(index, label) < buildOrder(index, build));
  const signsOf = ([id, version]: readonly [ModId, string]): Sign[] => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    const since = before.findLast((label) => release?.builds.includes(label) && trees.has(label));
    const { touched } = since === undefined ? { touched: new Set<string>() } : input.impactSince(since);
    const verdict = release && assess(release, input).verdict;
    return [
      ...(failed.has(id) ? (['named'] as const) : []),
      ...(isChanged.has(id) ? (['changed'] as const) : []),
      ...(verdict !== undefined && !isAtLeast(verdict, 'likely') ? (['doubtful'] as const) : []),
      ...(release?.builds.includes(build) !== true && release?.touches?.some((path) => touched.has(path))
        ? (['touched'] as const)
        : []),
    ];
  };
  const signs = releases.map(signsOf);
  const kept = new Map(under?.weights);
  const weights = releases.map(([mod], i) => kept.get(mod) ?? weightOf(signs[i]!));
  const needs = needsAmong(releases, catalogue);
  const symptom = under?.symptom;
  const asked = symptom?.kind === 'not-loaded' ? releases.findIndex(([mod]) => mod === symptom.mod) : -1;
  const always = withNeeds(asked < 0 ? [] : [asked], needs);
  // What is on in every start tells nothing: the others are narrowed down.
  const open = releases.map((_, i) => i).filter((i) => !always.has(i));
  const place = new Map(open.map((i, p) => [i, p]));
  const question = {
    weights: open.map((i) => weights[i]!),
    needs: open.map((i) => needs[i]!.flatMap((need) => place.get(need) ?? [])),
  };
  const starts = (under?.starts ?? []).map(({ on, outcome }) => {
    const there = new Set(on);
    return { on: Uint8Array.from(open, (i) => (there.has(releases[i]![0]) ? 1 : 0)), outcome };
  });
  const narrowed = open.length > 0 ? narrow(question, starts) : undefined;
  const idOf = (p: number): ModId => releases[open[p]!]![0];
  const next = narrowed?.next;
  const on = next && [
    ...[...always].map((i) => releases[i]![0]),
    ...open.flatMap((i, p) => (next.on[p] === 1 ? [releases[i]![0]] : [])),
  ];
  return {
    ...{ build, under, isNewest: headBuild(index) === build },
    mods: releases.map(([mod, release], i) => ({
      ...{ mod, release, name: modById(catalogue, mod)?.name ?? mod, signs: signs[i]!, weight: weights[i]! },
      isAlways: always.has(i),
      isHere: installed.get(mod) === release,
      involved: place.has(i) ? (narrowed?.involved[place.get(i)!] ?? 0) : 0,
    })),
    names: new Map(catalogue.mods.map(({ id, name }) => [id as string, name])),
    culprits: (narrowed?.culprits ?? []).map(({ mods, likely }) => ({ mods: mods.map(idOf), likely })),
    next: on && next ? { on, fails: next.fails, bits: next.bits } : undefined,
    left: narrowed?.left ?? { likely: 0, most: 0 },
    since: ran && {
      at: ran.at,
      version: ran.answer.version,
      ...{ added: changed!.added.length, updated: changed!.updated.length, gone: changed!.gone.length },
    },
    last: last && {
      at: last.at,
      outcome: last.answer.outcome,
      loaded: last.answer.mods.filter(({ ran: did }) => did).map(({ mod }) => mod as ModId),
      knowsMods: last.answer.mods.length > 0,
    },
  };
}

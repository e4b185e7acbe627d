import { createHash } from 'node:crypto';
import { expect, it } from 'vitest';
import { asBuild, asDepot, asMod, LOG_CAUSES } from '#core/builds';
import { changesOf, chooseAll } from '#core/choose';
import { causesIn } from '#core/log-causes';
import {
  BUILDS,
  createDemoWorld,
  DEMO_SEED,
  DEPOTS,
  demoCatalogue,
  GAME,
  INSTALLED_RELEASES,
  PASSED_LOGS,
  PLAYER_WEIGHTS,
} from '#demo';

const hash = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
const CORE = asDepot('core');

it.each([-1, 1.5, 2 ** 32, NaN])('refuses the seed %s', (seed) => {
  expect(() => createDemoWorld(seed)).toThrow(expect.objectContaining({ code: 'demo/bad-seed' }));
});

it('gives any range of a file as it stands in the whole, and refuses others', () => {
  const world = createDemoWorld();
  const build = asBuild('3.1.1');
  for (const { path, size } of world
    .files(build, CORE)
    .slice(0, 400)
    .filter((_, i) => i % 37 === 0)) {
    const whole = world.read(build, CORE, path);
    const [start, end] = [Math.floor(size / 3) + 1, Math.floor(size / 2) + 2];
    expect(hash(world.read(build, CORE, path, start, end))).toBe(hash(whole.subarray(start, end)));
    expect(() => world.read(build, CORE, path, 0, size + 1)).toThrow(
      expect.objectContaining({ code: 'demo/bad-range' }),
    );
  }
  expect(() => world.read(build, CORE, 'nothing')).toThrow(expect.objectContaining({ code: 'demo/unknown-file' }));
});

it('is the same wherever it is made', () => {
  const bytes = createDemoWorld(1).read(asBuild('2.9.4'), CORE, 'tables/vessels.csv', 0, 400);
  expect(hash(bytes)).toBe(hash(createDemoWorld(1).read(asBuild('2.9.4'), CORE, 'tables/vessels.csv', 0, 400)));
  expect(hash(bytes)).not.toBe(hash(createDemoWorld(2).read(asBuild('2.9.4'), CORE, 'tables/vessels.csv', 0, 400)));
});

it('has about 60 to 100 MB in each build', () => {
  const world = createDemoWorld();
  for (const { label } of BUILDS) {
    const sizes = DEPOTS.flatMap(({ id }) => world.files(label, id).map(({ size }) => size));
    expect(sizes.length).toBeGreaterThan(1100);
    expect(sizes.reduce((a, b) => a + b)).toBeGreaterThan(60e6);
  }
});

it('hands over a log for each thing that can go wrong', () => {
  const { mods } = demoCatalogue(DEMO_SEED, hash, false);
  const isHere = (id: string): boolean => INSTALLED_RELEASES.has(asMod(id));
  const known = {
    mods: mods
      .filter(({ id }) => isHere(id))
      .map((mod) => ({ ...mod, paths: mod.releases[0]!.files.map(({ path }) => path) })),
    absent: mods.filter(({ id }) => !isHere(id)).map((mod) => ({ ...mod, paths: [] })),
    ...{ program: GAME.rules.program, loader: 'towline', isVanilla: () => false },
  };
  expect(PASSED_LOGS.map(({ cause }) => cause).toSorted()).toEqual([...LOG_CAUSES].toSorted());
  for (const { text, cause, name } of PASSED_LOGS)
    expect([name, ...causesIn(text, known).findings.map((one) => one.cause)]).toEqual([name, cause]);
});

it('loses half of the mods at 3.1.1 and has all of them at 2.9.4', () => {
  const catalogue = demoCatalogue(DEMO_SEED, hash, false);
  const labels = BUILDS.map(({ label }) => label);
  const choices = chooseAll(labels, catalogue, PLAYER_WEIGHTS, INSTALLED_RELEASES);
  const at = (build: string) => choices.find((choice) => choice.build === build)!;
  expect(catalogue.mods).toHaveLength(40);
  expect(at('2.9.4')).toMatchObject({ running: 38, mustLost: 0, exact: true });
  expect(at('3.1.1')).toMatchObject({ running: 19, exact: true });
  expect(changesOf(at('2.9.4'), INSTALLED_RELEASES, catalogue).back.map(({ mod }) => mod)).toContain('towline');
});

import { GAME, INSTALL, laidSheet, readyToLayDown, run, started, targetNow } from '../testing/way';
import { afterEach, beforeAll, expect, it, vi } from 'vitest';
import { type DepotIndex } from '#core/builds';
import type { Catalogue, Mod, Release } from '#core/mods';
import * as commands from '~/commands/games';
import { choose } from '~/queries/choosing';
import { installContext } from '~/queries/install-context';
import * as stages from '~/queries/stages';
import { DEPOT_SERVICE, MOD_SERVICE } from '~/remote/services';
import { db } from '~/store/db';
import { getGame, updateGame } from '~/store/games';
import { getCatalogue, putTold } from '~/store/told';
import { getInstall } from '~/store/installs';

/* What is held, laid down or lies in a folder rests on what was known when it came there: a source may take back what it said. */

const { fetch: real } = globalThis;
/** Has the mods' service, and the depots', tell something else from now on. */
function telling(change: { mods?: (all: Mod[]) => Mod[]; builds?: (index: DepotIndex) => DepotIndex }): void {
  vi.stubGlobal('fetch', async (url: string, init?: RequestInit) => {
    const answer = await real(url, init);
    if (url === `${MOD_SERVICE}index.json` && change.mods) {
      const said = (await answer.json()) as Catalogue;
      return Response.json({ ...said, mods: change.mods(said.mods) });
    }
    if (url === `${DEPOT_SERVICE}index.json` && change.builds)
      return Response.json(change.builds((await answer.json()) as DepotIndex));
    return answer;
  });
}

/** Two releases of the target that bring files. */
let two: readonly (readonly [mod: string, version: string])[];
const isOne = (id: string, version: string): boolean => two.some(([mod, at]) => mod === id && at === version);
const without = (mods: Mod[]): Mod[] =>
  mods.flatMap((mod) => {
    const releases = mod.releases.filter(({ version }) => !isOne(mod.id, version));
    return releases.length > 0 ? [{ ...mod, releases }] : [];
  });
const releasesOf = async (id: string): Promise<Release[]> =>
  (await getCatalogue(GAME)).mods.find((mod) => mod.id === id)!.releases;

beforeAll(async () => {
  await readyToLayDown();
  await run('assemble', { ...(await targetNow()), way: 'in-place' });
  await run('survey', { trustEarlier: true });
  await run('hold', { sheet: await laidSheet() });
  const { installed } = await installContext(INSTALL);
  two = installed.slice(0, 2).map(({ mod, release }) => [mod, release] as const);
  expect(await stages.holdView(INSTALL)).toMatchObject({ departures: [], unknown: [], repair: undefined });
});
afterEach(() => vi.stubGlobal('fetch', real));

async function expectHeldAsItWas(): Promise<void> {
  expect(await stages.holdView(INSTALL)).toMatchObject({ departures: [], unknown: [], repair: undefined });
  expect((await stages.frame(INSTALL)).held).toMatchObject({ drift: 0 });
  expect((await stages.proof(INSTALL))!.proof.wrong).toEqual([]);
  const { installed } = await installContext(INSTALL);
  for (const [mod, release] of two) expect(installed).toContainEqual(expect.objectContaining({ mod, release }));
}

it('releases that are withdrawn stay what they are in a held folder, on the shelf too, and are proposed to nobody', async () => {
  telling({ mods: without });
  started.length = 0;
  await commands.askSourcesAgain(GAME);
  await expectHeldAsItWas();
  const releases = started.flatMap(({ kind, params }) =>
    kind === 'shelve' ? (params as { releases: { mod: string; release: string }[] }).releases : [],
  );
  expect(new Set(releases.map(({ mod, release }) => JSON.stringify([mod, release])))).toEqual(
    new Set(two.map((one) => JSON.stringify(one))),
  );
  for (const [id, version] of two) {
    const release = (await releasesOf(id)).find((one) => one.version === version)!;
    expect(release.withdrawn).toMatch(/^\d{4}-\d\d-\d\d$/);
  }
  // Told as before, they are no more than they were.
  vi.stubGlobal('fetch', real);
  await commands.askSourcesAgain(GAME);
  for (const [id] of two) expect((await releasesOf(id)).every(({ withdrawn }) => withdrawn === undefined)).toBe(true);
});

it('a release that nobody has and nobody offers is not chosen', async () => {
  const { choices } = await choose(INSTALL);
  const { installed } = await installContext(INSTALL);
  const here = new Set(installed.map(({ mod, release }) => JSON.stringify([mod, release])));
  const other = choices
    .flatMap(({ runs }) => [...runs])
    .find(([mod, release]) => !here.has(JSON.stringify([mod, release])))!;
  telling({
    mods: (all) =>
      all.map((mod) => ({
        ...mod,
        releases: mod.releases.map((one) =>
          mod.id === other[0] && one.version === other[1] ? { ...one, withdrawn: '2026-01-01' } : one,
        ),
      })),
  });
  await commands.askSourcesAgain(GAME);
  const now = await choose(INSTALL);
  expect(now.choices.flatMap(({ runs }) => [...runs]).filter(([m, v]) => m === other[0] && v === other[1])).toEqual([]);
});

it('a release under which a source has other files now means what it meant where folders rest on it', async () => {
  const [[id, version]] = two as [(typeof two)[number]];
  const swapped = { path: 'mods/other.pak', size: 3, sha256: 'ab'.repeat(32), href: 'x' };
  telling({
    mods: (all) =>
      all.map((mod) => ({
        ...mod,
        releases: mod.releases.map((one) => (isOne(mod.id, one.version) ? { ...one, files: [swapped] } : one)),
      })),
  });
  await commands.askSourcesAgain(GAME);
  await expectHeldAsItWas();
  const releases = await releasesOf(id);
  const at = releases.findIndex((one) => one.version === version);
  expect(releases[at + 1]).toMatchObject({ version: `${version} (new files)`, files: [{ path: swapped.path }] });
});

it('a build that a source no longer tells of, or tells otherwise, is what it was for who holds it', async () => {
  const { build } = (await getInstall(INSTALL)).target!;
  for (const builds of [
    (index: DepotIndex): DepotIndex => ({
      ...index,
      builds: index.builds.filter(({ label }) => label !== build),
      branches: index.branches.filter((branch) => branch.build !== build),
      manifests: index.manifests.filter((entry) => entry.build !== build),
    }),
    (index: DepotIndex): DepotIndex => {
      const [newest] = index.builds.slice(-1);
      return {
        ...index,
        manifests: index.manifests.map((entry) =>
          entry.build === build
            ? { ...index.manifests.find((one) => one.build === newest!.label && one.depot === entry.depot)!, build }
            : entry,
        ),
      };
    },
  ]) {
    telling({ builds });
    await commands.askSourcesAgain(GAME);
    await expectHeldAsItWas();
    vi.stubGlobal('fetch', real);
    await commands.askSourcesAgain(GAME);
  }
});

it('a source that is removed takes nothing along that a folder rests on', async () => {
  const { sources } = await getGame(GAME);
  await commands.removeSource(GAME, sources[0]!.id);
  await expectHeldAsItWas();
  await updateGame(GAME, (game) => ({ ...game, sources }));
});

it('what nobody tells here any more is not compared with, and nothing is to be put right by that', async () => {
  const { sources } = await getGame(GAME);
  const catalogue = { format: 'regressum-mod-catalogue', version: 1, mods: [] } as const;
  // As in a browser to which nobody has told of these mods.
  await (await db()).delete('told', [GAME, '', 'rested']);
  await putTold(GAME, sources[0]!.id, { catalogue: { value: { ...catalogue, mods: [] } } });
  const { unknown, departures, repair } = await stages.holdView(INSTALL);
  expect([departures, repair]).toEqual([[], undefined]);
  expect(unknown.length).toBeGreaterThan(0);
  expect(await stages.frame(INSTALL)).toMatchObject({ held: { drift: undefined, isKnown: false }, laid: false });
  expect(await stages.proof(INSTALL)).toBeUndefined();
});

import './testing/told';
import { disk, INSTALL, layOut, signInAtService, started } from '../jobs/testing/way';
import { BlobReader, TextWriter, ZipReader } from '@zip.js/zip.js';
import { beforeAll, describe, expect, it, vi } from 'vitest';
import { asBuild, asMod, type BuildLabel } from '#core/builds';
import type { FolderReader } from '#core/folders';
import { modById, releaseAt } from '#core/mods';
import { carry, carryable } from '~/queries/carrying';
import type { CarryView } from '~/queries';
import { platformSha256 } from '~/remote/sha256';
import { streamSha256 } from '~/remote/stream-sha256';
import { getInstall } from '~/store/installs';
import { getCatalogue } from '~/store/told';
import type { DiskTask } from '~/workers';
import { digestInArchive, lookIntoArchive } from '~/workers/archive-task';
import { mergeFiles } from '~/workers/merge-task';
import { carryAll, carryForward, compareFiles, decideCarried, keepVanillaOf, packCarried, patchOf } from './carrying';

/* Carrying mods forward, from the comparison to the release on the shelf. */

vi.mock('./in-pool', () => ({
  inPool: (work: (pool: { run: (task: DiskTask) => Promise<unknown> }) => Promise<unknown>) => work({ run: perform }),
}));

/** As a worker does it, on the disk in memory. */
async function perform(task: DiskTask): Promise<unknown> {
  const from = disk.now as FolderReader;
  const ports = { sha256: platformSha256, progress: () => undefined, signal: new AbortController().signal };
  switch (task.do) {
    case 'merge':
      return mergeFiles(task, { ...ports, from });
    case 'read':
      return { bytes: await Promise.all(task.files.map(({ at, size }) => from.read(at, 0, size))) };
    case 'look-into-archive':
      return lookIntoArchive(task, { ...ports, readerOf: () => from });
    case 'digest-in-archive':
      return digestInArchive(task, { ...ports, readerOf: () => from, newHash: streamSha256 });
    default:
      throw new Error(task.do);
  }
}

const ROUTES = asMod('lockkeeper-routes');
const TO = asBuild('3.1.1');
const viewOf = async (to: BuildLabel = TO): Promise<CarryView> => (await carry(INSTALL, { mod: ROUTES, to }))!;
const compared = async () => compareFiles(await getInstall(INSTALL), await viewOf());
const openIn = async (): Promise<number> => (await compared()).reduce((sum, { count }) => sum + count.open, 0);

beforeAll(async () => {
  await layOut();
  await signInAtService();
  await keepVanillaOf(INSTALL, await viewOf());
});

describe('a mod of which the game and its author have changed the same', () => {
  it('is compared once what it is made from lies there, each file once as long as nothing of it changes', async () => {
    const view = await viewOf();
    expect(view).toMatchObject({ release: '2.4', from: '2.9.4', to: TO, version: '2.4+3.1.1', missing: [] });
    const known = new Map();
    const install = await getInstall(INSTALL);
    const first = await compareFiles(install, view, known);
    expect(first.map(({ path, kind, count }) => [path, kind, count.open])).toEqual([
      ['mods/lockkeeper-routes/settings/defaults-004.ini', 'ini', 0],
      ['mods/lockkeeper-routes/tables/locks.csv', 'table', 2],
    ]);
    const again = await compareFiles(install, view, known);
    again.forEach((file, i) => expect(file).toBe(first[i]));
    await expect(carryForward(INSTALL, view, first)).rejects.toMatchObject({
      ...{ code: 'merge/open', facts: { path: first[1]!.path, count: 2 } },
    });
    await expect(packCarried(install, view, first)).rejects.toMatchObject({ code: 'merge/open' });
  });

  it('is decided place by place, and goes out as a patch, as an archive, and as a release on the shelf', async () => {
    const table = (await compared()).find(({ kind }) => kind === 'table');
    const conflicts = table!.differences.filter(({ by }) => by === 'conflict');
    const decided = conflicts.map(({ path, base, ours, theirs }, i) => ({
      ...{ file: table!.path, path, base, ours, theirs },
      choice: i === 0 ? ('theirs' as const) : { value: '777' },
    }));
    await decideCarried(INSTALL, ROUTES, () => ({ decided: decided.slice(0, 1) }));
    expect(await openIn()).toBe(1);
    await decideCarried(INSTALL, ROUTES, (now) => ({ decided: [...now.decided, decided[1]!] }));
    expect(await openIn()).toBe(0);
    expect((await getInstall(INSTALL)).carries).toMatchObject([{ mod: ROUTES, decided }]);

    const [install, view, merged] = [await getInstall(INSTALL), await viewOf(), await compared()];
    const patch = await patchOf(install, view, merged);
    expect(patch).toMatch(/^\+r\d+,.*777/m);
    expect(patch).toContain(`+++ b/${table!.path}`);
    const zip = await new ZipReader(new BlobReader(await packCarried(install, view, merged))).getEntries();
    const table2 = zip.find(({ filename }) => filename === table!.path);
    if (!table2 || table2.directory) throw new Error('no table');
    expect(await table2.getData(new TextWriter())).toContain('777');
    expect(zip.map(({ filename }) => filename).toSorted()).toEqual(view.files.map(({ path }) => path).toSorted());

    started.length = 0;
    expect(await carryForward(INSTALL, view, merged)).toBe('2.4+3.1.1');
    expect(started.map(({ kind }) => kind)).toEqual(['keep-vanilla', 'shelve']);
    const mod = modById(await getCatalogue(install.game), ROUTES)!;
    const release = releaseAt(mod, '2.4+3.1.1')!;
    expect(release).toMatchObject({ builds: [TO], unofficial: 'Carried from 2.4, made for 2.9.4', brokenOn: [] });
    expect(release.note).toMatch(/^2\.4 carried from 2\.9\.4 to 3\.1\.1: \d+ changes without conflict, 2 decided\./);
    expect(release.note).toContain('as in the game');
    expect(release.note).toContain(': 777');
    const before = releaseAt(mod, '2.4')!;
    expect(release.files.map(({ path }) => path)).toEqual(before.files.map(({ path }) => path));
    expect(release.files.find(({ path }) => path === table!.path)!.sha256).not.toBe(
      before.files.find(({ path }) => path === table!.path)!.sha256,
    );
    expect((await viewOf()).carried).toEqual(['2.4+3.1.1']);
  });
});

it('mods without a conflict are carried at once, and the others say why not', async () => {
  const wanted = (await getInstall(INSTALL)).weights.map(([mod]) => mod);
  const views = await carryable(INSTALL, wanted, TO);
  expect(views.length).toBeGreaterThan(1);
  const outcomes = await carryAll(INSTALL, views);
  expect(outcomes.map(({ mod }) => mod)).toEqual(views.map(({ mod }) => mod));
  const came = new Map(outcomes.map(({ name, came: what, version }) => [name, `${what} ${version}`]));
  expect(came.get('Wharf ledger')).toBe('carried 0.6+3.1.1');
  expect(came.get('Ledger screens')).toBe('carried 0.9+3.1.1');
});

import { disk, here, INSTALL, GAME, contextOf, planNow, run, layOut } from '../testing/way';
import { BlobReader, Uint8ArrayWriter, ZipReader } from '@zip.js/zip.js';
import { beforeAll, describe, expect, it, vi } from 'vitest';
import { asBuild, asDepot, asMod, DepotIndexSchema } from '#core/builds';
import { Failure, type FailureCode } from '#core/failure';
import { bagChecksums, bagName } from '#core/keepsakes';
import { digestsInText } from '#core/lists';
import { manifestDigests } from '#core/manifest';
import { filterTable, NOBODY, STATES } from '#core/survey';
import { PLACES } from '#core/changes';
import type { Folder } from '#core/folders';
import { archivePath, treePath } from '~/folders';
import { installContext, manifestsOf } from '~/queries/install-context';
import * as choosing from '~/queries/choosing';
import { evidenceOf } from '~/queries/evidence';
import * as keepsakes from '~/queries/keepsakes';
import * as mending from '~/queries/mending';
import * as recording from '~/queries/recording';
import * as stages from '~/queries/stages';
import * as surveying from '~/queries/surveying';
import { changeInstall } from '~/commands/bring-in';
import { platformSha256 } from '~/remote/sha256';
import { getInstall, getSurvey, pastSurveys, updateInstall } from '~/store/installs';
import { listLearned, removeLearned } from '~/store/learned';
import { putOwnMods, removeOwnMod } from '~/store/own-mods';
import { catalogueOf } from '../../../core/testing/mods';
import { KINDS } from '.';
import { keepOwnBefore } from './keep-own';

beforeAll(layOut);

/** What was read without the program, which is asked for its version besides. */
const besides = (read: readonly string[]): string[] =>
  read.filter((path) => path !== treePath('t1', 'bin/ferrywake.prog'));

describe('survey', () => {
  it('finds the folder at the build that the storefront took it to, and what is not of it', async () => {
    const { likeliest, table } = (await surveying.survey(INSTALL))!;
    expect(likeliest).toBe(asBuild('3.1.1'));
    const inState = (state: (typeof STATES)[number]) => filterTable(table, { state: STATES.indexOf(state) });
    // Of the two files of the attempt to go back by hand one lies over a file of the build, the other is of none.
    expect(inState('altered')).toHaveLength(1);
    expect(inState('absent')).toHaveLength(0);
    expect(inState('true').length).toBeGreaterThan(300);
    expect([...inState('stray')].filter((i) => table.whose[i] === NOBODY)).toEqual([]);
  });

  it('that was cut off reads nothing twice when it goes on', async () => {
    let gates = 0;
    const cut = async (): Promise<void> => {
      if (++gates > 12) throw new Failure('job/worker-died');
    };
    // Files that were written a moment ago are not trusted: as far as the clock goes they could change once more.
    vi.useFakeTimers({ toFake: ['Date'], now: Date.now() + 60_000 });
    const read: string[] = [];
    const whole = here();
    disk.now = { ...whole, open: (path: string) => (read.push(path), whole.open(path)) };
    try {
      await expect((await KINDS.survey()).run(contextOf({}, 'cut', cut))).rejects.toMatchObject({
        code: 'job/worker-died',
      });
      const before = read.length;
      expect(before).toBeGreaterThan(100);
      await (await KINDS.survey()).run(contextOf({}, 'cut'));
      const hashed = besides(read);
      expect(hashed).toHaveLength(new Set(hashed).size);
      expect((await getSurvey(await getInstall(INSTALL)))!.trusted).toBe(before);

      read.length = 0;
      await run('survey', { trustEarlier: true });
      expect(besides(read)).toEqual([]);
      await here().writeWhole(treePath('t1', 'saves/voyage-1.fws'), new Uint8Array(5));
      await run('survey', { trustEarlier: true });
      expect(besides(read)).toEqual([treePath('t1', 'saves/voyage-1.fws')]);
    } finally {
      disk.now = whole;
      vi.useRealTimers();
    }
  });

  it('whose outcome cannot be stored reads nothing again once it can', async () => {
    const { put } = IDBObjectStore.prototype;
    const full = new DOMException('no room', 'QuotaExceededError');
    IDBObjectStore.prototype.put = function (...parameters) {
      if (this.name === 'surveys') throw full;
      return put.apply(this, parameters);
    };
    vi.useFakeTimers({ toFake: ['Date'], now: Date.now() + 120_000 });
    const read: string[] = [];
    const whole = here();
    disk.now = { ...whole, open: (path: string) => (read.push(path), whole.open(path)) };
    try {
      await expect((await KINDS.survey()).run(contextOf({}, 'no-room'))).rejects.toThrow('no room');
      IDBObjectStore.prototype.put = put;
      expect(read.length).toBeGreaterThan(300);
      read.length = 0;
      await (await KINDS.survey()).run(contextOf({}, 'no-room'));
      expect(besides(read)).toEqual([]);
    } finally {
      IDBObjectStore.prototype.put = put;
      disk.now = whole;
      vi.useRealTimers();
    }
  });

  it('reports a file that vanishes meanwhile, or may not be read, as itself, and the rest goes on', async () => {
    const whole = here();
    const refusals = new Map<string, FailureCode>([
      [treePath('t1', 'saves/voyage-2.fws'), 'folder/not-found'],
      [treePath('t1', 'saves/voyage-3.fws'), 'folder/no-permission'],
    ]);
    const open: Folder['open'] = async (path) => {
      const code = refusals.get(path);
      if (code) throw new Failure(code, { path });
      return whole.open(path);
    };
    disk.now = { ...whole, open };
    await run('survey').finally(() => (disk.now = whole));
    const { unreadable, paths } = (await getSurvey(await getInstall(INSTALL)))!;
    expect(unreadable.map(({ path, failure }) => [path, failure.code]).sort()).toEqual([
      ['saves/voyage-2.fws', 'folder/not-found'],
      ['saves/voyage-3.fws', 'folder/no-permission'],
    ]);
    expect(paths).toContain('saves/voyage-4.fws');
    expect(paths).not.toContain('saves/voyage-2.fws');
    await run('survey');
    expect((await getSurvey(await getInstall(INSTALL)))!.unreadable).toEqual([]);
  });

  it('stops where the folder itself cannot be read any more, and keeps what it knew', async () => {
    const before = (await getSurvey(await getInstall(INSTALL)))!;
    const whole = here();
    let lists = 0;
    const refuse = (path: string): never => {
      throw new Failure('folder/no-permission', { path });
    };
    disk.now = {
      ...whole,
      open: async (path: string) => refuse(path),
      list: (path?: string) => (lists++ === 0 ? whole.list(path) : refuse('')),
    };
    const stopped = run('survey').finally(() => (disk.now = whole));
    await expect(stopped).rejects.toMatchObject({ code: 'folder/no-permission' });
    expect((await getSurvey(await getInstall(INSTALL)))!.at).toBe(before.at);
  });

  it('leaves no half keepsake on a full disk', async () => {
    const whole = here();
    const count = async (): Promise<number> => (await keepsakes.keepsakes(INSTALL)).keepsakes.length;
    const before = await count();
    const full = async (path: string) => Promise.reject(new Failure('folder/full', { path }));
    disk.now = { ...whole, copy: (_from: string, to: string) => full(to) };
    const cut = contextOf({}, 'cut-keepsake');
    await expect((await KINDS.keepsake()).run(cut)).rejects.toMatchObject({ code: 'folder/full' });
    disk.now = whole;
    expect(await count()).toBe(before);
    await run('keepsake');
    expect(await count()).toBe(before + 1);
    await (
      await KINDS.keepsake()
    ).undo!(cut);
    await run('drop-keepsakes', { keepsakes: (await keepsakes.keepsakes(INSTALL)).keepsakes.map(({ id }) => id) });
    expect(await whole.list(PLACES.contents)).toEqual([]);
  });

  it('a keepsake goes out as a bag that any reader finds whole, and comes back as what it was', async () => {
    const id = await run('keepsake');
    const kept = (await keepsakes.keepsakeView(INSTALL, id)).keepsake;
    expect(kept.mods!.length).toBeGreaterThan(20);
    await run('pack-keepsake', { keepsake: id, at: kept.at });
    const name = bagName(GAME, new Date(kept.at).toISOString());
    const archive = await here().read(archivePath(name));
    const entries = await new ZipReader(new BlobReader(new Blob([archive]))).getEntries();
    const files = new Map<string, Uint8Array>();
    for (const entry of entries) {
      if (!entry.directory) files.set(entry.filename, await entry.getData(new Uint8ArrayWriter()));
    }
    const text = (path: string): string => new TextDecoder().decode(files.get(`${name}/${path}`));
    const manifest = bagChecksums(text('manifest-sha256.txt'));
    expect(manifest.size).toBeGreaterThan(8);
    expect([...files.keys()].filter((path) => path.startsWith(`${name}/data/`))).toHaveLength(manifest.size);
    for (const [path, digest] of manifest) {
      expect(await platformSha256(files.get(`${name}/${path}`) as Uint8Array<ArrayBuffer>)).toBe(digest);
      const own = path.replace(/^data\//, '');
      expect(files.get(`${name}/${path}`)!.length).toBe((await here().stat(treePath('t1', own)))!.size);
    }
    for (const [path, digest] of bagChecksums(text('tagmanifest-sha256.txt'))) {
      expect(await platformSha256(text(path))).toBe(digest);
    }
    expect(text('bagit.txt')).toBe('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n');

    await run('drop-keepsakes', { keepsakes: [id] });
    const from = new File([archive], `${name}.zip`);
    const look = await contextOf({}).pool.run({ do: 'look-into-bag', from });
    const contents = look.files.map(({ path: as, key, modified }) => {
      const { kind, path } = kept.files.find((file) => file.key === key && as === file.path)!;
      return { as, place: 'game', path, kind, key, modified };
    });
    const again = await run('bring-keepsake', { from, files: contents, facts: {} });
    const { rows, since } = await keepsakes.keepsakeView(INSTALL, again);
    expect([rows.length, since.length, rows.every(({ does }) => does === 'nothing')]).toEqual([manifest.size, 0, true]);
    await run('drop-keepsakes', { keepsakes: [again] });
  });

  it('a keepsake is put back over newer saves, which are kept before, and that is taken back', async () => {
    const at = (path: string): string => treePath('t1', `saves/${path}`);
    const textAt = async (path: string) =>
      (
        await here()
          .read(at(path))
          .catch(() => undefined)
      )?.join();
    const older = await textAt('voyage-1.fws');
    const id = await run('keepsake');
    await here().writeWhole(at('voyage-1.fws'), new Uint8Array([7, 7]));
    await here().remove(at('voyage-2.fws'));
    await here().writeWhole(at('new.fws'), new Uint8Array([1]));
    await here().setReadOnly(at('voyage-1.fws'), true);
    const { rows, since } = await keepsakes.keepsakeView(INSTALL, id);
    expect(rows.filter(({ does }) => does !== 'nothing').map(({ path, does }) => [path, does])).toEqual([
      ['saves/voyage-1.fws', 'replaces'],
      ['saves/voyage-2.fws', 'returns'],
    ]);
    expect(since.map(({ path }) => path)).toEqual(['saves/new.fws']);
    await run('survey');

    const set = await run('put-back', { keepsake: id, withoutSince: true });
    expect([await textAt('voyage-1.fws'), await textAt('new.fws')]).toEqual([older, undefined]);
    expect(await here().stat(at('voyage-2.fws'))).toBeDefined();
    expect(await here().isReadOnly(at('voyage-1.fws'))).toBe(true);
    const [before] = (await keepsakes.keepsakes(INSTALL)).keepsakes;
    expect(before).toMatchObject({ why: 'change', what: 'put-back' });

    await run('take-back', { sets: [set], way: 'back' });
    expect([await textAt('voyage-1.fws'), await textAt('new.fws')]).toEqual(['7,7', '1']);
    expect(await here().stat(at('voyage-2.fws'))).toBeUndefined();
    // What the change before kept is there too, whatever becomes of the change.
    const was = await keepsakes.keepsakeView(INSTALL, before!.id);
    expect(was.rows.every(({ does }) => does === 'nothing') && was.since.length === 0).toBe(true);
    await here().setReadOnly(at('voyage-1.fws'), false);
    const last = await run('put-back', { keepsake: id, withoutSince: true });
    await run('survey');
    for (const one of [set, last]) await run('let-go', { set: one });
    await run('drop-keepsakes', { keepsakes: (await keepsakes.keepsakes(INSTALL)).keepsakes.map((one) => one.id) });
  });

  it('tells and puts back of files that no rule names too what lies there now', async () => {
    const path = 'mods/nobody/thing.dat';
    const at = treePath('t1', path);
    await here().writeWhole(at, new Uint8Array([1]));
    await run('survey');
    const also = await stages.alongNow(INSTALL);
    const kept = (await keepOwnBefore(contextOf({}), 'clean', { also }))!;
    const does = async () =>
      (await keepsakes.keepsakeView(INSTALL, kept.id)).rows.find((row) => row.path === path)!.does;
    expect(await does()).toBe('nothing');
    await here().writeWhole(at, new Uint8Array([2, 2]));
    expect(await does()).toBe('replaces');
    const set = await run('put-back', { keepsake: kept.id, withoutSince: false });
    expect([await does(), await here().read(at)]).toEqual(['nothing', new Uint8Array([1])]);
    // What was replaced lies in the keepsake that was made before.
    const [before] = (await keepsakes.keepsakes(INSTALL)).keepsakes;
    const { rows } = await keepsakes.keepsakeView(INSTALL, before!.id);
    expect(rows.find((row) => row.path === path)?.does).toBe('replaces');
    await here().remove(at);
    expect(await does()).toBe('returns');
    await run('let-go', { set });
    await run('drop-keepsakes', { keepsakes: (await keepsakes.keepsakes(INSTALL)).keepsakes.map((one) => one.id) });
    await run('survey');
  });

  it('looks at a folder while the services cannot be reached, by what they said before', async () => {
    const before = (await getSurvey(await getInstall(INSTALL)))!;
    const { fetch } = globalThis;
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('offline')));
    await run('survey').finally(() => vi.stubGlobal('fetch', fetch));
    expect((await getSurvey(await getInstall(INSTALL)))!.keys).toEqual(before.keys);
  });
});

describe('what Survey tells', () => {
  it('of a folder that was recorded as a build: that it is this one, a build like any other, until it is forgotten', async () => {
    const { found } = await installContext(INSTALL);
    const plan = await recording.recordPlan(INSTALL);
    const sum = (some: readonly { files: number }[]) => some.reduce((all, { files }) => all + files, 0);
    expect(sum(plan.folders) + sum(plan.left)).toBe(found.length);
    expect(new Set(plan.left.map(({ why }) => why))).toEqual(
      new Set(['saves', 'settings', 'content', 'presets', 'mods']),
    );
    const [first, ...others] = plan.folders.slice(0, -1).map(({ name }) => name);
    const parts = [
      { depot: 'Möwe 1', folders: [first!] },
      { depot: 'The rest', folders: others },
    ];
    await run('record-build', { label: 'Night build', date: '2026-07-01', branch: 'own', parts });
    const after = await installContext(INSTALL);
    const { builds, branches, manifests } = after.index;
    expect(builds.map(({ label }) => label).slice(-3)).toEqual(['3.1.1', 'Night build', '3.2.0']);
    expect(branches).toContainEqual({ name: 'own', build: 'Night build', needsCode: false });
    const entries = manifests.filter(({ build }) => build === 'Night build');
    expect(entries.map(({ depot, href }) => [depot, href])).toEqual([
      ['mowe-1', ''],
      ['the-rest', ''],
    ]);
    expect(sum(entries)).toBe(sum(plan.folders.slice(0, -1)));
    const tree = after.trees.get(asBuild('Night build'))!;
    for (const { path, sha256 } of tree.filter(({ pieces }) => pieces.length > 1))
      expect(sha256, path).toBe(await platformSha256(await here().read(treePath('t1', path))));
    // Nothing has to come for it, and it can be decided on.
    const { choices } = await choosing.choose(INSTALL);
    expect(choices.some(({ build }) => build === 'Night build')).toBe(true);
    const target = { build: asBuild('Night build'), releases: [], decidedBy: 'choice', at: 0 } as const;
    expect((await stages.fetchView(INSTALL, target))!.items.filter(({ source }) => source.how === 'fetch')).toEqual([]);
    await expect(run('record-build', { label: 'Night build', date: '2026-07-01' })).rejects.toMatchObject({
      code: 'source/exists',
    });

    // What is another by now is not recorded as what was surveyed.
    const whole = here();
    disk.now = {
      ...whole,
      list: async (...of: Parameters<Folder['list']>) =>
        (await whole.list(...of)).map((one) => (one.path.endsWith('.prog') ? { ...one, modified: 1 } : one)),
    };
    const again = run('record-build', { label: 'Day build', date: '2026-07-01' });
    await expect(again).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path: 'bin/ferrywake.prog' },
    });
    disk.now = whole;

    // As a source it is what it was recorded from.
    const texts = await recording.recordedSource(GAME);
    const index = DepotIndexSchema.parse(JSON.parse(texts.get('index.json')!));
    expect(index.builds.map(({ label }) => label)).toEqual(['Night build']);
    expect(index.manifests.map(({ sha256 }) => sha256)).toEqual(entries.map(({ sha256 }) => sha256));
    for (const { href, sha256, filesHref } of index.manifests)
      expect([filesHref, await platformSha256(texts.get(href)!)]).toEqual(['', sha256]);

    await recording.declare(GAME, [asBuild('3.0.9'), asBuild('3.1.1')]);
    expect((await installContext(INSTALL)).index.builds.map(({ label }) => label).slice(4, 7)).toEqual([
      '3.0.0',
      '3.0.2',
      '3.0.9',
    ]);
    expect(await recording.recorded(GAME)).toMatchObject([
      { label: '3.0.9', files: undefined },
      { label: 'Night build', files: sum(entries) },
    ]);
    await recording.moveRecorded(GAME, 'Night build', '2026-07-20');
    expect((await installContext(INSTALL)).index.builds.at(-1)!.label).toBe('Night build');
    for (const label of ['Night build', '3.0.9']) await recording.forgetRecorded(GAME, label);
    expect(await recording.recorded(GAME)).toEqual([]);
    expect((await stages.frame(INSTALL)).likeliest).toBe('3.1.1');
  });

  it('of one file: what it is, what it should be, and which builds have it', async () => {
    const { table } = (await surveying.survey(INSTALL))!;
    const path = table.paths[filterTable(table, { state: STATES.indexOf('altered') })[0]!]!;
    const file = (await surveying.surveyedFile(INSTALL, path))!;
    expect(file.name).toMatchObject({ kind: 'leftover' });
    expect(file.builds).toContain('2.9.4');
    expect(file.found).not.toBe(file.expected);
    expect(file.found).toBe(await platformSha256(await here().read(treePath('t1', path))));
    expect(await surveying.surveyedFile(INSTALL, 'nowhere')).toBeUndefined();
  });

  it('of two surveys: the files that are not as they were', async () => {
    const [before] = await pastSurveys(INSTALL);
    const place = treePath('t1', 'saves/voyage-5.fws');
    const bytes = await here().read(place);
    await here().move(place, treePath('t1', 'saves/renamed.fws'));
    await run('survey');
    const view = (await surveying.difference(INSTALL, before!))!;
    expect([view.paths, view.changes, view.to]).toEqual([['saves/voyage-5.fws'], ['moved'], ['saves/renamed.fws']]);
    await here().remove(treePath('t1', 'saves/renamed.fws'));
    await here().writeWhole(place, bytes);
    await run('survey');
    expect(await surveying.difference(INSTALL, 1)).toBeUndefined();
  });

  it.each(['sha-1', 'md5', 'crc-32'] as const)('of a list of %s: the builds’ contents that it names', async (kind) => {
    const { index, depots, trees } = await installContext(INSTALL);
    const [manifest] = (await manifestsOf(index, depots, asBuild('2.9.4')))!;
    const digests = manifestDigests(manifest!, kind)!.slice(0, 20);
    const text = digests.map((digest, i) => `${digest}  ${manifest!.paths[i]}\n`).join('');
    const { paths, keys } = await surveying.listed(INSTALL, new TextEncoder().encode(text), 'old.sums');
    const tree = new Map(trees.get(asBuild('2.9.4'))!.map(({ path, key, depot }) => [path, { key, depot }]));
    expect(paths).toHaveLength(20);
    // A file that a later depot covers is another one in the laid tree.
    paths.forEach((path, i) => tree.get(path)!.depot === manifest!.depot && expect(keys[i]).toBe(tree.get(path)!.key));
  });

  it('of a build as a Metalink document: what comes back when it is read', async () => {
    const { trees } = await installContext(INSTALL);
    const text = await surveying.metalink(INSTALL, asBuild('3.0.2'), 'http://127.0.0.1:1');
    const { paths, keys, sizes } = await surveying.listed(INSTALL, new TextEncoder().encode(text), '3.0.2.meta4');
    const tree = trees.get(asBuild('3.0.2'))!;
    expect(paths).toEqual(tree.map(({ path }) => path));
    expect(keys).toEqual(tree.map(({ key }) => key));
    expect([...sizes]).toEqual(tree.map(({ size }) => size));
  });

  it('of checksums in a log: files of builds, of mods, of records, or nobody’s', async () => {
    const { trees, catalogue } = await installContext(INSTALL);
    const program = trees.get(asBuild('3.1.1'))!.find(({ path }) => path === 'bin/ferrywake.prog')!;
    const [file] = catalogue.mods[0]!.releases[0]!.files;
    const unknown = 'ab'.repeat(32);
    await surveying.recordDigests(GAME, '3.1.1 of the disc', 'a log', [
      { path: 'bin/ferrywake.prog', digest: 'cd'.repeat(32) },
    ]);
    const { digests } = digestsInText([program.sha256, file!.sha256, 'cd'.repeat(32), unknown].join('\n'));
    const known = await surveying.recogniseDigests(INSTALL, digests);
    expect(known.map((some) => some.map(({ kind }) => kind))).toEqual([['build'], ['mod'], ['learned'], []]);
    expect(known[0]![0]).toMatchObject({ path: 'bin/ferrywake.prog', builds: ['3.1.1'] });
    for (const { id } of await listLearned(GAME)) await removeLearned(id);
  });
});

describe('what belongs in a folder', () => {
  it('is not changed, nor its name, where the manifests for it cannot be had', async () => {
    const before = await getInstall(INSTALL);
    const { fetch } = globalThis;
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('offline')));
    const ownership = { ...before.ownership, addOns: [asDepot('winter-ice'), asDepot('salt-coast')] };
    const changed = changeInstall(INSTALL, { title: 'Another', ownership });
    await expect(changed.finally(() => vi.stubGlobal('fetch', fetch))).rejects.toMatchObject({
      code: 'service/unreachable',
    });
    expect(await getInstall(INSTALL)).toEqual(before);
  });

  it('decides which depots count, from the change on', async () => {
    const { title, ownership } = await getInstall(INSTALL);
    await changeInstall(INSTALL, { title, ownership: { ...ownership, addOns: [] } });
    expect((await installContext(INSTALL)).depots.map(({ id }) => id)).not.toContain('winter-ice');
    await changeInstall(INSTALL, { title, ownership });
    expect((await installContext(INSTALL)).depots.map(({ id }) => id)).toContain('winter-ice');
  });
});

it('a pinned mod is proposed at its release or not at all, in Choose and in Mend', async () => {
  const [mod, release] = [asMod('crew-rosters'), '5.1'];
  await updateInstall(INSTALL, (now) => ({ ...now, pins: [[mod, release]] }));
  const { choices } = await choosing.choose(INSTALL);
  const chosen = choices.map(({ runs }) => runs.get(mod)).filter((version) => version !== undefined);
  expect([...new Set(chosen)]).toEqual([release]);
  const { choice } = (await mending.mend(INSTALL, asBuild('3.1.0')))!;
  expect([undefined, release]).toContain(choice.runs.get(mod));
  await updateInstall(INSTALL, (now) => ({ ...now, pins: [] }));
  expect((await mending.mend(INSTALL, asBuild('3.1.0')))!.choice.runs.get(mod)).toBe('6.0');
});

describe('choosing', () => {
  const runningAt = async (label: string): Promise<number> =>
    (await choosing.choose(INSTALL)).choices.find(({ build }) => build === asBuild(label))!.running;

  it('works out anew what a changed wish changes, and nothing where nothing changed', async () => {
    const of = async () => {
      const here = await installContext(INSTALL);
      return choosing.choicesOf(here, await evidenceOf(here));
    };
    const before = await of();
    const { weights } = await getInstall(INSTALL);
    expect(await of()).toBe(before);
    await updateInstall(INSTALL, (now) => ({ ...now, weights: now.weights.slice(1) }));
    const without = await of();
    expect(without).not.toBe(before);
    expect(without[0]!.running).toBeLessThanOrEqual(before[0]!.running);
    await updateInstall(INSTALL, (now) => ({ ...now, weights }));
    expect(await of()).toEqual(before);
  });

  it('counts weaker evidence where that is wanted', async () => {
    const stated = await runningAt('3.2.0');
    await updateInstall(INSTALL, (now) => ({ ...now, evidence: 'likely' }));
    expect(await runningAt('3.2.0')).toBeGreaterThan(stated);
    await updateInstall(INSTALL, (now) => ({ ...now, evidence: 'proven' }));
    expect(await runningAt('3.2.0')).toBe(0);
    await updateInstall(INSTALL, ({ evidence: _, ...now }) => now);
    expect(await runningAt('3.2.0')).toBe(stated);
  });

  it('says why not all must-haves run, and records a decision with its reasons', async () => {
    expect(await choosing.whyNot(INSTALL, asBuild('2.9.4'))).toBeUndefined();
    const why = (await choosing.whyNot(INSTALL, asBuild('3.1.0')))!;
    expect(why.fewest).toBe(true);
    expect(why.facts[0]).toMatchObject({ kind: 'wanted' });
    const { decision, releases } = await choosing.decide(INSTALL, asBuild('3.1.0'));
    const { choices } = await choosing.choose(INSTALL);
    const choice = choices.find(({ build }) => build === asBuild('3.1.0'))!;
    expect(new Map(releases)).toEqual(choice.runs);
    expect(decision).toMatchObject({ running: choice.running });
  });

  it('names a mod of one’s own whose files lie nowhere any more, and asks no service for them', async () => {
    const own = asMod('keel-noise');
    const file = { path: 'mods/keel-noise/hum.snd', size: 3, sha256: 'a'.repeat(64), href: '' };
    const release = { version: '0.3', builds: [asBuild('2.9.4')], files: [file] };
    const [mod] = catalogueOf({ [own]: [release] }).mods;
    await putOwnMods([{ ...mod!, game: GAME, from: 'by hand', at: Date.now() }]);
    const { target } = await getInstall(INSTALL);
    const releases = [...target!.releases, [own, '0.3'] as const];
    await updateInstall(INSTALL, (now) => ({ ...now, target: { ...target!, releases } }));
    const view = (await stages.fetchView(INSTALL))!;
    expect(view.withoutFiles).toEqual([{ name: own, release: '0.3', why: 'gone' }]);
    expect(view.items.map(({ path }) => path)).not.toContain(file.path);
    expect((await planNow()).missing).toContain(file.path);
    await updateInstall(INSTALL, (now) => ({ ...now, target: target! }));
    await removeOwnMod(GAME, own);
  });
});

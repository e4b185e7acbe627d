import 'fake-indexeddb/auto';
import * as zstd from '@bokuweb/zstd-wasm';
import { BlobReader, Uint8ArrayWriter, ZipReader } from '@zip.js/zip.js';
import { beforeAll, describe, expect, it, vi } from 'vitest';
import { roomNeeded } from '#core/assemble';
import { asBuild, asDepot, asMod, DepotIndexSchema } from '#core/builds';
import { Failure, type FailureCode, isFailure } from '#core/failure';
import {
  HOLD_SHEET_VERSION,
  type HoldSheet,
  HoldSheetSchema,
  manifestInArchive,
  parseHoldSheet,
  SHEET_FILES,
  SHEET_TEXTS,
  sheetFacts,
  shelfOffer,
} from '#core/hold';
import { CatalogueSchema } from '#core/mods';
import { bagChecksums, bagName } from '#core/keepsakes';
import { ALL_SHARED } from '#core/profiles';
import { digestsInText } from '#core/lists';
import { manifestDigests } from '#core/manifest';
import { type InstallRecord, PanelStateSchema, RecordSchema } from '#core/outside';
import { filterTable, NOBODY, STATES } from '#core/survey';
import { listJournals, PLACES, readJournal } from '#core/changes';
import { arrivals, contentName, contentPath } from '#core/contents';
import { contentKey, PIECE_SIZE } from '#core/digest';
import type { Folder } from '#core/folders';
import { installDisk, withPointer } from '~/folders';
import { changeDisk } from '~/workers/change-task';
import { archivePath, readerAt, treePath } from '~/folders';
import { memoryFolder } from '#core/folders';
import { installContext, manifestsOf, treeOfTarget } from '~/queries/install-context';
import * as arrived from '~/queries/arrived';
import * as choosing from '~/queries/choosing';
import { evidenceOf } from '~/queries/evidence';
import * as history from '~/queries/history';
import * as keepsakes from '~/queries/keepsakes';
import * as losses from '~/queries/losses';
import * as mending from '~/queries/mending';
import * as misplaced from '~/queries/misplaced';
import * as order from '~/queries/order';
import * as profiles from '~/queries/profiles';
import * as recording from '~/queries/recording';
import * as shelf from '~/queries/shelf';
import * as shelving from '~/queries/shelving';
import * as sheetParts from '~/queries/sheet-parts';
import * as stages from '~/queries/stages';
import * as surveying from '~/queries/surveying';
import * as telling from '~/queries/telling';
import { changeInstall } from '~/commands/bring-in';
import { importProfile, makeProfile, profileText } from '~/commands/profiles';
import { getPack, getStream } from '~/remote/http';
import { streamSha256 } from '~/remote/stream-sha256';
import { type ByteRange, wireCost } from '#core/fetch';
import { unpacking } from '#core/bundles';
import { text } from '~/places';
import { firstInstall, signIn, storefrontLooks } from '~/remote/services';
import { askSource } from '~/remote/sources';
import { platformSha256 } from '~/remote/sha256';
import { addInstall, getInstall, getSurvey, pastSurveys, updateInstall } from '~/store/installs';
import { listLearned, removeLearned } from '~/store/learned';
import { getHold } from '~/store/holds';
import { putJob } from '~/store/jobs';
import { listProfiles, removeProfile } from '~/store/profile-records';
import { putOwnMods, removeOwnMod } from '~/store/own-mods';
import {
  BroughtReportSchema,
  FetchReportSchema,
  FIRST_PROFILE,
  type Install,
  type JobKind,
  type Target,
} from '~/store/records';
import { handOver } from '~/places/handed';
import { addGame, getGame, SERVICE_SOURCE, updateGame } from '~/store/games';
import { getCatalogue, getSession, putSession, putTold } from '~/store/told';
import type { Until } from '#core/mend';
import { readModList, writeModList } from '#core/mod-list';
import { catalogueOf } from '../../../core/testing/mods';
import { failureResponse } from '../../../server/http/failures';
import { standIns } from '../../../server/stand-ins/stand-ins';
import type { JobContext } from '../job-context';
import type { DiskPool } from '~/workers';
import { takeIn } from '~/workers/arrival-tasks';
import { packBag } from '~/workers/bag-task';
import { lookAtFolder } from '~/workers/look-tasks';
import { lookIntoBag, unpackBag } from '~/workers/unbag-task';
import { KINDS } from '.';

/*
 * The kinds of jobs on a disk in memory, against the stand-ins themselves: what they do, and what is left when they are
 * cut off anywhere.
 */

const disk = vi.hoisted(() => {
  // The whole world, and fewer of the files that are alike.
  process.env['REGRESSUM_DEMO_FILES'] = '0.3';
  return { now: undefined as unknown };
});
const here = (): Folder => disk.now as Folder;

vi.mock('~/folders/browser-disk', () => ({ browserDisk: () => disk.now }));
vi.mock('~/folders/picked-disk', async () => {
  const { withPointer } = await import('~/folders/install-disk');
  return { pickedDisk: ({ tree }: { tree: string }) => withPointer(here(), tree) };
});
// A handle is no more than a name here, and its permission given.
vi.mock('~/places/can-change', () => ({
  canChange: async () => true,
  canRead: async () => true,
  askFor: async () => true,
}));
vi.mock('~/queries/client', () => ({
  query: (question: 'learn', ...parameters: [string]) =>
    ({
      ...arrived,
      ...recording,
      ...stages,
      ...surveying,
      ...history,
      ...keepsakes,
      ...losses,
      ...sheetParts,
      ...shelving,
      ...profiles,
      ...choosing,
      ...telling,
    })[question](...parameters),
}));

const INSTALL = 'demo';
const GAME = 'ferrywake';
const NO_PROGRESS = { phase: '', files: 0, filesTotal: 0, bytes: 0, bytesTotal: 0 };
const COOKIE = 'regressum-world=00000000-0000-4000-8000-00000000abcd';

vi.stubGlobal('fetch', (url: string, init: RequestInit = {}) => {
  const [, , service, ...rest] = url.split('/');
  const request = new Request(`http://127.0.0.1${url}`, init);
  // A request of the platform's own carries cookies by itself; one that is made by hand may not set them.
  request.headers.set('Cookie', COOKIE);
  return standIns(request, service!, decodeURIComponent(rest.join('/'))).catch(failureResponse);
});

/** Where the demo's storefront keeps its record. */
const RECORD_PATH = 'quayline/record.json';
const readRecord = async (disk: Folder): Promise<InstallRecord> =>
  RecordSchema.parse(JSON.parse(new TextDecoder().decode(await disk.read(RECORD_PATH))));

let jobs = 0;
/** What jobs found out, by their ids. */
// The stand-in, which compresses, has made the library ready: to do so again would take its memory away from under it.
const unpack = unpacking(async () => ({ ...zstd, init: async () => undefined }));
const outcomes = new Map<string, unknown>();

function contextOf(params: unknown, id = `job-${++jobs}`, gate = async (): Promise<void> => undefined): JobContext {
  const { signal } = new AbortController();
  const run: DiskPool['run'] = async (task, { progress = () => undefined } = {}) => {
    const ports = { sha256: platformSha256, progress, signal };
    const wait = async (): Promise<void> => undefined;
    const perform = () => {
      if (task.do === 'hash' || task.do === 'list') {
        const reader = task.place.kind === 'handed' ? readerAt(task.place) : here();
        return lookAtFolder(task, { ...ports, reader });
      }
      if (task.do === 'bag') return packBag(task, here(), { ...ports, folder: here() });
      if (task.do === 'look-into-bag') return lookIntoBag(task, ports);
      if (task.do === 'unpack') return unpackBag(task, { ...ports, to: arrivals(here()) }).then(() => ({}));
      if (task.do === 'change') return changeDisk(task, withPointer(here(), task.tree), ports).then(() => ({}));
      if (
        task.do === 'backup' ||
        task.do === 'restore' ||
        task.do === 'merge' ||
        task.do === 'read' ||
        task.do === 'look-into-archive' ||
        task.do === 'digest-in-archive'
      )
        throw new Error(`${task.do} is no part of a job`);
      const folder = arrivals(here());
      const from = task.do === 'fetch' && task.from ? readerAt(task.from) : folder;
      const token = task.do === 'fetch' ? task.token : undefined;
      const open = (href: string, range: ByteRange | undefined) => getStream(href, { range, token, signal });
      return takeIn(task, { ...ports, folder, from, getPack, open, unpack, newHash: streamSha256, wait, now: () => 0 });
    };
    return (await perform()) as never;
  };
  const nothing = (): void => undefined;
  return {
    id,
    install: INSTALL,
    params,
    left: undefined,
    signal,
    pool: { run } as DiskPool,
    gate,
    wait: async () => undefined,
    pausing: async (work) => {
      await gate();
      return work(signal);
    },
    phase: nothing,
    add: nothing,
    tell: (outcome) => void outcomes.set(id, outcome),
    then: nothing,
  };
}

const targetNow = async (): Promise<{ target: Target }> => ({ target: (await getInstall(INSTALL)).target! });
const planNow = async () => stages.plan(INSTALL, (await targetNow()).target);

const noteJob = (kind: JobKind, params: unknown, id: string, state: 'done'): Promise<void> =>
  putJob({ id, install: INSTALL, kind, params, startedAt: 0, endedAt: Date.now(), progress: NO_PROGRESS, state });

/** Runs a job to its end, as the center for jobs does. @returns its id */
async function run(kind: JobKind, params: unknown = {}): Promise<string> {
  const context = contextOf(params);
  try {
    await (await KINDS[kind]()).run(context);
  } finally {
    await noteJob(kind, params, context.id, 'done');
  }
  return context.id;
}

/** The files of a folder with their bytes, to go back to. */
type Image = ReadonlyMap<string, Uint8Array<ArrayBuffer>>;

async function imageOf(folder: Folder): Promise<Image> {
  const image = new Map<string, Uint8Array<ArrayBuffer>>();
  for (const { path } of await folder.list()) image.set(path, await folder.read(path));
  return image;
}

async function folderFrom(image: Image): Promise<Folder> {
  const folder = memoryFolder();
  for (const [path, bytes] of image) await folder.writeWhole(path, bytes);
  return folder;
}

const POWER_WENT = new Failure('folder/failed', { message: 'the power went' });

/** A disk that stops taking changes after some of them, as when the power goes. */
function failingAfter(changes: number, inner: Folder, failure: Failure = POWER_WENT): Folder {
  let left = changes;
  const counted = <A extends unknown[]>(change: (...parameters: A) => Promise<void>) => {
    return async (...parameters: A): Promise<void> => {
      if (left-- <= 0) throw failure;
      await change(...parameters);
    };
  };
  return {
    ...inner,
    writeWhole: counted(inner.writeWhole),
    writeAt: counted(inner.writeAt),
    move: counted(inner.move),
    copy: counted(inner.copy),
    setReadOnly: counted(inner.setReadOnly),
    remove: counted(inner.remove),
  };
}

/** Paths below a folder that two images do not both have, or with other bytes. */
function differences(a: Image, b: Image, folder = ''): string[] {
  const paths = new Set([...a.keys(), ...b.keys()].filter((path) => path.startsWith(folder)));
  // Said by Buffer: a test library compares byte by byte, which takes minutes for a tree.
  return [...paths].filter((path) => !(a.has(path) && b.has(path) && Buffer.from(a.get(path)!).equals(b.get(path)!)));
}

/** Where a file of the game lies now. */
const gameFile = async (path: string) => treePath((await getInstall(INSTALL)).tree, path);

/** A sheet of what lies in the folder, as far as holding cares. */
async function laidSheet(): Promise<HoldSheet> {
  const here = await installContext(INSTALL);
  const { build, releases } = here.install.target!;
  const { ownership, weights } = here.install;
  return HoldSheetSchema.parse({
    ...{ format: 'regressum-hold-sheet', version: HOLD_SHEET_VERSION, heldAt: new Date(0).toISOString() },
    game: { id: here.index.game.id, title: here.index.game.title },
    ...{ build, ownership, weights: Object.fromEntries(weights) },
    ...(await sheetFacts(
      { build, ownership, releases },
      here,
      (await treeOfTarget(here, here.install.target!))!,
      platformSha256,
    )),
    means: ['update-setting', 'record-lock'],
  });
}

let ready: { image: Image; install: Install };

beforeAll(async () => {
  disk.now = memoryFolder();
  const { title, folder, ownership, weights, recordPath } = await firstInstall();
  const at = Date.now();
  const told = await askSource(SERVICE_SOURCE, { index: undefined, catalogue: undefined });
  const { game } = told.index!.value;
  expect(game.id).toBe(GAME);
  await addGame({ ...game, sources: [SERVICE_SOURCE] });
  await putTold(GAME, SERVICE_SOURCE.id, told);
  await addInstall({
    ...{ id: INSTALL, game: GAME, title, folder, tree: 't1', profile: 'first', ownership, weights, arrived: false },
    place: { kind: 'browser-disk' },
    record: { kind: 'disk', path: recordPath },
    changedAt: at,
  });
  await run('seed');
  await run('survey');
  const { choices, recommended } = await choosing.choose(INSTALL);
  const runs = choices.find(({ build }) => build === recommended)!.runs;
  await updateInstall(INSTALL, (now) => ({
    ...now,
    target: { build: recommended!, releases: [...runs], decidedBy: 'choice', at },
  }));
}, 120_000);

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

describe('fetch', () => {
  it('asks to sign in before it asks for anything of a depot', async () => {
    expect(await getSession(GAME)).toBeUndefined();
    const refused = await run('fetch', await targetNow()).catch((error: unknown) => error);
    expect(isFailure(refused, 'service/sign-in-needed')).toBe(true);
    expect(await here().list('contents')).toEqual([]);
  });

  it('goes on where it was cut off, and fetches nothing twice', async () => {
    const account = { name: 'ferryhand', passphrase: 'lantern-over-water' };
    await signIn(account);
    const panel = await fetch('/stand-ins/panel/state');
    const { oneTimeCode } = PanelStateSchema.parse(await panel.json());
    const answer = await signIn({ ...account, code: oneTimeCode! });
    if (answer.step !== 'signed-in') throw new Error('not signed in');
    await putSession(GAME, { token: answer.token, account: answer.name, branches: answer.branches });

    const whole = here();
    disk.now = failingAfter(100, whole);
    await expect(run('fetch', await targetNow())).rejects.toThrow();
    const arrived = await whole.list('contents');
    expect(arrived.length).toBeGreaterThan(0);
    disk.now = whole;
    const { items } = (await stages.fetchView(INSTALL))!;
    const stored = items.flatMap(({ source }) => (source.how === 'stored' ? [source.path] : []));
    expect(new Set(stored)).toEqual(new Set(arrived.map(({ path }) => path)));
    await run('fetch', await targetNow());
    expect((await planNow()).missing).toEqual([]);
    for (const { path } of arrived)
      expect(await whole.stat(path), path).toMatchObject(arrived.find((a) => a.path === path)!);
    const install = await getInstall(INSTALL);
    // The player's files are kept, so that no change keeps them once more.
    await run('keepsake');
    ready = { image: await imageOf(whole), install };
  }, 60_000);

  it('takes the bytes and requests that were told before it', async () => {
    // As if nothing had been fetched.
    const bare = [...ready.image].filter(([path]) => !/^(contents|references)\//.test(path));
    disk.now = await folderFrom(new Map(bare));
    await noteJob('fetch', {}, `noted-${++jobs}`, 'done');
    const { items, frames, room } = (await stages.fetchView(INSTALL))!;
    expect(room).toBe(Math.min(...(await stages.assemble(INSTALL))!.ways.slice(0, 2).map(roomNeeded)));
    const report = FetchReportSchema.parse(outcomes.get(await run('fetch', await targetNow())));
    const cost = wireCost(items, frames);
    for (const [told, was] of [
      [cost.plain + cost.compressed, report.wireBytes],
      [cost.requests, report.requests],
    ] as const)
      expect(Math.abs(told - was) / was, `${told} told, ${was} taken`).toBeLessThan(0.02);
  }, 60_000);
});

describe('a folder of depots', () => {
  it('is recognised by its contents, and what the target wants of it comes, checked, into the store', async () => {
    const whole = ready.image;
    const { items, lines } = (await stages.fetchView(INSTALL))!;
    expect(lines.every(({ lacking }) => lacking.files === 0)).toBe(true);
    const [{ depot, line, files }] = lines as [(typeof lines)[number]];
    expect(line.split('\t')).toEqual([
      depot.id,
      '2.9.4',
      expect.stringMatching(/^[0-9a-f]{64}$/),
      String(files),
      expect.any(String),
    ]);
    const stored = items.filter(({ source }) => source.how === 'stored');
    const handed = new Map<string, File>();
    for (const { path, owner, source } of stored)
      if (source.how === 'stored' && owner.kind === 'depot' && whole.has(source.path))
        handed.set(`got/${owner.depot}/${path}`, new File([whole.get(source.path)!], path));
    const [spoilt, ...others] = handed.keys();
    handed.set(spoilt!, new File([new Uint8Array(handed.get(spoilt!)!.size)], 'spoilt'));
    expect(others.length).toBeGreaterThan(2);
    // As if nothing had been fetched.
    disk.now = await folderFrom(new Map([...whole].filter(([path]) => !/^(contents|references)\//.test(path))));
    await noteJob('fetch', {}, `noted-${++jobs}`, 'done');
    const before = (await stages.fetchView(INSTALL))!.items.filter(({ source }) => source.how === 'fetch').length;
    expect(before).toBe(stored.length);

    handOver('given', handed);
    const id = await run('bring-depots', { ...(await targetNow()), from: { kind: 'handed', name: 'given' } });
    const report = BroughtReportSchema.parse(outcomes.get(id));
    expect(report.depots.map(({ folder }) => folder)).toEqual(
      [...new Set([...handed.keys()].map((path) => path.split('/').slice(0, 2).join('/')))].toSorted(),
    );
    const spoiltDepot = report.depots.find(({ folder }) => spoilt!.startsWith(`${folder}/`))!;
    expect(spoiltDepot).toMatchObject({ build: '2.9.4', why: undefined, altered: { count: 1 } });
    const left = (await stages.fetchView(INSTALL))!.items.filter(({ source }) => source.how === 'fetch');
    const lost = left.filter(({ owner }) => owner.kind === 'depot').map(({ path }) => path);
    expect(lost.every((path) => spoilt!.endsWith(`/${path}`))).toBe(true);
    // What came has the bytes that it is to have.
    for (const { path } of await here().list('contents'))
      expect(Buffer.from(await here().read(path)).equals(Buffer.from(whole.get(path)!)), path).toBe(true);

    // Handed over to an earlier page, or changed since it was read: named, and nothing wrong comes.
    handOver('gone', new Map());
    expect(
      BroughtReportSchema.parse(
        outcomes.get(await run('bring-depots', { ...(await targetNow()), from: { kind: 'handed', name: 'gone' } })),
      ).depots,
    ).toEqual([]);
    await expect(
      run('bring-depots', { ...(await targetNow()), from: { kind: 'handed', name: 'never' } }),
    ).rejects.toMatchObject({ code: 'folder/gone' });
    disk.now = await folderFrom(whole);
  }, 60_000);
});

describe('assemble', () => {
  // What goes by it is on the shelf already: what is counted here is the lay-down alone.
  beforeAll(async () => {
    await again();
    const releases = await shelving.leaving(INSTALL, ready.install.target!.releases);
    await run('shelve', { archives: [], releases, add: [] });
    ready = { ...ready, image: await imageOf(here()) };
  });

  async function again(): Promise<void> {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
  }

  async function againPicked(): Promise<void> {
    await again();
    await updateInstall(INSTALL, ({ toldTimes: _, ...now }) => now);
    await run('survey');
    // A handle is no more than a name here.
    const place = { kind: 'picked', handle: {} as FileSystemDirectoryHandle } as const;
    await updateInstall(INSTALL, (now) => ({ ...now, place }));
  }

  async function expectLaidDown(): Promise<void> {
    const { build } = ready.install.target!;
    const install = await getInstall(INSTALL);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, likeliest: build, onDisk: [build] });
    expect((await readRecord(here())).build).toBe(build);
    const after = await imageOf(here());
    expect(differences(after, ready.image, treePath('t1/'))).toEqual([]);
    // The job center would have noted that a job has worked on the folder.
    await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
    // Of what was fetched nothing stays but what a mod replaces; what the keepsake has was not fetched.
    const covered = (await stages.plan(INSTALL, ready.install.target!)).covered.size;
    expect(covered).toBeGreaterThan(0);
    const { references } = (await history.storeOfInstall(INSTALL))!;
    const own = references.filter(({ reason }) => ['keepsake', 'release'].includes(reason.kind));
    const kept = own.reduce((sum, { files }) => sum + files, covered);
    expect([...after.keys()].filter((path) => path.startsWith('contents/'))).toHaveLength(kept);
    // Saves and settings are the player's: they come along as they are.
    const saves = [...ready.image.keys()].filter((path) => path.startsWith(treePath('t1/saves/')));
    expect(saves.length).toBeGreaterThan(0);
    const moved = new Map(saves.map((path) => [path, after.get(path.replace('/t1/', `/${install.tree}/`))!]));
    expect(differences(moved, ready.image, treePath('t1/saves/'))).toEqual([]);
  }

  it.each<[string, (files: number) => number]>([
    ['before the plan is written down', () => 0],
    ['before the first file', () => 1],
    ['in the middle', (files) => files >> 1],
    ['when all is written and the record is to be changed', (files) => files + 7],
    ['before the swap', (files) => files + 8],
  ])(
    'goes on to the same end when the power goes %s, whatever is wanted meanwhile',
    async (when, changes) => {
      await again();
      const whole = here();
      const params = await targetNow();
      disk.now = failingAfter(changes((await planNow()).rows.length), whole);
      const id = `cut-${when.replaceAll(' ', '-')}`;
      await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toThrow('folder/failed');
      disk.now = whole;
      expect((await getInstall(INSTALL)).tree).toBe('t1');
      expect(differences(await imageOf(whole), ready.image, treePath('t1/'))).toEqual([]);
      // Another target, with other mods: what goes on is what was decided.
      const other: Target = { ...params.target, build: asBuild('2.6.0'), releases: [] };
      await updateInstall(INSTALL, (now) => ({ ...now, target: other }));
      await (await KINDS.assemble()).run(contextOf(params, id));
      await updateInstall(INSTALL, (now) => ({ ...now, target: params.target }));
      await expectLaidDown();
      // Once more finds nothing left to do.
      await (await KINDS.assemble()).run(contextOf(params, id));
      await expectLaidDown();
    },
    60_000,
  );

  it('swaps nothing where a byte of what it was made of has changed since the survey', async () => {
    await again();
    const whole = here();
    const victim = (await planNow()).rows.find(({ source, size }) => source.how === 'keep' && size > 0)!;
    const path = treePath('t1', victim.path);
    const right = await whole.read(path);
    await whole.writeWhole(
      path,
      right.map((byte, i) => (i === 0 ? byte ^ 1 : byte)),
    );
    const id = 'gone-bad';
    const params = await targetNow();
    await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toMatchObject({
      code: 'folder/changed-meanwhile',
      facts: { path },
    });
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    await whole.writeWhole(path, right);
    await (await KINDS.assemble()).run(contextOf(params, id));
    await expectLaidDown();
  }, 60_000);

  it('leaves nothing of itself when it is cancelled', async () => {
    await again();
    const whole = here();
    const id = 'cancelled';
    const params = await targetNow();
    disk.now = failingAfter((await planNow()).rows.length >> 1, whole);
    await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toThrow();
    disk.now = whole;
    expect((await whole.list()).length).toBeGreaterThan(ready.image.size);
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, id));
    expect(differences(await imageOf(whole), ready.image)).toEqual([`history/${id}.dat`]);
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    expect(await listJournals({ disk: installDisk(INSTALL, 't1') })).toEqual([]);
  }, 60_000);

  it('is taken back, made again, and let go, and what is said of the folder follows', async () => {
    await again();
    const set = await run('assemble', await targetNow());
    await run('take-back', { sets: [set], way: 'back' });
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    // What it had laid down lies there still, and need not be fetched again.
    expect((await planNow()).missing).toEqual([]);
    expect((await readRecord(here())).build).toBe('3.1.1');
    expect((await stages.frame(INSTALL)).likeliest).toBe('3.1.1');
    await run('take-back', { sets: [set], way: 'on' });
    await expectLaidDown();
    await run('let-go', { set });
    expect((await here().list(treePath('t1'))).length).toBe(0);
    const left = (await here().list()).map(({ path }) => path).filter((path) => /^(staged|kept|journal)/.test(path));
    expect(left).toEqual([]);
  }, 60_000);

  const WITHDRAWN = new Failure('folder/no-permission', { path: 'a' });
  const FULL = new Failure('folder/full', { path: 'a' });
  it.each<[changes: number | undefined, why: Failure]>([
    ...[0, 1, 40, 130, 200, 400, undefined].map((changes) => [changes, POWER_WENT] as [number | undefined, Failure]),
    [130, FULL],
    // When all is got ready, and in the middle of putting it in place.
    [170, WITHDRAWN],
    [300, WITHDRAWN],
  ])(
    'in a picked folder touches only what differs, and is taken back, when after %s changes it ends with %s',
    async (changes, why) => {
      await againPicked();
      const whole = here();
      const params = await targetNow();
      const id = `in-place-${changes}-${why.code.slice(7)}`;
      const rows = (await planNow()).rows.filter(({ source }) => source.how === 'keep');
      const times = new Map<string, number>();
      for (const { path } of rows) times.set(path, (await whole.stat(treePath('t1', path)))!.modified);
      if (changes !== undefined) {
        disk.now = failingAfter(changes, whole, why);
        await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toMatchObject({ code: why.code });
        disk.now = whole;
      }
      await (await KINDS.assemble()).run(contextOf(params, id));
      const { build } = params.target;
      expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, likeliest: build, survey: { fresh: true } });
      for (const [path, time] of times) expect((await whole.stat(treePath('t1', path)))!.modified).toBe(time);
      expect((await readRecord(here())).build).toBe(build);

      await run('take-back', { sets: [id], way: 'back' });
      expect(differences(await imageOf(whole), ready.image, treePath('t1/'))).toEqual([]);
      expect(await stages.frame(INSTALL)).toMatchObject({ likeliest: '3.1.1', survey: { fresh: true } });
      await run('let-go', { set: id });
      const left = (await whole.list()).filter(({ path }) => /^(staged|kept|journal)/.test(path));
      expect(left).toEqual([]);
    },
    60_000,
  );

  it('also on a disk where folders can be swapped, and one altered file is one that is written', async () => {
    await again();
    await run('survey');
    await run('assemble', { ...(await targetNow()), way: 'in-place' });
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
    expect(await getInstall(INSTALL)).toMatchObject({ tree: 't1' });
    const whole = here();
    const [path] = (await whole.list(treePath('t1'))).map((file) => file.path).filter((one) => one.includes('sounds/'));
    const right = await whole.read(path!);
    const name = await contentName(contentKey(right.length, [await platformSha256(right)]), platformSha256);
    await whole.copy(path!, contentPath(name));
    await whole.writeWhole(path!, new Uint8Array(right.length));
    await updateInstall(INSTALL, (now) => ({ ...now, changedAt: Date.now() }));
    await run('survey');
    const written: string[] = [];
    disk.now = { ...whole, copy: async (from: string, to: string) => (written.push(to), whole.copy(from, to)) };
    await run('assemble', { ...(await targetNow()), way: 'in-place' }).finally(() => (disk.now = whole));
    expect(written).toHaveLength(1);
    expect(await whole.read(path!)).toEqual(right);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
  }, 60_000);

  it('in parts, keeps nothing that a source lists, and goes on from a cut within any of them', async () => {
    await againPicked();
    const whole = here();
    const waived = (await planNow()).waivable;
    expect(waived.length).toBeGreaterThan(0);
    const listed = new Set(waived.map(({ found }) => found));
    const params = { ...(await targetNow()), way: 'in-parts', partBytes: 1 << 20 };
    const id = 'parts';
    for (const changes of [30, 90, 200]) {
      disk.now = failingAfter(changes, whole);
      await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toThrow('folder/failed');
    }
    disk.now = whole;
    await (await KINDS.assemble()).run(contextOf(params, id));
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
    expect((await readRecord(here())).build).toBe(params.target.build);
    await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
    // What mods cover has been kept first.
    expect((await stages.frame(INSTALL)).toFetch).toEqual({ files: 0, bytes: 0, nowhere: 0 });
    const { history: changes } = (await history.storeOfInstall(INSTALL))!;
    const parts = changes.filter(({ facts }) => facts.part !== undefined);
    expect(parts.length).toBeGreaterThan(2);
    expect(parts.every(({ state, keeps }) => state === 'let-go' && keeps.files === 0)).toBe(true);
    const laid = changes.filter(({ what }) => what === 'lay-down');
    expect(new Set(laid.map(({ facts }) => facts['from']))).toEqual(new Set(['3.1.1']));
    // The last part keeps what nobody else has.
    const kept = (await listJournals({ disk: installDisk(INSTALL, 't1') })).filter((set) => set === id);
    expect(kept).toEqual([id]);
    const steps = (await readJournal({ disk: installDisk(INSTALL, 't1'), sha256: platformSha256, ...text }, id))!.set
      .steps;
    const displaced = steps.flatMap((step) =>
      step.do === 'place' ? [step.before] : step.do === 'take' ? [step.key] : [],
    );
    const needed = new Set((await planNow()).rows.map(({ key }) => key));
    expect(displaced.filter((key) => listed.has(key) && !needed.has(key!))).toEqual([]);
  }, 60_000);

  it('in parts, when it is cancelled within one, takes that one back and says what the folder is', async () => {
    await againPicked();
    const whole = here();
    const params = { ...(await targetNow()), way: 'in-parts', partBytes: 1 << 20 };
    disk.now = failingAfter(100, whole);
    await expect((await KINDS.assemble()).run(contextOf(params, 'parts'))).rejects.toThrow('folder/failed');
    disk.now = whole;
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, 'parts'));
    await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
    expect(await listJournals({ disk: installDisk(INSTALL, 't1') })).toEqual([]);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: false, survey: { fresh: true } });
    // From there it is laid down like from anywhere.
    await run('assemble', params);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
  }, 60_000);

  it('cancelled in place, leaves the folder as it was', async () => {
    await againPicked();
    const whole = here();
    const params = await targetNow();
    const differing = (await planNow()).rows.filter(({ source }) => source.how !== 'keep').length;
    disk.now = failingAfter(differing + 60, whole);
    await expect((await KINDS.assemble()).run(contextOf(params, 'half-way'))).rejects.toThrow();
    disk.now = whole;
    expect(differences(await imageOf(whole), ready.image, treePath('t1/'))).not.toEqual([]);
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, 'half-way'));
    expect(differences(await imageOf(whole), ready.image)).toContain('history/half-way.dat');
    expect(differences(await imageOf(whole), ready.image, 'trees/')).toEqual([]);
    expect(await stages.frame(INSTALL)).toMatchObject({ likeliest: '3.1.1', survey: { fresh: true } });
  }, 60_000);
});

describe('a hold', () => {
  it('stops the storefront by its setting and a lock, and ends as if it had not been', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    const sheet = { ...(await laidSheet()) };
    const before = await imageOf(here());
    await (await KINDS.hold()).run(contextOf({ sheet }, 'hold-1'));
    expect((await readRecord(here())).updates).toBe('when-asked');
    expect(await here().isReadOnly(RECORD_PATH)).toBe(true);
    expect((await getHold(INSTALL))!.sheet).toEqual(sheet);
    await run('release', { sheet });
    expect(await getHold(INSTALL)).toBeUndefined();
    expect(await here().isReadOnly(RECORD_PATH)).toBe(false);
    expect((await readRecord(here())).updates).toBe('by-itself');
    const told = (await history.storeOfInstall(INSTALL))!;
    const ofHold = told.history.filter(({ what }) => what !== 'put-back');
    expect(ofHold.map(({ what, facts, state }) => [what, facts.build, state])).toEqual([
      ['release', sheet.build, 'made'],
      ['hold', sheet.build, 'made'],
    ]);
    // Cancelled in the middle, it leaves the record as it was.
    disk.now = await folderFrom(before);
    const whole = here();
    disk.now = failingAfter(4, whole);
    await expect((await KINDS.hold()).run(contextOf({ sheet }, 'hold-2'))).rejects.toThrow();
    disk.now = whole;
    await (
      await KINDS.hold()
    ).undo!(contextOf({ sheet }, 'hold-2'));
    expect(differences(await imageOf(whole), before)).toEqual(['history/hold-2.dat']);
    expect(await whole.isReadOnly(RECORD_PATH)).toBe(false);
  });

  it('is let go before the storefront follows another branch, which is undone like any edit', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    const sheet = await laidSheet();
    await run('hold', { sheet });
    await expect(run('switch-branch', { branch: 'steady' })).rejects.toMatchObject({ code: 'record/held' });
    await run('release', { sheet });
    const before = await imageOf(here());
    const set = await run('switch-branch', { branch: 'trial', code: 'deep-water' });
    expect(await readRecord(here())).toMatchObject({
      ...{ branch: 'trial', branchCode: 'deep-water', updates: 'by-itself' },
    });
    expect((await history.storeOfInstall(INSTALL))!.history[0]).toMatchObject({
      ...{ what: 'switch-branch', facts: { branch: 'trial', from: 'main' } },
    });
    await (
      await KINDS['switch-branch']()
    ).undo!(contextOf({ branch: 'trial' }, set));
    expect(await readRecord(here())).toMatchObject({ branch: 'main', branchCode: '' });
    expect(differences(await imageOf(here()), before)).toEqual([`history/${set}.dat`]);
    // Without a place for it in the rules there is nothing to switch.
    await updateGame(GAME, ({ rules, ...game }) => ({
      ...game,
      rules: { ...rules, record: { ...rules.record!, branch: undefined } },
    }));
    await expect(run('switch-branch', { branch: 'steady' })).rejects.toMatchObject({ code: 'record/not-as-ruled' });
    await updateGame(GAME, ({ rules, ...game }) => ({
      ...game,
      rules: { ...rules, record: { ...rules.record!, branch: 'branch' } },
    }));
  });

  it('of a record that is not as the rules say writes nothing, and says where', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    const sheet = await laidSheet();
    for (const [bytes, facts] of [
      [new TextEncoder().encode('{\n  "updates": }'), { line: 2 }],
      [
        Uint8Array.of(...new TextEncoder().encode('{"updates": "by-itself", "of": "'), 0xe4, 0x22, 0x7d),
        { what: 'is no UTF-8 text' },
      ],
      [new Uint8Array(PIECE_SIZE + 1).fill(32), { what: 'is larger than 1 MiB' }],
    ] as const) {
      await here().writeWhole(RECORD_PATH, bytes);
      const before = await imageOf(here());
      await expect(run('hold', { sheet })).rejects.toMatchObject({
        code: 'record/not-as-ruled',
        facts: { file: 'record.json', ...facts },
      });
      expect(differences(await imageOf(here()), before)).toEqual([]);
    }
    expect([await getHold(INSTALL), await here().isReadOnly(RECORD_PATH)]).toEqual([undefined, false]);
  });

  it('of a record in the game’s folder leaves it the player’s: no drift, and it comes along', async () => {
    disk.now = await folderFrom(ready.image);
    const { rules } = await getGame(GAME);
    await updateInstall(INSTALL, () => {
      const { record: _, ...install } = ready.install;
      return install;
    });
    const [file, text] = ['store/state.ini', '[Game]\nupdate = yes ; asked\n'];
    await updateGame(GAME, (game) => ({
      ...game,
      rules: { ...rules, record: { file, form: 'ini', at: 'game/update', stops: 'no', goes: 'yes ; asked' } },
    }));
    try {
      await here().writeWhole(treePath('t1', file), new TextEncoder().encode(text));
      await run('survey');
      const sheet = await laidSheet();
      await run('hold', { sheet });
      const now = await here().read(treePath('t1', file));
      expect(new TextDecoder().decode(now)).toBe('[Game]\nupdate = no\n');
      expect(await here().isReadOnly(treePath('t1', file))).toBe(true);
      const view = await stages.holdView(INSTALL);
      expect(view.departures.map(({ path }) => path)).not.toContain(file);
      expect((await stages.frame(INSTALL)).survey).toMatchObject({ fresh: true });
      await run('release', { sheet });
      expect(new TextDecoder().decode(await here().read(treePath('t1', file)))).toBe(text);
      const cancelled = contextOf({ sheet }, 'hold-in-game');
      await (await KINDS.hold()).run(cancelled);
      await (
        await KINDS.hold()
      ).undo!(cancelled);
      expect(new TextDecoder().decode(await here().read(treePath('t1', file)))).toBe(text);
      const known = (await getSurvey(await getInstall(INSTALL)))!;
      expect(known.keys[known.paths.indexOf(file)]).toBe(contentKey(text.length, [await platformSha256(text)]));
    } finally {
      await updateGame(GAME, (game) => ({ ...game, rules }));
    }
  });
});

describe('taking back', () => {
  it('a release brings its hold and sheet back, and taking the hold back ends it; made again, it holds', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    const sheet = await laidSheet();
    const held = await run('hold', { sheet });
    const released = await run('release', { sheet });
    expect(await getHold(INSTALL)).toBeUndefined();
    await run('take-back', { sets: [released], way: 'back' });
    expect((await getHold(INSTALL))!.sheet).toEqual(sheet);
    expect(await here().isReadOnly(RECORD_PATH)).toBe(true);
    await run('take-back', { sets: [held], way: 'back' });
    expect(await getHold(INSTALL)).toBeUndefined();
    expect(await here().isReadOnly(RECORD_PATH)).toBe(false);
    await run('take-back', { sets: [held], way: 'on' });
    expect((await getHold(INSTALL))!.sheet).toEqual(sheet);
    await run('take-back', { sets: [held], way: 'back' });
  });
});

describe('what lies on the drive', () => {
  const MOD = asMod('night-sky');
  const REPLACED = 'textures/tx-050.tex';

  async function laidDown(): Promise<string> {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
    await run('survey');
    return run('assemble', await targetNow());
  }

  it('a mod’s file stands over the game’s; without the mod the game’s is back from the store, nothing fetched', async () => {
    const set = await laidDown();
    const { overlaps: all } = (await stages.assemble(INSTALL))!;
    const overlaps = all.filter(({ owner }) => owner.kind === 'mod');
    const covers = [{ depot: 'core' }, { depot: 'fine-textures' }];
    expect(overlaps).toMatchObject([{ path: REPLACED, owner: { mod: MOD }, covers }]);
    const { target } = await getInstall(INSTALL);
    const replaced = await choosing.replaced(INSTALL, target!.build, target!.releases, MOD);
    expect(replaced).toMatchObject({ covers: [{ path: REPLACED }], coveredBy: [] });
    // Also once nothing can be taken back any more.
    await run('let-go', { set });
    const without = { ...target!, releases: target!.releases.filter(([id]) => id !== MOD) };
    await updateInstall(INSTALL, (now) => ({ ...now, target: without }));
    const vanilla = (await installContext(INSTALL)).trees.get(without.build)!.find(({ path }) => path === REPLACED)!;
    const plan = await planNow();
    expect(plan.missing).toEqual([]);
    expect(plan.rows.find(({ path }) => path === REPLACED)).toMatchObject({
      key: vanilla.key,
      source: { how: 'stored' },
    });
    await run('assemble', { target: without, way: 'in-place' });
    const bytes = await here().read(await gameFile(REPLACED));
    expect(await platformSha256(bytes)).toBe(vanilla.sha256);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true });
    // The release that went is on the shelf, whole.
    const shelved = (await shelf.shelf(INSTALL)).releases.filter(({ mod }) => mod === MOD);
    expect(shelved).toMatchObject([{ inFolder: false, missing: 0 }]);
  }, 60_000);

  it('a mod’s step touches its files alone, is told by its releases, and is undone to the byte', async () => {
    await laidDown();
    const { target } = await getInstall(INSTALL);
    const { found } = await installContext(INSTALL);
    const path = await gameFile(found.find((file) => file.path.startsWith('config/'))!.path);
    await here().writeWhole(path, new TextEncoder().encode('drifted'));
    await run('survey');
    const before = await imageOf(here());
    const { target: step, paths, returns } = await mending.stepTarget(INSTALL, target!.build, [{ mod: MOD, to: null }]);
    expect(returns).toEqual([]);
    const set = await run('assemble', { target: step, way: 'in-place', only: paths });
    expect(new TextDecoder().decode(await here().read(path))).toBe('drifted');
    const release = target!.releases.find(([id]) => id === MOD)![1];
    const [done] = await mending.mended(INSTALL);
    expect(done).toMatchObject({ id: set, moves: [{ mod: MOD, from: release, to: undefined }], canGoBack: true });
    expect((await mending.mend(INSTALL, target!.build))!.here.has(MOD)).toBe(false);
    const back = await mending.stepTarget(INSTALL, target!.build, [{ mod: MOD, to: release }]);
    expect(back.returns).toEqual([MOD]);
    await run('take-back', { sets: [set], way: 'back' });
    expect(differences(await imageOf(here()), before, `trees/${(await getInstall(INSTALL)).tree}/`)).toEqual([]);
    expect((await mending.mended(INSTALL))[0]).toMatchObject({ id: set, isTakenBack: true, canGoBack: false });
  }, 60_000);

  it('an order that was decided here outlives a reading, one changed outside is taken over, and a sheet’s is neither', async () => {
    await laidDown();
    const path = await gameFile((await getGame(GAME)).rules.loadOrder!);
    const listed = readModList(new TextDecoder().decode(await here().read(path))).map(asMod);
    expect(listed.length).toBeGreaterThan(2);
    const moved = listed.toReversed();
    const decide = (change: Partial<Install>): Promise<unknown> =>
      updateInstall(INSTALL, (now) => ({ ...now, order: moved, target: { ...now.target!, order: moved }, ...change }));
    await decide({});
    await run('survey');
    expect(await getInstall(INSTALL)).toMatchObject({ order: moved, target: { order: moved } });
    const [first, second, ...rest] = listed;
    const outside = [second!, first!, ...rest];
    const write = async (mods: readonly string[]): Promise<void> => {
      await here().writeWhole(path, new TextEncoder().encode(writeModList(mods)));
      await run('survey');
    };
    await write(outside);
    expect(await getInstall(INSTALL)).toMatchObject({ order: outside, target: { order: outside } });
    const { target } = await getInstall(INSTALL);
    await decide({ target: { ...target!, order: moved, list: '', decidedBy: 'hold-sheet' } });
    await write(listed);
    expect(await getInstall(INSTALL)).toMatchObject({ order: listed, target: { order: moved } });
    // Emptied, it says nothing of the order, and what it had is written again.
    await write([]);
    expect((await getInstall(INSTALL)).order).toEqual(listed);
    expect(await order.order(INSTALL)).toMatchObject({ wasEmptied: true, isListed: false, order: listed });
  }, 60_000);

  it('a mod that lies one folder too deep is put where it belongs, and that is taken back', async () => {
    await laidDown();
    const before = await imageOf(here());
    const own = [...before.keys()].find((path) => path.includes(`/mods/${MOD}/`))!;
    const deep = own.replace(`/mods/${MOD}/`, `/mods/${MOD}-1.0/${MOD}/`);
    await here().move(own, deep);
    await run('survey');
    const [found] = await misplaced.misplaced(INSTALL);
    expect(found).toMatchObject({ mod: MOD });
    const below = treePath(`${(await getInstall(INSTALL)).tree}/`).length;
    expect(found!.moves).toEqual([[deep.slice(below), own.slice(below)]]);
    const set = await run('move-files', { name: found!.name, moves: found!.moves });
    expect(differences(await imageOf(here()), before, 'trees/')).toEqual([]);
    expect(await misplaced.misplaced(INSTALL)).toEqual([]);
    await expect(run('move-files', { name: 'x', moves: found!.moves })).rejects.toThrow('folder/not-found');
    await run('take-back', { sets: [set], way: 'back' });
    expect(await here().stat(deep)).toBeDefined();
  }, 60_000);

  it('a mod on the bench is in no choice until it is taken off, unless it only waits for a release that runs', async () => {
    await laidDown();
    const { build } = (await getInstall(INSTALL)).target!;
    const bench = async (until?: Until) => {
      const one = { mod: MOD, reason: 'crashes', at: 0, ...(until && { until }) };
      await updateInstall(INSTALL, (now) => ({ ...now, bench: [one] }));
      const view = (await mending.mend(INSTALL, build))!;
      return {
        item: view.items.find(({ mod }) => mod === MOD)!,
        due: view.bench[0]!.isDue,
        loss: view.choice.lost.get(MOD),
      };
    };
    expect(await bench()).toMatchObject({
      item: { action: 'bench', state: 'open' },
      due: false,
      loss: { why: 'benched' },
    });
    expect(await bench({ kind: 'build', build })).toMatchObject({ item: { action: 'bench' }, due: true });
    expect(await bench({ kind: 'runs' })).toMatchObject({ item: { action: 'keep' }, due: true, loss: undefined });
    // It is kept before it goes, from where it lies, and once.
    const [kept] = await shelving.shelvable(INSTALL, [MOD]);
    expect(kept!.keys.length).toBeGreaterThan(1);
    await run('shelve', { archives: [], releases: [kept], add: [] });
    expect(await shelving.shelvable(INSTALL, [MOD])).toMatchObject([{ mod: MOD, keys: [], from: [] }]);
    const onShelf = (await shelf.shelf(INSTALL)).releases.find(({ mod }) => mod === MOD)!;
    expect(onShelf).toMatchObject({ version: kept!.release, missing: 0, inFolder: true });
  }, 60_000);

  it('mods that nobody knows come along, with their settings, unless the person leaves them behind', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    await here().writeWhole(treePath('t1', 'mods/keel-noise/keel.cfg'), new TextEncoder().encode('loud = 1'));
    await here().writeWhole(treePath('t1', 'notes.txt'), new TextEncoder().encode('mine'));
    await run('survey');
    const paths = async () => {
      const { along, leftBehind } = (await stages.assemble(INSTALL))!;
      return [along.map(({ path }) => path), leftBehind.some(({ file }) => file.path === 'notes.txt')];
    };
    expect(await paths()).toEqual([['mods/keel-noise/keel.cfg'], true]);
    const said = [
      ['mods/keel-noise/keel.cfg', false],
      ['notes.txt', true],
    ] as const;
    await updateInstall(INSTALL, (now) => ({ ...now, along: said }));
    expect(await paths()).toEqual([['notes.txt'], false]);
    await run('assemble', await targetNow());
    expect(await here().stat(await gameFile('notes.txt'))).toBeDefined();
    expect(await here().stat(await gameFile('mods/keel-noise/keel.cfg'))).toBeUndefined();
    // What came along is no departure from what was laid down.
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true });
  }, 60_000);

  it('the load order is the person’s, as far as what mods need allows', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    const own = ['night-sky', 'wet-stone', 'chart-table', 'gunwale', 'nobody'];
    await here().writeWhole(treePath('t1', 'mods/load-order.txt'), new TextEncoder().encode(own.join('\r\n')));
    await run('survey');
    const { order } = await choosing.decide(INSTALL, ready.install.target!.build);
    const at = (id: string): number => order!.indexOf(asMod(id));
    expect([at('night-sky') < at('wet-stone'), at('gunwale') < at('chart-table'), at('nobody')]).toEqual([
      true,
      true,
      -1,
    ]);
  });

  it('a folder is cleaned up as one change, without the rows that are left alone, and all of it is taken back', async () => {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    const path = (await surveying.survey(INSTALL))!.table.paths.find((one) => one.startsWith('world/'))!;
    await here().move(treePath('t1', path), treePath('t1', 'world/elsewhere.bin'));
    await run('survey');
    const rows = await surveying.cleanUp(INSTALL);
    const does = (one: string) => rows.find((row) => row.path === one)?.does;
    expect([does(path), does('world/elsewhere.bin')]).toEqual(['moveBack', 'setAside']);
    const before = await imageOf(here());
    const stray = rows.find((row) => row.does === 'setAside' && row.path !== 'world/elsewhere.bin')!;
    const set = await run('clean', { leave: [stray.path] });
    expect((await surveying.cleanUp(INSTALL)).map((row) => row.path)).toEqual([stray.path]);
    expect(await here().stat(treePath('t1', path))).toBeDefined();
    await run('take-back', { sets: [set], way: 'back' });
    expect(differences(await imageOf(here()), before, 'trees/')).toEqual([]);
  }, 60_000);

  it('what others changed is noted once, what Regressum changed is not', async () => {
    await laidDown();
    const noted = async () =>
      (await history.storeOfInstall(INSTALL))!.history
        .filter(({ state }) => state === 'seen')
        .map(({ counts }) => counts);
    const already = (await noted()).length;
    await run('survey');
    expect(await noted()).toHaveLength(already);
    await here().writeWhole(await gameFile('tables/fuel.csv'), new TextEncoder().encode('altered'));
    await here().writeWhole(await gameFile('saves/new.fws'), new TextEncoder().encode('a save'));
    await run('survey');
    expect(await noted()).toHaveLength(already + 1);
    expect((await noted())[0]).toMatchObject({ replaced: 1, added: 0, removed: 0 });
    await run('survey');
    expect(await noted()).toHaveLength(already + 1);
  }, 60_000);

  it('a build is kept whole with its mods, offered once, and what of it lies nowhere is fetched', async () => {
    await laidDown();
    const { build } = ready.install.target!;
    const offer = (await history.keepOffer(INSTALL, build))!;
    expect(offer.files).toBeGreaterThan(300);
    const set = await run('keep-build', { build });
    expect(await history.keepOffer(INSTALL, build)).toBeUndefined();
    const [kept] = (await history.storeOfInstall(INSTALL))!.references.filter(({ reason }) => reason.kind === 'build');
    expect(kept).toMatchObject({ missing: 0 });
    // Completing what is kept already, and cancelling that, gives nothing up.
    await (
      await KINDS['keep-build']()
    ).undo!(contextOf({ build, isKept: true }, set));
    expect((await history.storeOfInstall(INSTALL))!.references).toContainEqual(kept);
    await (
      await KINDS['keep-build']()
    ).undo!(contextOf({ build }, set));
    expect((await history.storeOfInstall(INSTALL))!.references.some(({ id }) => id === kept!.id)).toBe(false);
    await updateInstall(INSTALL, (now) => ({ ...now, notKept: [build] }));
    expect(await history.keepOffer(INSTALL, build)).toBeUndefined();
    // Of the folder that was put aside all is there but a table that somebody had laid an old one over: it is fetched.
    const before = await history.keepPlan(INSTALL, asBuild('3.1.1'));
    expect(before.missing.map(({ path }) => path)).toEqual([expect.stringMatching(/^tables\//)]);
    await run('keep-build', { build: asBuild('3.1.1') });
    const { references } = (await history.storeOfInstall(INSTALL))!;
    expect(references.filter(({ reason }) => reason.kind === 'build')).toMatchObject([
      { reason: { kind: 'build', build: '3.1.1' }, missing: 0 },
    ]);
  }, 60_000);
});

describe('profiles', () => {
  const saveAt = async (path: string): Promise<string | undefined> => {
    const { tree } = await getInstall(INSTALL);
    return (
      await here()
        .read(treePath(tree, `saves/${path}`))
        .catch(() => undefined)
    )?.join();
  };
  const gameNow = async (): Promise<Image> => {
    const { tree } = await getInstall(INSTALL);
    const files = [...(await imageOf(here()))].filter(([path]) => path.startsWith(treePath(`${tree}/`)));
    return new Map(files.map(([path, bytes]) => [path.slice(treePath(tree).length + 1), bytes]));
  };

  it.each([undefined, 30, 62, 120])(
    'one without mods and with saves of its own takes turns with a modded one, cut off after %s changes or not',
    async (cut) => {
      disk.now = await folderFrom(ready.image);
      await updateInstall(INSTALL, () => ready.install);
      for (const { id } of await listProfiles(INSTALL)) await removeProfile(INSTALL, id, []);
      await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
      await run('assemble', await targetNow());
      const stranger = treePath((await getInstall(INSTALL)).tree, 'mods/keel-noise/keel.cfg');
      await here().writeWhole(stranger, new Uint8Array([1, 2]));
      await run('survey');
      const modded = await gameNow();
      const { build } = ready.install.target!;
      const calm = await makeProfile(INSTALL, {
        ...{ title: 'Calm', build, mods: 'none', startsEmpty: true },
        sharing: { ...ALL_SHARED, saves: 'own', presets: 'own' },
      });
      expect(await profiles.switchView(INSTALL, calm)).toMatchObject({
        toFetch: { files: 0 },
        own: { put: 0, taken: 7 },
      });

      const context = contextOf({ profile: calm });
      const job = await KINDS['switch-profile']();
      if (cut !== undefined) {
        const whole = here();
        disk.now = failingAfter(cut, whole);
        await job.run(context).catch((error: unknown) => {
          if (error !== POWER_WENT) throw error;
        });
        disk.now = whole;
      }
      await job.run(context);
      await noteJob('switch-profile', {}, context.id, 'done');
      const now = await getInstall(INSTALL);
      expect([now.profile, now.target!.releases, now.weights]).toEqual([calm, [], []]);
      expect(await saveAt('voyage-1.fws')).toBeUndefined();
      expect((await stages.frame(INSTALL)).laid).toBe(true);
      expect([...(await gameNow()).keys()].filter((path) => path.startsWith('mods/'))).toEqual([]);

      // The calm one is played; the modded one comes back as it was, strangers among its mods too.
      await here().writeWhole(treePath(now.tree, 'saves/calm.fws'), new Uint8Array([9]));
      await run('switch-profile', { profile: FIRST_PROFILE });
      expect(differences(await gameNow(), modded)).toEqual([]);
      await run('switch-profile', { profile: calm });
      expect([await saveAt('calm.fws'), await saveAt('voyage-1.fws')]).toEqual(['9', undefined]);

      const last = (await history.storeOfInstall(INSTALL))!.history[0]!;
      expect(last).toMatchObject({ what: 'switch-profile', facts: { profile: 'Calm', from: 'First' } });
      await run('take-back', { sets: [last.id], way: 'back' });
      expect((await getInstall(INSTALL)).profile).toBe(FIRST_PROFILE);
      expect(differences(await gameNow(), modded)).toEqual([]);
      expect((await stages.frame(INSTALL)).laid).toBe(true);
    },
    30_000,
  );

  it('a held folder is not switched, and a profile goes out as a file and comes in without what is not known', async () => {
    const { text } = await profileText(INSTALL, FIRST_PROFILE);
    const file = JSON.parse(text) as { target: { build: string; releases: Record<string, string> } };
    const [mod, other] = Object.keys(file.target.releases);
    file.target.releases[mod!] = '99';
    const bench = [mod, 'a-stranger'].map((one) => ({ mod: one, reason: 'later', at: 1 }));
    const decided = { ...file, bench, insisted: { [other!]: file.target.releases[other!], [mod!]: '99' } };
    const { id, unknown } = await importProfile(INSTALL, JSON.stringify(decided), 'p.json');
    expect(unknown).toEqual({ build: undefined, mods: [], releases: [{ mod, release: '99' }] });
    const [brought] = (await listProfiles(INSTALL)).filter((one) => one.id === id);
    const { target } = (await listProfiles(INSTALL)).find((one) => one.id === FIRST_PROFILE)!;
    expect(brought!.target!.releases).toEqual(target!.releases.filter(([of]) => of !== mod));
    expect(brought).toMatchObject({ bench: [bench[0]], insisted: [[other, file.target.releases[other!]]] });
    const again = JSON.parse((await profileText(INSTALL, id)).text) as object;
    expect(again).toMatchObject({ bench: [bench[0]], insisted: { [other!]: file.target.releases[other!] } });
    await expect(importProfile(INSTALL, text.replace('"version": 1', '"version": 2'), 'p.json')).rejects.toMatchObject({
      code: 'profile/unknown-version',
    });
    await removeProfile(INSTALL, id, []);
  });
});

describe('what is handed on, and taken out', () => {
  /** The folder as it was laid down, with a mod of nobody's that the target wants. */
  async function laidWithOwnMod(): Promise<string> {
    disk.now = await folderFrom(ready.image);
    await updateInstall(INSTALL, () => ready.install);
    await noteJob('assemble', {}, `noted-${++jobs}`, 'done');
    const path = 'mods/keel-noise/keel.fwm';
    const bytes = new Uint8Array([1, 2, 3]);
    await here().writeWhole(await gameFile(path), bytes);
    const files = [{ path, size: 3, sha256: await platformSha256(bytes), href: '' }];
    const { mods } = catalogueOf({ 'keel-noise': [{ version: '1', files }] });
    await putOwnMods(mods.map((mod) => ({ ...mod, game: GAME, from: 'by hand', at: 1 })));
    await updateInstall(INSTALL, (now) => ({
      ...now,
      target: { ...now.target!, releases: [...now.target!.releases, [asMod('keel-noise'), '1']] },
    }));
    await run('survey');
    await run('assemble', await targetNow());
    await run('survey');
    return path;
  }

  it('a hold sheet takes manifests and files of mods along, which come onto the shelf of who has them not', async () => {
    const path = await laidWithOwnMod();
    const sheet = await laidSheet();
    const packed = await run('pack-sheet', { sheet, manifests: true, mods: true });
    expect(outcomes.get(packed)).toEqual({ without: [] });
    const name = bagName(GAME, sheet.heldAt, 'hold-sheet');
    const from = new File([await here().read(archivePath(name))], `${name}.zip`);
    const look = await contextOf({}).pool.run({ do: 'look-into-bag', from, texts: SHEET_TEXTS });
    const texts = new Map(look.texts);
    expect(parseHoldSheet(texts.get(SHEET_FILES.sheet)!, 'sheet')).toEqual(sheet);
    for (const { id, manifestSha256 } of sheet.depots)
      expect(await platformSha256(texts.get(manifestInArchive(id))!)).toBe(manifestSha256);
    const handed = DepotIndexSchema.parse(JSON.parse(texts.get(SHEET_FILES.index)!));
    expect(handed.manifests.map(({ href, filesHref }) => [href, filesHref])).toEqual(
      handed.manifests.map(({ depot }) => [`${depot}.meta4`, '']),
    );

    // Whoever has neither the mod nor its files finds them in the archive.
    await removeOwnMod(GAME, asMod('keel-noise'));
    await here().remove(await gameFile(path));
    await run('survey');
    const catalogue = CatalogueSchema.parse(JSON.parse(texts.get(SHEET_FILES.catalogue)!));
    const offer = await shelfOffer({ sheet, catalogue, files: look.files }, await getCatalogue(GAME), platformSha256);
    expect(offer.takes.map(({ mod, isNew }) => [mod.id, isNew])).toEqual([['keel-noise', true]]);
    expect([offer.had, offer.refused]).toEqual([catalogue.mods.length - 1, []]);
    const { files } = offer.takes[0]!;
    const releases = [{ mod: 'keel-noise', release: '1', keys: files.map(({ key }) => key) }];
    const archives = [{ from, isBag: true, files: files.map((file) => ({ ...file, modified: 0 })) }];
    const add = offer.takes.map(({ mod }) => ({ ...mod, game: GAME, from: from.name, at: 1 }));
    await run('shelve', { archives, releases, add });
    const view = (await history.storeOfInstall(INSTALL))!;
    const isIt = ({ reason }: (typeof view.references)[number]): boolean =>
      reason.kind === 'release' && reason.mod === 'keel-noise';
    expect(view.references.find(isIt)).toMatchObject({ missing: 0, files: 1 });
    expect(await here().stat(await gameFile(path))).toBeUndefined();
    await run('assemble', await targetNow());
    expect((await stages.frame(INSTALL)).laid).toBe(true);
    expect([...(await here().read(await gameFile(path)))]).toEqual([1, 2, 3]);
    await removeOwnMod(GAME, asMod('keel-noise'));
  }, 60_000);

  it('files that are deleted are kept where nobody else has them, and all of them come back', async () => {
    const path = await laidWithOwnMod();
    await here().writeWhole(await gameFile('notes.txt'), new TextEncoder().encode('mine'));
    await here().setReadOnly(await gameFile('notes.txt'), true);
    await run('survey');
    const before = await imageOf(here());
    const { found, lost, own, again, fresh } = await losses.losses(INSTALL);
    expect(lost.map((file) => file.path)).toEqual([path, 'notes.txt']);
    expect([own.files > 8, again.files > 300, fresh]).toEqual([true, true, true]);

    const cut = contextOf({});
    const whole = here();
    disk.now = failingAfter(400, whole);
    const job = await KINDS['delete-files']();
    await expect(job.run(cut)).rejects.toBe(POWER_WENT);
    disk.now = whole;
    await job.run(cut);
    await noteJob('delete-files', {}, cut.id, 'done');
    const { tree } = await getInstall(INSTALL);
    expect(await whole.list(treePath(tree))).toEqual([]);
    const [kept] = (await keepsakes.keepsakes(INSTALL)).keepsakes;
    expect(kept).toMatchObject({ what: 'delete-files', files: own.files + lost.length });
    expect(kept!.files).toBeLessThan(found.size);
    await run('take-back', { sets: [cut.id], way: 'back' });
    expect(differences(await imageOf(whole), before, treePath(tree))).toEqual([]);
    expect(await whole.isReadOnly(await gameFile('notes.txt'))).toBe(true);
    await removeOwnMod(GAME, asMod('keel-noise'));
  }, 60_000);

  it('files that are held read-only are put right all the same, and are written again once the hold is let go', async () => {
    await laidWithOwnMod();
    const sheet = await laidSheet();
    await run('hold', { sheet, lockFiles: true });
    const hold = (await getHold(INSTALL))!;
    const program = await gameFile('bin/ferrywake.prog');
    expect(await here().isReadOnly(program)).toBe(true);
    expect(await here().isReadOnly(await gameFile('saves/voyage-1.fws'))).toBe(false);
    expect([hold.locked!.length > 300, hold.checks.at(-1)!.unlocked]).toEqual([true, 0]);
    // Somebody sets a flag back, changes a file and leaves its bytes elsewhere.
    await here().writeWhole(await gameFile('program.old'), await here().read(program));
    await here().setReadOnly(program, false);
    await here().writeWhole(program, new Uint8Array([0]));
    await run('survey', { checkHold: true });
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({ drift: 2, unlocked: 1 });
    await here().setReadOnly(program, true);
    const { target, toFetch } = (await stages.holdView(INSTALL)).repair!;
    expect(toFetch).toBe(0);
    await run('assemble', { target: { ...target, decidedBy: 'hold-sheet', at: 0 }, way: 'in-place' });
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({ drift: 0, unlocked: 0, repaired: 2 });
    await run('release', { sheet });
    expect([await here().isReadOnly(program), await getHold(INSTALL)]).toEqual([false, undefined]);
    await removeOwnMod(GAME, asMod('keel-noise'));
  }, 60_000);
});

describe('the storefront', () => {
  it('is stopped by a locked record before it has touched a file', async () => {
    disk.now = await folderFrom(ready.image);
    await here().setReadOnly(RECORD_PATH, true);
    await fetch('/stand-ins/panel/act', { method: 'POST', body: JSON.stringify({ do: 'release-patch' }) });
    const answer = await storefrontLooks(await readRecord(here()));
    expect(answer).toMatchObject({ action: 'update', build: '3.2.0' });
    const refused = await run('storefront-update', answer).catch((error: unknown) => error);
    expect(isFailure(refused, 'folder/read-only')).toBe(true);
    expect(differences(await imageOf(here()), ready.image)).toEqual([]);
  });
});

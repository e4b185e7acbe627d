import 'fake-indexeddb/auto';
import * as zstd from '@bokuweb/zstd-wasm';
import { vi } from 'vitest';
import { Failure } from '#core/failure';
import { HOLD_SHEET_VERSION, type HoldSheet, HoldSheetSchema, sheetFacts } from '#core/hold';
import { type InstallRecord, PanelStateSchema, RecordSchema } from '#core/outside';
import { arrivals } from '#core/contents';
import type { Folder } from '#core/folders';
import { withPointer } from '~/folders';
import { changeDisk, inspectDisk } from '~/workers/change-task';
import { readerAt, treePath } from '~/folders';
import { memoryFolder } from '#core/folders';
import * as shelving from '~/queries/shelving';
import { installContext, treeOfTarget } from '~/queries/install-context';
import { questions } from '~/queries/questions';
import * as choosing from '~/queries/choosing';
import * as stages from '~/queries/stages';
import { getPack, getStream } from '~/remote/http';
import { streamSha256 } from '~/remote/stream-sha256';
import type { ByteRange } from '#core/fetch';
import { unpacking } from '#core/bundles';
import { firstInstall, signIn } from '~/remote/services';
import { askSource } from '~/remote/sources';
import { platformSha256 } from '~/remote/sha256';
import { addInstall, getInstall, updateInstall } from '~/store/installs';
import { broadcast } from '~/store';
import { putJob } from '~/store/jobs';
import type { Install, JobKind, Target } from '~/store/records';
import { addGame, SERVICE_SOURCE } from '~/store/games';
import { putSession, putTold } from '~/store/told';
import { failureResponse } from '../../../server/http/failures';
import { standIns } from '../../../server/stand-ins/stand-ins';
import type { JobContext } from '../job-context';
import type { DiskPool } from '~/workers';
import { takeIn } from '~/workers/arrival-tasks';
import { packBag } from '~/workers/bag-task';
import { lookAtFolder } from '~/workers/look-tasks';
import { unpackArchive } from '~/workers/archive-task';
import { lookIntoBag, unpackBag } from '~/workers/unbag-task';
import { KINDS } from '../kinds';

/*
 * The kinds of jobs on a disk in memory, against the stand-ins themselves: what they do, and what is left when they are
 * cut off anywhere. Whatever takes the place of the platform is put there when this is loaded: import it first.
 */

const hoisted = vi.hoisted(() => {
  // The whole world, and fewer of the files that are alike, and of their bytes.
  process.env['REGRESSUM_DEMO_FILES'] = '0.3';
  process.env['REGRESSUM_DEMO_BYTES'] = '0.4';
  return { now: undefined as unknown };
});
/** The browser disk of a test: what `now` is, every job works on. */
export const disk: { now: unknown } = hoisted;
export const here = (): Folder => disk.now as Folder;

vi.mock('~/folders/browser-disk', () => ({ browserDisk: () => hoisted.now }));
vi.mock('~/folders/picked-disk', async () => {
  const { withPointer } = await import('~/folders/install-disk');
  return { pickedDisk: ({ tree }: { tree: string }) => withPointer(here(), tree) };
});
// A handle is no more than a name here, and its permission given.
vi.mock('~/places/can-change', () => ({
  canChange: async () => true,
  changingOf: async () => 'may',
  canRead: async () => true,
  askFor: async () => true,
}));
vi.mock('~/workers/hire', () => ({
  hireDiskPool: () => ({ ...contextOf(undefined).pool, end: async () => undefined }),
}));
vi.mock('~/queries/client', () => ({
  query: (question: keyof typeof questions, ...parameters: unknown[]) =>
    (questions[question] as (...parameters: unknown[]) => Promise<unknown>)(...parameters),
}));

/** Jobs that were started from elsewhere than a test, in their order: they run to their end at once. */
export const started: { readonly kind: JobKind; readonly params: unknown }[] = [];

vi.mock('~/jobs/job-center', () => ({
  installLock: (id: string) => `lock of ${id}`,
  jobs: {
    snapshot: () => new Map(),
    ended: async () => undefined,
    async start(kind: JobKind, install: string, params: unknown = {}) {
      started.push({ kind, params });
      const id = await run(kind, params, install);
      // As the center does.
      broadcast({ type: 'changed' });
      return id;
    },
  },
}));

export const INSTALL = 'demo';
export const GAME = 'ferrywake';
export const NO_PROGRESS = { phase: '', files: 0, filesTotal: 0, bytes: 0, bytesTotal: 0 };
const COOKIE = 'regressum-world=00000000-0000-4000-8000-00000000abcd';

vi.stubGlobal('fetch', (url: string, init: RequestInit = {}) => {
  const [, , service, ...rest] = url.split('/');
  const request = new Request(`http://127.0.0.1${url}`, init);
  // A request of the platform's own carries cookies by itself; one that is made by hand may not set them.
  request.headers.set('Cookie', COOKIE);
  return standIns(request, service!, decodeURIComponent(rest.join('/'))).catch(failureResponse);
});

/** Where the demo's storefront keeps its record. */
export const RECORD_PATH = 'quayline/record.json';
export const readRecord = async (disk: Folder): Promise<InstallRecord> =>
  RecordSchema.parse(JSON.parse(new TextDecoder().decode(await disk.read(RECORD_PATH))));

/** A job's progress as its row shows it. @throws Error where a phase ends before what it said there is to do, or goes past it */
function progressOf(kind: string): Pick<JobContext, 'phase' | 'add'> & { readonly end: () => void } {
  let now = NO_PROGRESS;
  const end = (): void => {
    const { phase, files, filesTotal, bytes, bytesTotal } = now;
    const isCounted = filesTotal > 0 || bytesTotal > 0;
    if (!isCounted || (files === filesTotal && bytes === bytesTotal)) return;
    throw new Error(`${kind}, "${phase}": ${files} of ${filesTotal} files, ${bytes} of ${bytesTotal} bytes at its end`);
  };
  return {
    phase: (phase, filesTotal, bytesTotal) => {
      end();
      now = { ...NO_PROGRESS, phase, filesTotal, bytesTotal };
    },
    add: (files, bytes) => {
      if (now.phase === '') throw new Error(`${kind} has counted before it said what it does`);
      now = { ...now, files: now.files + files, bytes: now.bytes + bytes };
    },
    end,
  };
}

let jobs = 0;
/** What jobs found out, by their ids. */
// The stand-in, which compresses, has made the library ready: to do so again would take its memory away from under it.
const unpack = unpacking(async () => ({ ...zstd, init: async () => undefined }));
export const outcomes = new Map<string, unknown>();

export function contextOf(
  params: unknown,
  id = `job-${++jobs}`,
  gate = async (): Promise<void> => undefined,
  install = INSTALL,
  { phase, add }: Pick<JobContext, 'phase' | 'add'> = { phase: () => undefined, add: () => undefined },
): JobContext {
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
      if (task.do === 'unpack')
        return (task.isBag ? unpackBag : unpackArchive)(task, { ...ports, to: arrivals(here()) }).then(() => ({}));
      if (task.do === 'change') return changeDisk(task, withPointer(here(), task.tree), ports).then(() => ({}));
      if (task.do === 'inspect') return inspectDisk(task, withPointer(here(), task.tree), ports);
      if (
        task.do === 'backup' ||
        task.do === 'restore' ||
        task.do === 'merge' ||
        task.do === 'read' ||
        task.do === 'take-over' ||
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
  return {
    id,
    install,
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
    phase,
    add,
    tell: (outcome) => void outcomes.set(id, outcome),
    then: (kind, next, other = install) => void follows.push(() => runJob(kind, next, other)),
  };
}

export const targetNow = async (): Promise<{ target: Target }> => ({ target: (await getInstall(INSTALL)).target! });
export const planNow = async () => stages.plan(INSTALL, (await targetNow()).target);

export const noteJob = (kind: JobKind, params: unknown, id: string, state: 'done', install = INSTALL): Promise<void> =>
  putJob({ id, install, kind, params, startedAt: 0, endedAt: Date.now(), progress: NO_PROGRESS, state });

/** Jobs that follow on one that runs. */
let follows: (() => Promise<unknown>)[] = [];

/** Runs a job to its end, and those that follow on it, as the center for jobs does. @returns its id */
export const run = runJob;

async function runJob(kind: JobKind, params: unknown = {}, install = INSTALL): Promise<string> {
  const progress = progressOf(kind);
  const context = contextOf(params, undefined, undefined, install, progress);
  try {
    await (await KINDS[kind]()).run(context);
    progress.end();
  } finally {
    await noteJob(kind, params, context.id, 'done', install);
  }
  const next = follows;
  follows = [];
  for (const follow of next) await follow();
  return context.id;
}

/** The files of a folder with their bytes, to go back to. */
export type Image = ReadonlyMap<string, Uint8Array<ArrayBuffer>>;

/** The time of each file of an image. */
const times = new WeakMap<Uint8Array, number>();

export async function imageOf(folder: Folder): Promise<Image> {
  const image = new Map<string, Uint8Array<ArrayBuffer>>();
  for (const { path, modified } of await folder.list()) {
    const bytes = await folder.read(path);
    times.set(bytes, modified);
    image.set(path, bytes);
  }
  return image;
}

export async function folderFrom(image: Image): Promise<Folder> {
  const folder = memoryFolder();
  for (const [path, bytes] of image) {
    await folder.writeWhole(path, bytes);
    await folder.setModified(path, times.get(bytes) ?? 0);
  }
  return folder;
}

export const POWER_WENT = new Failure('folder/failed', { message: 'the power went' });

/** A disk that stops taking changes after some of them, as when the power goes. */
export function failingAfter(changes: number, inner: Folder, failure: Failure = POWER_WENT): Folder {
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
export function differences(a: Image, b: Image, folder = ''): string[] {
  const paths = new Set([...a.keys(), ...b.keys()].filter((path) => path.startsWith(folder)));
  // Said by Buffer: a test library compares byte by byte, which takes minutes for a tree.
  return [...paths].filter((path) => !(a.has(path) && b.has(path) && Buffer.from(a.get(path)!).equals(b.get(path)!)));
}

/** Where a file of the game lies now. */
export const gameFile = async (path: string) => treePath((await getInstall(INSTALL)).tree, path);

/** A sheet of what lies in the folder, as far as holding cares. */
export async function laidSheet(): Promise<HoldSheet> {
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

/** As the center for jobs would have noted that a job of this kind has worked on the folder. */
export const noted = (kind: JobKind): Promise<void> => noteJob(kind, {}, `noted-${++jobs}`, 'done');

/** Lays out the demo's folder, surveys it, and decides on the build that is recommended. */
export async function layOut(): Promise<void> {
  disk.now = memoryFolder();
  const { title, folder, ownership, weights, recordPath } = await firstInstall();
  const at = Date.now();
  const told = await askSource(SERVICE_SOURCE, { index: undefined, catalogue: undefined });
  const { game } = told.index!.value;
  if (game.id !== GAME) throw new Error(`the demo's game is ${game.id}`);
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
}

export async function signInAtService(): Promise<void> {
  const account = { name: 'ferryhand', passphrase: 'lantern-over-water' };
  await signIn(account);
  const panel = await fetch('/stand-ins/panel/state');
  const { oneTimeCode } = PanelStateSchema.parse(await panel.json());
  const answer = await signIn({ ...account, code: oneTimeCode! });
  if (answer.step !== 'signed-in') throw new Error('not signed in');
  await putSession(GAME, { token: answer.token, account: answer.name, branches: answer.branches });
}

/** A disk and the install on it, to go back to. */
export interface World {
  readonly image: Image;
  readonly install: Install;
}

export const worldNow = async (): Promise<World> => ({
  image: await imageOf(here()),
  install: await getInstall(INSTALL),
});

/** Goes back to a world. */
export async function goBackTo({ image, install }: World): Promise<void> {
  disk.now = await folderFrom(image);
  await updateInstall(INSTALL, () => install);
}

/** The demo's folder with all that its target needs in the store: fetched, the player's files kept, and what goes by it shelved. */
export async function readyToLayDown(): Promise<World> {
  await layOut();
  await signInAtService();
  await run('fetch', await targetNow());
  // The player's files are kept, so that no change keeps them once more.
  await run('keepsake');
  await run('shelve', {
    ...{ archives: [], add: [] },
    releases: await shelving.leaving(INSTALL, (await getInstall(INSTALL)).target!.releases),
  });
  return worldNow();
}

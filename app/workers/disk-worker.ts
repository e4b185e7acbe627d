import '~/no-eval';
import { unpacking } from '#core/bundles';
import { ProgressSum } from '#core/calls';
import { answerMessages } from './answer-messages';
import { type ChangedPlace, changeDisk, inspectDisk } from './change-task';
import {
  browserDisk,
  installFolder,
  openBeside,
  pickedDisk,
  type Place,
  readerAt,
  servedOnes,
  servedStore,
  withBeside,
  withPointer,
} from '~/folders';
import type { Disk } from '#core/changes';
import { type ArrivalFolder, arrivals } from '#core/contents';
import type { Folder, FolderReader } from '#core/folders';
import { getPack, getStream, platformSha256, streamSha256, tellServedToken } from '~/remote';
import { takeIn } from './arrival-tasks';
import { pauseFor } from './pause-for';
import { lookAtFolder } from './look-tasks';
import type { ArrivalPlace, DiskProgress, DiskResults, DiskTask, DiskWork } from './protocol';

const unpack = unpacking(() => import('@bokuweb/zstd-wasm'));

const disks = new Map<string, Folder>();

function diskAt(root: string): Folder {
  let disk = disks.get(root);
  if (!disk) disks.set(root, (disk = installFolder(root)));
  return disk;
}

const readerOf = (place: Place): FolderReader => (place.kind === 'browser-disk' ? diskAt(place.disk) : readerAt(place));

function arrivalsAt(place: ArrivalPlace): ArrivalFolder {
  switch (place.kind) {
    case 'browser-disk':
      return arrivals(diskAt(place.disk));
    case 'picked':
      return arrivals(pickedDisk(place));
    case 'served':
      return servedStore(place);
  }
}

const changedAt = (place: ChangedPlace, tree: string): Disk =>
  place.kind === 'picked' ? pickedDisk(place) : withPointer(diskAt(place.disk), tree);

async function perform(
  task: DiskTask,
  progress: (progress: DiskProgress) => void,
  signal: AbortSignal,
): Promise<DiskResults[DiskTask['do']]> {
  const ports = { sha256: platformSha256, progress, signal };
  if (task.do === 'hash' || task.do === 'list') return lookAtFolder(task, { ...ports, reader: readerOf(task.place) });
  if (task.do === 'read') {
    const from = arrivalsAt(task.place);
    return { bytes: await Promise.all(task.files.map(({ at, size }) => from.read(at, 0, size))) };
  }
  if (task.do === 'merge') {
    const { mergeFiles } = await import('./merge-task');
    return mergeFiles(task, { ...ports, from: arrivalsAt(task.place) });
  }
  // The archive writer is loaded when the first keepsake is packed.
  if (task.do === 'bag') {
    const { packBag } = await import('./bag-task');
    return packBag(task, arrivalsAt(task.from), { ...ports, folder: diskAt(task.disk) });
  }
  if (task.do === 'look-into-bag' || (task.do === 'unpack' && task.isBag)) {
    const { lookIntoBag, unpackBag } = await import('./unbag-task');
    if (task.do === 'look-into-bag') return lookIntoBag(task, ports);
    await unpackBag(task, { ...ports, to: arrivalsAt(task.to) });
    return {};
  }
  if (task.do === 'look-into-archive' || task.do === 'digest-in-archive' || task.do === 'unpack') {
    const { digestInArchive, lookIntoArchive, unpackArchive } = await import('./archive-task');
    if (task.do === 'look-into-archive') return lookIntoArchive(task, { ...ports, readerOf });
    if (task.do === 'digest-in-archive') return digestInArchive(task, { ...ports, readerOf, newHash: streamSha256 });
    await unpackArchive(task, { ...ports, to: arrivalsAt(task.to) });
    return {};
  }
  if (task.do === 'take-over') {
    const { takeOver } = await import('./take-over-task');
    await takeOver(task, { ...ports, from: readerOf(task.from), to: arrivalsAt(task.to) });
    return {};
  }
  if (task.do === 'backup' || task.do === 'restore') {
    const { backUp, restore } = await import('./backup-task');
    const backup = { ...ports, diskAt: browserDisk };
    return task.do === 'backup' ? backUp(task, backup) : restore(task, backup);
  }
  if (task.do === 'change') {
    await changeDisk(task, withBeside(changedAt(task.place, task.tree), task.beside ?? {}), ports);
    return {};
  }
  if (task.do === 'inspect')
    return inspectDisk(task, withBeside(changedAt(task.place, task.tree), task.beside ?? {}), ports);
  if (task.do === 'fetch') {
    tellServedToken(task.served);
    // What the server has of both ends does not travel through the page.
    if (task.place.kind === 'served' && !task.from)
      return servedStore(task.place).fetch(
        { ...task, beside: servedOnes(task.beside ?? {}) },
        (news) => progress({ kind: 'piece', ...news }),
        signal,
      );
  }
  const folder = task.do === 'fetch' ? arrivalsAt(task.place) : arrivals(diskAt(task.disk));
  const token = task.do === 'fetch' ? task.token : undefined;
  return takeIn(task, {
    ...{ ...ports, folder, getPack, newHash: streamSha256, unpack },
    from: task.do === 'fetch' ? openBeside(task.from ? readerOf(task.from) : folder, task.beside ?? {}) : folder,
    open: (href, range) => getStream(href, { range, token, signal }),
    wait: (milliseconds) => pauseFor(milliseconds, signal),
    now: () => performance.now(),
    bytesPerSecond: task.do === 'fetch' ? task.bytesPerSecond : undefined,
  });
}

answerMessages<DiskWork>(async (task, { signal, progress }) => {
  const sum = new ProgressSum(
    (done) => progress({ kind: 'bytes', ...done }),
    () => performance.now(),
  );
  const tell = (news: DiskProgress): void => {
    if (news.kind === 'bytes') return sum.add(news);
    // What becomes of a piece is told at once, after what was done before it.
    sum.flush();
    progress(news);
  };
  try {
    return await perform(task, tell, signal);
  } finally {
    sum.flush();
  }
});

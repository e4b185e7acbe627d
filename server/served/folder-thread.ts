import { fstatSync } from 'node:fs';
import { isInStore } from '#core/changes';
import { isFailure } from '#core/failure';
import type { HashOutcome } from '#core/folders';
import { fileFailure, openFileBelow, openFolderBelow, type OpenFolder, withFileIn } from './below';
import { hashOpen } from './hash-open';
import { type Listed, listBelow } from './list-below';
import type { LookWork, Results, Task } from './look-protocol';
import { answerParent } from './server-thread';

/* A thread that looks at served folders: lists them, hashes their files, opens one to be read. */

/** Hashes files; of one that cannot be read, or whose folder is gone, the outcome says why, and the rest goes on. */
function hashFiles({ root, folder, files }: Extract<Task, { do: 'hash' }>): HashOutcome[] {
  // Files come sorted: those of one folder stand together, and it is opened once for them.
  let open: { path: string; folder: OpenFolder } | undefined;
  try {
    return files.map((file) => {
      try {
        const path = folder === '' ? file.path : `${folder}/${file.path}`;
        const slash = path.lastIndexOf('/');
        const above = path.slice(0, Math.max(0, slash));
        if (open?.path !== above) {
          open?.folder.close();
          open = undefined;
          open = { path: above, folder: openFolderBelow(root, above) };
        }
        return withFileIn(open.folder, path.slice(slash + 1), (fd) => hashOpen(fd, file));
      } catch (error) {
        return { code: isFailure(error) ? error.code : fileFailure(error, file.path).code };
      }
    });
  } finally {
    open?.folder.close();
  }
}

function openFile({ root, path }: Extract<Task, { do: 'open' }>): Results['open'] {
  const fd = openFileBelow(root, path);
  const { size, mtimeNs, ino } = fstatSync(fd, { bigint: true });
  return { fd, size: Number(size), etag: `"${ino.toString(36)}-${size.toString(36)}-${mtimeNs.toString(36)}"` };
}

const ENTRIES_AT_ONCE = 2000;
const line = (entry: object): string => `${JSON.stringify(entry)}\n`;

const lists = new Map<number, { folder: OpenFolder; entries: Generator<Listed> }>();

function startList({ list, root, folder: path }: Extract<Task, { do: 'list' }>): Results['list'] {
  const folder = openFolderBelow(root, path);
  // The store is no part of the game, wherever it lies.
  lists.set(list, { folder, entries: listBelow(folder, isInStore) });
  return {};
}

function goOn(list: number): Results['list-on'] {
  let lines = '';
  for (let i = 0; i < ENTRIES_AT_ONCE; i++) {
    const next = lists.get(list)?.entries.next();
    if (!next || next.done) break;
    lines += line(next.value);
  }
  return lines === '' ? undefined : lines;
}

/** Closes what a list holds open, however far it is. */
function endList(list: number): Results['list-end'] {
  const under = lists.get(list);
  lists.delete(list);
  under?.entries.return(undefined);
  under?.folder.close();
  return {};
}

function perform(task: Task): Results[Task['do']] {
  switch (task.do) {
    case 'hash':
      return hashFiles(task);
    case 'open':
      return openFile(task);
    case 'list':
      return startList(task);
    case 'list-on':
      return goOn(task.list);
    case 'list-end':
      return endList(task.list);
  }
}

answerParent<LookWork>(async (task) => {
  try {
    return perform(task);
  } catch (error) {
    throw fileFailure(error, 'path' in task ? task.path : 'folder' in task ? task.folder : '');
  }
});

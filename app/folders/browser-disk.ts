import { Failure } from '#core/failure';
import { fileName, folderOf } from '#core/paths';
import { openBlob } from './blob-file';
import { naming } from './file-failures';
import { blobOf, entryAt, fileIn, handleTree, type MovableHandle } from './handle-tree';
import { type Folder, noTimes, type OpenFile } from '#core/folders';
import { entriesBelow } from './walk';
import { whileHeld } from './while-held';

/** Marks a file as read-only: the origin's private file system has no such flag of its own. */
const FLAG = '.~read-only';

/** Ends the name of a file that is being written; one that is left over was never whole and does not count. */
const FRESH = '.~fresh';

const inWorker =
  typeof FileSystemFileHandle !== 'undefined' && 'createSyncAccessHandle' in FileSystemFileHandle.prototype;

interface SyncAccess {
  getSize(): number;
  read(into: Uint8Array, options: { at: number }): number;
  write(bytes: Uint8Array, options: { at: number }): number;
  truncate(size: number): void;
  close(): void;
}

/** Only workers have it, so the DOM library leaves it out. */
interface SyncHandle extends FileSystemFileHandle {
  createSyncAccessHandle?(options?: { mode: 'read-only' }): Promise<SyncAccess>;
}

/** From this size on, opening a file for synchronous access costs less than it saves (bench/verify). */
const SYNC_FROM = 1 << 18;

/** Reads straight from the file, where a blob's bytes come through another process at a fifth of the speed. */
function openSync(access: SyncAccess, size: number): OpenFile {
  return {
    size,
    async read(start, end, into) {
      const length = Math.max(0, Math.min(end, size) - start);
      const bytes = into?.subarray(0, length) ?? new Uint8Array(length);
      return bytes.subarray(0, access.read(bytes, { at: start }));
    },
    close: () => access.close(),
  };
}

/** Undefined where another tab has the file open to write; its bytes can be read all the same, only slower. */
const synchronous = (handle: Required<SyncHandle>): Promise<SyncAccess | undefined> =>
  whileHeld(handle, handle.createSyncAccessHandle({ mode: 'read-only' })).catch(() => undefined);

/** Bytes that are copied at a time. */
const COPIED_AT_ONCE = 8 << 20;

/** Writes a blob into a file, a few megabytes at a time. @throws Failure `folder/full` */
async function writeThrough(handle: Required<SyncHandle>, blob: Blob, path: string): Promise<void> {
  const access = await whileHeld(handle, handle.createSyncAccessHandle());
  try {
    access.truncate(0);
    for (let at = 0; at < blob.size; at += COPIED_AT_ONCE) {
      const bytes = new Uint8Array(await blob.slice(at, at + COPIED_AT_ONCE).arrayBuffer());
      if (access.write(bytes, { at }) < bytes.length) throw new Failure('folder/full', { path });
    }
  } finally {
    access.close();
  }
}

/** A folder that takes files from other folders of the browser as references, and gives them out. */
export interface BrowserFolder extends Folder {
  /** Puts a file in place, a few megabytes at a time; whoever reads sees the old bytes or the new. */
  put(path: string, blob: Blob): Promise<void>;
  /** A file as the browser hands it to a person: a reference, not its bytes. */
  fileOf(path: string): Promise<File>;
}

export interface BrowserDisk extends BrowserFolder {
  /** Moves a file to another folder of the browser disk, over an existing one too. */
  moveTo(path: string, other: BrowserDisk, to: string): Promise<void>;
  /** The folder of a path and its name in it, to be moved to; the folder is made. */
  placeFor(path: string): Promise<{ folder: FileSystemDirectoryHandle; name: string }>;
}

/**
 * A folder of the origin's private file system, made where it is missing. Works in pages and workers.
 * @param root path of the folder below the private file system's root
 */
export function browserDisk(root: string): BrowserDisk {
  const { folder, file, ...tree } = handleTree(async () => {
    let handle = await navigator.storage.getDirectory();
    for (const part of root.split('/')) {
      handle = await whileHeld(handle, handle.getDirectoryHandle(part, { create: true }));
    }
    return handle;
  });

  /** Asks the folder directly: that a flag is missing is the usual case, and says nothing about the known handles. */
  async function isReadOnly(path: string): Promise<boolean> {
    const above = await folder(folderOf(path)).catch(() => undefined);
    const flag = above && (await fileIn(above, fileName(path) + FLAG, false).catch(() => undefined));
    return flag !== undefined;
  }

  async function assertWritable(path: string): Promise<void> {
    if (await isReadOnly(path)) throw new Failure('folder/read-only', { path });
  }

  async function put(path: string, blob: Blob): Promise<void> {
    await assertWritable(path);
    // What is half written under this name counts as nothing.
    const fresh = (await file(path + FRESH, true)) as MovableHandle & SyncHandle;
    if (inWorker) await writeThrough(fresh as Required<SyncHandle>, blob, path);
    else await blob.stream().pipeTo(await whileHeld(fresh, fresh.createWritable()));
    await whileHeld(fresh, fresh.move(await folder(folderOf(path), true), fileName(path)));
  }

  async function placeFor(path: string): Promise<{ folder: FileSystemDirectoryHandle; name: string }> {
    await assertWritable(path);
    return { folder: await folder(folderOf(path), true), name: fileName(path) };
  }

  async function moveFile(from: string, to: { folder: FileSystemDirectoryHandle; name: string }): Promise<void> {
    const handle = (await file(from)) as MovableHandle;
    await whileHeld(handle, handle.move(to.folder, to.name));
  }

  return {
    can: { write: true, move: true, readOnlyFlag: true, times: false, freeSpace: true },
    async list(path = '', listener) {
      tree.forget();
      const start = await folder(path).catch(() => undefined);
      // Of a stream that was cut off the browser leaves a file of its own beside the fresh one.
      const counts = (name: string): boolean => !name.endsWith(FLAG) && !name.includes(FRESH);
      return start ? naming(path, () => entriesBelow(start, path, listener, counts)) : [];
    },
    stat: (path) => entryAt(path, () => file(path)),
    open: (path, likelySize = 0) =>
      naming(path, async () => {
        const handle: SyncHandle = await file(path);
        if (likelySize >= SYNC_FROM && handle.createSyncAccessHandle) {
          const access = await synchronous(handle as Required<SyncHandle>);
          if (access) return openSync(access, access.getSize());
        }
        const blob = await blobOf(handle);
        if (blob.size < SYNC_FROM || !handle.createSyncAccessHandle) return openBlob(blob);
        const access = await synchronous(handle as Required<SyncHandle>);
        return access ? openSync(access, blob.size) : openBlob(blob);
      }),
    read: (path, start = 0, end) =>
      naming(path, async () => openBlob(await blobOf(await file(path))).read(start, end ?? Infinity)),
    writeWhole: (path, bytes) =>
      naming(path, async () => {
        await assertWritable(path);
        if (!inWorker) {
          // In a page only the stream is to be had: it writes to a copy that takes the file's place on close.
          const handle = await file(path, true);
          const stream = await whileHeld(handle, handle.createWritable());
          await stream.write(bytes);
          await stream.close();
          return;
        }
        const fresh = (await file(path + FRESH, true)) as MovableHandle & Required<SyncHandle>;
        // In a worker this is several times as fast as the stream; the move is what makes it whole or nothing.
        const access = await whileHeld(fresh, fresh.createSyncAccessHandle());
        try {
          access.truncate(0);
          if (access.write(bytes, { at: 0 }) < bytes.length) throw new Failure('folder/full', { path });
        } finally {
          access.close();
        }
        await whileHeld(fresh, fresh.move(await folder(folderOf(path), true), fileName(path)));
      }),
    writeAt: (path, offset, bytes) =>
      naming(path, async () => {
        await assertWritable(path);
        const handle: SyncHandle = await file(path, true);
        if (!handle.createSyncAccessHandle) {
          const stream = await whileHeld(handle, handle.createWritable({ keepExistingData: true }));
          await stream.write({ type: 'write', position: offset, data: bytes });
          await stream.close();
          return;
        }
        const access = await whileHeld(handle, handle.createSyncAccessHandle());
        try {
          const written = access.write(bytes, { at: offset });
          if (written < bytes.length) throw new Failure('folder/full', { path });
        } finally {
          access.close();
        }
      }),
    move: (from, to) =>
      naming(from, async () => {
        await assertWritable(from);
        await moveFile(from, await placeFor(to));
      }),
    moveTo: (path, other, to) =>
      naming(path, async () => {
        await assertWritable(path);
        await moveFile(path, await other.placeFor(to));
      }),
    placeFor,
    put: (path, blob) => naming(path, () => put(path, blob)),
    fileOf: (path) => naming(path, async () => blobOf(await file(path))),
    copy: (from, to) => naming(from, async () => put(to, await blobOf(await file(from)))),
    // Each file is written through when it is closed; more cannot be asked for here.
    sync: async () => undefined,
    remove: (path) =>
      naming(path, async () => {
        await assertWritable(path);
        await tree.remove(path);
      }),
    setReadOnly: (path, readOnly) =>
      naming(path, async () => {
        await file(path);
        if (readOnly) await file(path + FLAG, true);
        else {
          const above = await folder(folderOf(path));
          await whileHeld(above, above.removeEntry(fileName(path) + FLAG)).catch(() => undefined);
        }
      }),
    setModified: noTimes,
    isReadOnly,
    async room() {
      const { usage, quota } = await navigator.storage.estimate();
      return usage === undefined || quota === undefined ? undefined : { used: usage, free: quota - usage };
    },
  };
}

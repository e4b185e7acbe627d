import { Failure } from '#core/failure';
import { filesOfInput, type HandedFiles } from '~/folders';

/** What a person brings in. */
export type FolderOffer =
  | { readonly kind: 'picked'; readonly name: string; readonly handle: FileSystemDirectoryHandle }
  | { readonly kind: 'handed'; readonly name: string; readonly files: HandedFiles }
  | { readonly kind: 'served'; readonly name: string; readonly root: string; readonly folder: string }
  | { readonly kind: 'list'; readonly name: string; readonly bytes: Uint8Array };

export const canPick = (): boolean => window.showDirectoryPicker !== undefined;

/**
 * Lets a person pick a game's folder; undefined when they close the picker.
 * @param mode what the browser is asked for
 */
export async function pickFolder(mode: 'read' | 'readwrite' = 'read'): Promise<FolderOffer | undefined> {
  const handle = await unlessClosed(window.showDirectoryPicker!({ id: 'game', mode }));
  return handle && { kind: 'picked', name: handle.name, handle };
}

/** Lets a person pick a folder for a store; undefined when they close the picker. */
export const pickStore = (): Promise<FileSystemDirectoryHandle | undefined> =>
  unlessClosed(window.showDirectoryPicker!({ id: 'store', mode: 'readwrite' }));

/** Lets a person name a file to be written; undefined when they close the picker. */
export const pickSaveFile = (suggestedName: string): Promise<FileSystemFileHandle | undefined> =>
  unlessClosed(window.showSaveFilePicker!({ suggestedName }));

async function unlessClosed<T>(picked: Promise<T>): Promise<T | undefined> {
  try {
    return await picked;
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') return undefined;
    throw error;
  }
}

export function inputFolder(list: FileList): FolderOffer | undefined {
  const { name, files } = filesOfInput(list);
  return files.size === 0 ? undefined : { kind: 'handed', name, files };
}

/** Texts that people hand over are smaller by far; what is larger is no list, table, sheet or log. */
const MAX_TEXT = 512 << 20;

/** The bytes of a file that is to be read as a text. @throws Failure `list/too-long` */
export async function bytesOf(file: File): Promise<Uint8Array> {
  if (file.size > MAX_TEXT) throw new Failure('list/too-long', { file: file.name, limit: `${MAX_TEXT} bytes` });
  return new Uint8Array(await file.arrayBuffer());
}

export async function listFile(file: File): Promise<FolderOffer> {
  return { kind: 'list', name: file.name, bytes: await bytesOf(file) };
}

async function filesBelow(entry: FileSystemEntry, path: string, into: Map<string, File>): Promise<void> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    into.set(path, file);
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  // A reader gives a hundred entries at a time, and none when it is done.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (some.length === 0) return;
    await Promise.all(some.map((child) => filesBelow(child, path === '' ? child.name : `${path}/${child.name}`, into)));
  }
}

/** A folder or a file that was dropped. Has to be called before the event is over: what was dropped is gone then. */
export async function dropped(transfer: DataTransfer): Promise<FolderOffer | File | readonly File[] | undefined> {
  const items = [...transfer.items].filter(({ kind }) => kind === 'file');
  const [item] = items;
  if (items.length > 1 && items.every((one) => one.webkitGetAsEntry()?.isFile))
    return items.map((one) => one.getAsFile()).filter((file) => file !== null);
  const handled = item?.getAsFileSystemHandle?.();
  const entry = item?.webkitGetAsEntry();
  // What a page itself puts into a drag has no entry.
  if (!entry || entry.isFile) return item?.getAsFile() ?? undefined;
  // One that is remembered, and can be changed, where the browser has such.
  const handle = await handled?.catch(() => null);
  if (handle?.kind === 'directory')
    return { kind: 'picked', name: handle.name, handle: handle as FileSystemDirectoryHandle };
  const files = new Map<string, File>();
  await filesBelow(entry, '', files);
  return { kind: 'handed', name: entry.name, files };
}

/** As {@link dropped}, where a file can only be a list of a folder's files. */
export async function droppedFolder(transfer: DataTransfer): Promise<FolderOffer | undefined> {
  const what = await dropped(transfer);
  const file = what instanceof Array ? what[0] : what instanceof File ? what : undefined;
  return file ? listFile(file) : (what as FolderOffer | undefined);
}

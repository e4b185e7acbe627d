import { Failure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { INSTALL_DISK, pickedFolder, type Place, readerAt, treePath } from '~/folders';
import { canRead } from './can-change';
import { handedTo } from './handed';
import { servedToken } from '~/remote';
import type { Install } from '~/store';

/** How much is done between two looks at whether the job is paused. */
export interface BatchLimits {
  readonly files: number;
  readonly bytes: number;
}

/** The folder of an install, wherever it lies. */
export interface Source {
  readonly reader: FolderReader;
  /** The game's folder below the reader's root; empty where the two are the same. */
  readonly root: string;
  /** Where a worker finds these files; for all of them where no paths are given. */
  readonly placeOf: (paths?: readonly string[]) => Place;
  /** How much is hashed at a time, where it is not the usual. */
  readonly batch?: BatchLimits;
}

/** A request to the server costs as much as hashing a megabyte, and answers file by file. */
export const SERVED_BATCH: BatchLimits = { files: 500, bytes: 64e6 };

/** A folder that a person pointed at, which is no install's. */
export type PointedAt =
  | { readonly kind: 'picked'; readonly handle: FileSystemDirectoryHandle }
  | { readonly kind: 'served'; readonly root: string; readonly folder: string }
  /** Known to the page that it was handed to, by this name. */
  | { readonly kind: 'handed'; readonly name: string };

function handedSource(name: string): Source {
  const files = handedTo(name);
  return {
    reader: readerAt({ kind: 'handed', files }),
    root: '',
    placeOf: (paths = [...files.keys()]) => ({
      kind: 'handed',
      files: new Map(paths.flatMap((path) => (files.has(path) ? [[path, files.get(path)!] as const] : []))),
    }),
  };
}

function servedSource({ root, folder }: { readonly root: string; readonly folder: string }): Source {
  const where: Place = { kind: 'served', root, folder, token: servedToken() };
  return { reader: readerAt(where), root: '', placeOf: () => where, batch: SERVED_BATCH };
}

/** @throws Failure `folder/no-permission`, `folder/gone` as {@link sourceOf} */
export async function sourceAt(pointed: PointedAt): Promise<Source> {
  switch (pointed.kind) {
    case 'picked': {
      if (!(await canRead(pointed))) throw new Failure('folder/no-permission');
      const reader = pickedFolder(pointed.handle);
      return { reader, root: '', placeOf: () => ({ ...pointed, disk: '', tree: '' }) };
    }
    case 'served':
      return servedSource(pointed);
    case 'handed':
      return handedSource(pointed.name);
  }
}

/**
 * @throws Failure `folder/no-permission` where the browser wants to be asked again, `folder/gone` where the files were
 *   handed over to an earlier page, or where there never was a folder but a list
 */
export async function sourceOf({ id, place }: Install, tree: string): Promise<Source> {
  switch (place.kind) {
    case 'browser-disk': {
      const where: Place = { kind: 'browser-disk', disk: INSTALL_DISK(id) };
      return { reader: readerAt(where), root: treePath(tree), placeOf: () => where };
    }
    case 'picked': {
      const where: Place = { ...place, disk: INSTALL_DISK(id), tree };
      if (!(await canRead(place))) throw new Failure('folder/no-permission');
      return { reader: readerAt(where), root: '', placeOf: () => where };
    }
    case 'handed':
      return handedSource(id);
    case 'served':
      return servedSource(place);
    case 'list':
      throw new Failure('folder/gone');
  }
}

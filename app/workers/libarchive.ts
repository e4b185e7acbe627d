import { ArchiveReader, libarchiveWasm } from 'libarchive-wasm';
import type { ArchiveEntry } from '#core/archives';

/** An archive that is unpacked in memory, entry after entry. */
export interface PackedArchive {
  /** Goes on to the next entry; undefined behind the last. @throws Error with what the library says of it */
  next(): ArchiveEntry | undefined;
  /** The next bytes of the entry, at most so many; none at its end. @throws Error with what the library says of it */
  read(most: number): Uint8Array;
  close(): void;
}

/** What a file of an archive is, by the word of the library; what is left out is neither a file nor a folder. */
const KINDS: Readonly<Record<string, ArchiveEntry['is']>> = {
  File: 'file',
  Directory: 'folder',
  SymbolicLink: 'link',
};

/**
 * Opens an archive of a kind that libarchive reads: 7z, RAR, and tar in other compressions.
 * @param wasm the library, which is made anew for each archive, since its memory only ever grows
 * @throws Error with what the library says of it
 */
export async function openPacked(bytes: Uint8Array<ArrayBuffer>, wasm: ArrayBuffer): Promise<PackedArchive> {
  const library = await libarchiveWasm({ wasmBinary: wasm, printErr: () => undefined });
  const reader = new ArchiveReader(library, new Int8Array(bytes.buffer));
  return {
    next() {
      const entry = reader.nextEntry();
      if (!entry) {
        // At its end it tells of no error; where it cannot go on it does.
        const why = library.error_string(reader.archive) as string | null;
        if (why) throw new Error(why);
        return undefined;
      }
      const isLink = Boolean(entry.getHardlinkTarget());
      return {
        ...{ path: entry.getPathname(), size: entry.getSize(), isEncrypted: entry.isEncrypted() },
        is: isLink ? 'link' : (KINDS[entry.getFiletype()] ?? 'other'),
        modified: entry.getModificationTime(),
      };
    },
    read(most) {
      const { buffer, byteOffset, length } = reader.readData(most);
      return new Uint8Array(buffer, byteOffset, length);
    },
    close: () => reader.free(),
  };
}

/*
 * The chain of blocks of a RAR archive, to tell whether all of it is there: what reads its files takes an end in the middle of a block
 * for the end of the archive. After "RAR 5.0 archive format" and "technote.txt" of RAR 4.
 */

/** What a chain of blocks comes to. */
export type RarChain = 'whole' | 'cut-off' | 'in-parts' | 'encrypted';

interface Block {
  readonly type: number;
  /** Bytes of the header from its begin. */
  readonly header: number;
  readonly data: number;
  readonly isVolume: boolean;
}

/** A number of seven bits a byte, and where it ends; undefined where the bytes end before it. */
function vint(view: DataView, at: number): [value: number, end: number] | undefined {
  let value = 0;
  for (let i = 0; i < 10 && at + i < view.byteLength; i++) {
    const byte = view.getUint8(at + i);
    value += (byte & 0x7f) * 2 ** (7 * i);
    if (byte < 0x80) return [value, at + i + 1];
  }
  return undefined;
}

/** Takes some numbers after one another. */
function vints(view: DataView, at: number, many: number): [values: number[], end: number] | undefined {
  const values: number[] = [];
  for (let i = 0; i < many; i++) {
    const next = vint(view, at);
    if (!next) return undefined;
    values.push(next[0]);
    at = next[1];
  }
  return [values, at];
}

const HAS_EXTRA = 1;
const HAS_DATA = 2;
const MAIN = 1;

function block5(view: DataView, at: number): Block | undefined {
  // A checksum of four bytes, and the size of what follows.
  const size = vint(view, at + 4);
  const fields = size && vints(view, size[1], 2);
  if (!fields) return undefined;
  const [[type = 0, flags = 0], behind] = fields;
  const wanted = (flags & HAS_EXTRA ? 1 : 0) + (flags & HAS_DATA ? 1 : 0) + 1;
  const sizes = vints(view, behind, wanted);
  if (!sizes) return type === 5 ? { type, header: size[1] + size[0] - at, data: 0, isVolume: false } : undefined;
  const data = flags & HAS_DATA ? sizes[0][flags & HAS_EXTRA ? 1 : 0]! : 0;
  return { type, header: size[1] + size[0] - at, data, isVolume: type === MAIN && (sizes[0].at(-1)! & 1) !== 0 };
}

const MAIN_4 = 0x73;
const FILE_4 = 0x74;
const LARGE_4 = 0x100;
const HAS_DATA_4 = 0x8000;
const ENCRYPTED_4 = 0x80;

function block4(view: DataView, at: number): Block | undefined {
  if (at + 7 > view.byteLength) return undefined;
  const [type, flags, header] = [view.getUint8(at + 2), view.getUint16(at + 3, true), view.getUint16(at + 5, true)];
  const hasData = type === FILE_4 || (flags & HAS_DATA_4) !== 0;
  if (header < 7 || at + header > view.byteLength) return undefined;
  if (type === MAIN_4 && (flags & ENCRYPTED_4) !== 0) return { type: 4, header, data: 0, isVolume: false };
  const low = hasData ? view.getUint32(at + 7, true) : 0;
  const high = type === FILE_4 && (flags & LARGE_4) !== 0 ? view.getUint32(at + 32, true) : 0;
  return {
    type: type === 0x7b ? 5 : type,
    header,
    data: low + high * 2 ** 32,
    isVolume: type === MAIN_4 && (flags & 1) !== 0,
  };
}

const ENDS = 5;
const ENCRYPTS = 4;

/** Goes over the blocks of a RAR archive. @param bytes all of it */
export function rarChain(bytes: Uint8Array): RarChain {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const isNew = bytes[6] === 1;
  for (let at = isNew ? 8 : 7; at < bytes.length;) {
    const block = isNew ? block5(view, at) : block4(view, at);
    if (!block) return 'cut-off';
    if (block.type === ENCRYPTS) return 'encrypted';
    if (block.isVolume) return 'in-parts';
    at += block.header + block.data;
    if (at > bytes.length) return 'cut-off';
    if (block.type === ENDS) return 'whole';
  }
  // Old ones need not say where they end.
  return isNew ? 'cut-off' : 'whole';
}

import { crc32 } from 'node:zlib';

/*
 * Archives of kinds for which no tool is at hand, made of files that are stored as they are: 7z (7zFormat.txt of its SDK) and RAR
 * (RAR 5.0 archive format).
 */

type Files = readonly (readonly [path: string, bytes: Buffer])[];

const u32 = (value: number): Buffer => {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(value >>> 0);
  return bytes;
};
const u64 = (value: number): Buffer => Buffer.concat([u32(value), u32(Math.floor(value / 2 ** 32))]);

/** A number of 7z below 2^14. */
const number = (value: number): Buffer =>
  value < 0x80 ? Buffer.from([value]) : Buffer.from([0x80 | (value >> 8), value & 0xff]);

export function sevenZip(files: Files): Uint8Array<ArrayBuffer> {
  const data = Buffer.concat(files.map(([, bytes]) => bytes));
  const names = Buffer.from(files.map(([path]) => `${path}\0`).join(''), 'utf16le');
  const b = (...bytes: number[]): Buffer => Buffer.from(bytes);
  const header = Buffer.concat([
    b(0x01, 0x04),
    ...[b(0x06), number(0), number(1), b(0x09), number(data.length), b(0)],
    ...[b(0x07, 0x0b, 1, 0, 1, 0x01, 0x00, 0x0c), number(data.length), b(0)],
    ...[b(0x08, 0x0d), number(files.length), b(0x09), ...files.slice(0, -1).map(([, { length }]) => number(length))],
    ...[b(0x0a, 1), ...files.map(([, bytes]) => u32(crc32(bytes))), b(0, 0)],
    ...[b(0x05), number(files.length), b(0x11), number(names.length + 1), b(0), names, b(0, 0)],
  ]);
  const start = Buffer.concat([u64(data.length), u64(header.length), u32(crc32(header))]);
  return Uint8Array.from(
    Buffer.concat([b(0x37, 0x7a, 0xbc, 0xaf, 0x27, 0x1c, 0, 4), u32(crc32(start)), start, data, header]),
  );
}

/** A number of RAR, seven bits a byte. */
const vint = (value: number): Buffer =>
  value < 0x80 ? Buffer.from([value]) : Buffer.concat([Buffer.from([0x80 | (value & 0x7f)]), vint(value >> 7)]);

function rarBlock(fields: readonly Buffer[], data: Buffer = Buffer.alloc(0)): Buffer {
  const body = Buffer.concat(fields);
  const sized = Buffer.concat([vint(body.length), body]);
  return Buffer.concat([u32(crc32(sized)), sized, data]);
}

export function rar(files: Files): Uint8Array<ArrayBuffer> {
  const numbers = (...values: number[]): Buffer[] => values.map(vint);
  const blocks = files.map(([path, bytes]) => {
    const name = Buffer.from(path);
    const fields = [
      ...numbers(2, 2, bytes.length, 4, bytes.length, 0o100644),
      ...[u32(crc32(bytes)), ...numbers(0, 1, name.length), name],
    ];
    return rarBlock(fields, bytes);
  });
  const signature = Buffer.from([0x52, 0x61, 0x72, 0x21, 0x1a, 7, 1, 0]);
  return Uint8Array.from(Buffer.concat([signature, rarBlock(numbers(1, 0, 0)), ...blocks, rarBlock(numbers(5, 0, 0))]));
}

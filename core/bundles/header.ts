/** The first four bytes of a frame (RFC 8878, section 3.1.1). */
const MAGIC = [0x28, 0xb5, 0x2f, 0xfd];

/**
 * Bytes that a frame says it unpacks to, by its header (RFC 8878, section 3.1.1.1), so that no more memory is taken than it may take.
 * @returns undefined for what is no frame, or does not say it
 */
export function unpackedSize(frame: Uint8Array): number | undefined {
  if (MAGIC.some((byte, i) => frame[i] !== byte)) return undefined;
  const descriptor = frame[4];
  if (descriptor === undefined) return undefined;
  const [sizeFlag, isSingle, dictionaryFlag] = [descriptor >> 6, (descriptor & 0x20) !== 0, descriptor & 3];
  const at = 5 + (isSingle ? 0 : 1) + [0, 1, 2, 4][dictionaryFlag]!;
  const bytes = sizeFlag === 0 ? (isSingle ? 1 : 0) : 1 << sizeFlag;
  if (bytes === 0 || frame.length < at + bytes) return undefined;
  let size = 0n;
  for (let i = bytes - 1; i >= 0; i--) size = (size << 8n) | BigInt(frame[at + i]!);
  const exact = bytes === 2 ? size + 256n : size;
  return exact <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(exact) : undefined;
}

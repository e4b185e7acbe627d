/** Checksums that list-making commands write, with the number of their hexadecimal digits. */
export const CHECKSUM_KINDS = { 'sha-256': 64, 'sha-1': 40, md5: 32, 'crc-32': 8 } as const;

export type ChecksumKind = keyof typeof CHECKSUM_KINDS;

/** The kind that has this many digits; undefined where none has, or a digit is not hexadecimal. */
export function kindOfDigest(digits: string): ChecksumKind | undefined {
  if (!/^[0-9a-f]+$/i.test(digits)) return undefined;
  return (Object.keys(CHECKSUM_KINDS) as ChecksumKind[]).find((kind) => CHECKSUM_KINDS[kind] === digits.length);
}

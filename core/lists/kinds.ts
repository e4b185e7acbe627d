/** Checksums that list-making commands write, with the number of their hexadecimal digits. */
export const CHECKSUM_KINDS = { 'sha-256': 64, 'sha-1': 40, md5: 32, 'crc-32': 8 } as const;

export type ChecksumKind = keyof typeof CHECKSUM_KINDS;

const BY_LENGTH: ReadonlyMap<number, ChecksumKind> = new Map(
  (Object.keys(CHECKSUM_KINDS) as ChecksumKind[]).map((kind) => [CHECKSUM_KINDS[kind], kind]),
);

/** The kind that has this many digits; undefined where none has, or a digit is not hexadecimal. */
export function kindOfDigest(digits: string): ChecksumKind | undefined {
  const kind = BY_LENGTH.get(digits.length);
  return kind !== undefined && /^[0-9a-f]+$/i.test(digits) ? kind : undefined;
}

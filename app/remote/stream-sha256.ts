import { sha256 } from '@noble/hashes/sha2.js';
import { toHex } from '#core/digest';
import type { StreamHash } from '#core/fetch';

/** A SHA-256 of bytes as they come, which the platform does not have. */
export function streamSha256(): StreamHash {
  const hash = sha256.create();
  return { update: (bytes) => void hash.update(bytes), digest: () => toHex(hash.digest()) };
}

import type { Sha256 } from '#core/digest';
import { toHex } from '#core/digest';

/** The platform's SHA-256. */
export const platformSha256: Sha256 = async (data) => {
  const bytes = typeof data === 'string' ? new TextEncoder().encode(data) : data;
  return toHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes)));
};

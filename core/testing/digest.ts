import { createHash } from 'node:crypto';
import { type ContentKey, contentKey, type Sha256 } from '#core/digest';
import { isFailure } from '#core/failure';

/** SHA-256 for tests, at once. */
export const digest = (text: string | Uint8Array): string => createHash('sha256').update(text).digest('hex');

export const sha256: Sha256 = async (data) => digest(data);

/** The key of a text of one piece. */
export const keyOf = (text: string): ContentKey => contentKey(text.length, [digest(text)]);

/** The code that `work` fails with, or `accepted`. */
export function failureCode(work: () => unknown): string {
  try {
    work();
  } catch (error) {
    if (isFailure(error)) return error.code;
    throw error;
  }
  return 'accepted';
}

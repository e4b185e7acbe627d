import { createHash, timingSafeEqual } from 'node:crypto';
import { Failure } from '#core/failure';
import { SERVED_TOKEN_HEADER } from '#core/served';

/** Of equal length for any text, so that they can be compared in a time that tells nothing. */
const digest = (text: string): Buffer => createHash('sha256').update(text).digest();

/** Lets only those ask who know this start's token. @throws Failure `served/off`, `served/refused` */
export function assertToken(request: Request, token: string | undefined): void {
  if (!token) throw new Failure('served/off');
  if (!timingSafeEqual(digest(request.headers.get(SERVED_TOKEN_HEADER) ?? ''), digest(token))) {
    throw new Failure('served/refused', { what: 'token' });
  }
}

import { type FailureCode, isFailure } from '#core/failure';

/** Answers of a web server by which it asks to be asked again later (RFC 9110, RFC 6585, RFC 8470). */
const LATER: ReadonlySet<number> = new Set([408, 425, 429]);

/** Whether the source is busy, or out of reach. */
export function isPutOff(error: unknown): boolean {
  if (!isFailure(error, 'service/failed')) return isFailure(error, 'service/unreachable');
  const { status } = error.facts;
  return status === undefined || status >= 500 || LATER.has(status);
}

/** Whether asking again may help: the source is busy, out of reach, or sent bytes that are wrong. */
export const isPassing = (error: unknown): boolean => isPutOff(error) || isFailure(error, 'service/corrupt-piece');

const OF_ONE_FILE: ReadonlySet<FailureCode> = new Set([
  'service/failed',
  'service/corrupt-piece',
  'service/unreachable',
  'service/not-owned',
  'demo/unknown-file',
  'source/redirected',
  'source/not-as-expected',
]);

/** Whether a failure concerns the file that was asked for alone, so that others can go on. */
export const isOfOneFile = (error: unknown): boolean => isFailure(error) && OF_ONE_FILE.has(error.code);

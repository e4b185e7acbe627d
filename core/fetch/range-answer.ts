/**
 * Whether an answer is the part of a file that was asked for. One that does not say where its bytes belong (RFC 9110, 15.3.7), or
 * has several parts, is of no use for that: then all of the file is asked for.
 * @param contentRange the answer's Content-Range
 * @param start the first byte that was asked for
 */
export function isRangeAnswer(status: number, contentRange: string | null, start: number): boolean {
  const [, from] = /^bytes (\d+)-\d+\/(?:\d+|\*)$/i.exec(contentRange ?? '') ?? [];
  return status === 206 && Number(from) === start;
}

import { randomUUID } from 'node:crypto';
import { askedRanges, type ByteRange } from './ranges';

/** A file that can be read in any range, for as long as an answer takes. */
export interface ServedFile {
  /** Bytes. */
  readonly size: number;
  /** A strong validator: other bytes have another one. */
  readonly etag: string;
  /** Bytes from `start` on, up to `end` at most and at least one; the file's end before `end` is an error. */
  read(start: number, end: number): Promise<Uint8Array> | Uint8Array;
  /** Is called once, when nothing more is read. */
  close?(): void;
}

/** What is in memory of an answer at a time. */
const CHUNK = 256 << 10;

type Part = ByteRange | string;

/** The parts after one another, a chunk at a time as they are taken. */
function streamOf(file: ServedFile, parts: readonly Part[]): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let [part, at] = [0, 0];
  let reading: Promise<unknown> = Promise.resolve();
  let isClosed = false;
  /** What is being read is read to its end first: a descriptor that is closed meanwhile may be another file's by then. */
  const end = async (): Promise<void> => {
    await reading.catch(() => undefined);
    if (!isClosed) file.close?.();
    isClosed = true;
  };
  return new ReadableStream<Uint8Array>(
    {
      async pull(controller) {
        const now = parts[part];
        if (now === undefined) {
          await end();
          controller.close();
          return;
        }
        if (typeof now === 'string') {
          part += 1;
          controller.enqueue(encoder.encode(now));
          return;
        }
        const start = now.start + at;
        try {
          const read = Promise.resolve(file.read(start, Math.min(now.end, start + CHUNK)));
          reading = read;
          const bytes = await read;
          if (isClosed) return;
          at += bytes.length;
          if (start + bytes.length >= now.end) [part, at] = [part + 1, 0];
          controller.enqueue(bytes);
        } catch (error) {
          await end();
          throw error;
        }
      },
      cancel: end,
    },
    { highWaterMark: 0 },
  );
}

const lengthOf = (parts: readonly Part[]): number =>
  parts.reduce((sum, part) => sum + (typeof part === 'string' ? Buffer.byteLength(part) : part.end - part.start), 0);

/** Whether a list of validators names this one; by the weak comparison, in which `W/` does not count. */
const names = (list: string, etag: string): boolean =>
  list.trim() === '*' || list.split(',').some((one) => one.trim().replace(/^W\//, '') === etag);

/**
 * Answers a GET or HEAD for a file: whole, a range, or several ranges (RFC 9110, sections 13 and 14), always with its length
 * and never with more than a chunk of it in memory.
 */
export function fileResponse(request: Request, file: ServedFile): Response {
  const { size, etag } = file;
  const headers = new Headers({
    ETag: etag,
    'Accept-Ranges': 'bytes',
    'Content-Type': 'application/octet-stream',
    'Cache-Control': 'no-store, no-transform',
  });
  const without = (status: number): Response => {
    file.close?.();
    return new Response(null, { status, headers });
  };
  const answer = (status: number, parts: readonly Part[]): Response => {
    headers.set('Content-Length', String(lengthOf(parts)));
    if (request.method === 'HEAD') return without(status);
    return new Response(streamOf(file, parts), { status, headers });
  };
  const ifMatch = request.headers.get('If-Match');
  if (ifMatch !== null && !names(ifMatch, etag)) return without(412);
  const ifNoneMatch = request.headers.get('If-None-Match');
  if (ifNoneMatch !== null && names(ifNoneMatch, etag)) return without(304);
  const whole: ByteRange = { start: 0, end: size };
  // A range is a matter of GET alone; of another representation than the client has, it gets the whole.
  const ifRange = request.headers.get('If-Range');
  if (request.method !== 'GET' || (ifRange !== null && ifRange !== etag)) return answer(200, [whole]);
  const asked = askedRanges(request.headers.get('Range'), size);
  switch (asked.what) {
    case 'whole':
      return answer(200, [whole]);
    case 'none':
      headers.set('Content-Range', `bytes */${size}`);
      headers.set('Content-Length', '0');
      return without(416);
    case 'ranges': {
      const [first, ...more] = asked.ranges;
      const range = ({ start, end }: ByteRange): string => `bytes ${start}-${end - 1}/${size}`;
      if (more.length === 0) {
        headers.set('Content-Range', range(first));
        return answer(206, [first]);
      }
      const boundary = randomUUID();
      headers.set('Content-Type', `multipart/byteranges; boundary=${boundary}`);
      const head = (one: ByteRange): string =>
        `\r\n--${boundary}\r\nContent-Type: application/octet-stream\r\nContent-Range: ${range(one)}\r\n\r\n`;
      return answer(206, [...asked.ranges.flatMap((one) => [head(one), one]), `\r\n--${boundary}--\r\n`]);
    }
  }
}

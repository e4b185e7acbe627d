import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fileResponse } from './file-response';
import { askedRanges } from './ranges';

const CONTENT = Uint8Array.from({ length: 1_000_003 }, (_, i) => (i * 31) & 255);
const ETAG = '"one"';

function ask(headers: Record<string, string>, method = 'GET', closed: { times: number } = { times: 0 }): Response {
  const file = {
    size: CONTENT.length,
    etag: ETAG,
    read: (start: number, end: number) => CONTENT.slice(start, Math.min(end, start + 70_000)),
    close: () => void closed.times++,
  };
  return fileResponse(new Request('http://127.0.0.1/', { method, headers }), file);
}

const SIZE = CONTENT.length;

describe('a range', () => {
  it.each<[string, [number, number][] | 'whole' | 'none']>([
    ['bytes=0-0', [[0, 1]]],
    ['bytes=5-', [[5, SIZE]]],
    ['bytes=-1', [[SIZE - 1, SIZE]]],
    [`bytes=-${SIZE + 5}`, [[0, SIZE]]],
    ['bytes=0-999999999', [[0, SIZE]]],
    ['BYTES=1-2', [[1, 3]]],
    [
      'bytes= 1-2 , 7-8',
      [
        [1, 3],
        [7, 9],
      ],
    ],
    ['bytes=1-5,3-9,10-11', [[1, 12]]],
    [
      'bytes=7-8,1-2',
      [
        [1, 3],
        [7, 9],
      ],
    ],
    [
      'bytes=0-1,,5-6',
      [
        [0, 2],
        [5, 7],
      ],
    ],
    [`bytes=${SIZE}-,1-2`, [[1, 3]]],
    [`bytes=${SIZE}-`, 'none'],
    ['bytes=-0', 'none'],
    ['bytes=99999999999999999999-', 'none'],
    ['bytes=5-2', 'whole'],
    ['bytes=a-b', 'whole'],
    ['bytes=1', 'whole'],
    ['bytes=-', 'whole'],
    ['bytes=', 'whole'],
    ['bytes=1-2,x', 'whole'],
    ['bytes=--1', 'whole'],
    ['bytes=0x1-2', 'whole'],
    ['bytes=1e3-', 'whole'],
    ['lines=1-2', 'whole'],
    ['bytes 1-2', 'whole'],
    [`bytes=${Array.from({ length: 33 }, (_, i) => `${3 * i}-${3 * i}`).join()}`, 'whole'],
    ['', 'whole'],
  ])('%j', (header, expected) => {
    const asked = askedRanges(header, SIZE);
    if (typeof expected === 'string') expect(asked.what).toBe(expected);
    else expect(asked).toEqual({ what: 'ranges', ranges: expected.map(([start, end]) => ({ start, end })) });
  });

  it('of an empty file has nothing in it', () => {
    expect(askedRanges('bytes=0-', 0)).toEqual({ what: 'none' });
    expect(askedRanges('bytes=-1', 0)).toEqual({ what: 'none' });
  });
});

const bytesOf = async (response: Response): Promise<Uint8Array> => new Uint8Array(await response.arrayBuffer());

describe('a file', () => {
  it('is sent whole with its length and validator', async () => {
    const response = ask({});
    expect([response.status, response.headers.get('Content-Length'), response.headers.get('ETag')]).toEqual([
      200,
      String(SIZE),
      ETAG,
    ]);
    expect(Buffer.compare(await bytesOf(response), CONTENT)).toBe(0);
  });

  it('is sent in any range that is asked for', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(SIZE - 1), fc.nat(300_000), async (start, length) => {
        const response = ask({ Range: `bytes=${start}-${start + length}` });
        const end = Math.min(SIZE, start + length + 1);
        expect(response.headers.get('Content-Range')).toBe(`bytes ${start}-${end - 1}/${SIZE}`);
        expect(response.headers.get('Content-Length')).toBe(String(end - start));
        expect(Buffer.compare(await bytesOf(response), CONTENT.slice(start, end))).toBe(0);
      }),
      { numRuns: 30 },
    );
  });

  it('is sent in several ranges as parts, with the length of all', async () => {
    const response = ask({ Range: 'bytes=0-2,300000-500000,-1' });
    const body = Buffer.from(await bytesOf(response));
    expect([response.status, Number(response.headers.get('Content-Length'))]).toEqual([206, body.length]);
    const [, boundary] = /boundary=(.+)$/.exec(response.headers.get('Content-Type')!)!;
    const parts = body.toString('latin1').split(`\r\n--${boundary}`);
    expect(parts.length).toBe(5);
    expect(parts[4]).toBe('--\r\n');
    expect(parts[2]).toContain(`Content-Range: bytes 300000-500000/${SIZE}`);
    expect(parts[2]!.split('\r\n\r\n')[1]!.length).toBe(200_001);
  });

  it.each<[number, Record<string, string>, string?]>([
    [416, { Range: `bytes=${SIZE}-` }],
    [304, { 'If-None-Match': `"other", W/${ETAG}` }],
    [304, { 'If-None-Match': '*' }],
    [412, { 'If-Match': '"other"' }],
    [200, { Range: 'bytes=0-1', 'If-Range': '"other"' }],
    [200, { Range: 'bytes=0-1', 'If-Range': `W/${ETAG}` }],
    [206, { Range: 'bytes=0-1', 'If-Range': ETAG }],
    [200, { Range: 'bytes=0-1' }, 'HEAD'],
    [200, {}, 'HEAD'],
  ])('answers %i to %j', async (status, headers, method) => {
    const closed = { times: 0 };
    const response = ask(headers, method, closed);
    expect(response.status).toBe(status);
    if (status === 416) expect(response.headers.get('Content-Range')).toBe(`bytes */${SIZE}`);
    if (method === 'HEAD') expect(response.headers.get('Content-Length')).toBe(String(SIZE));
    await response.body?.cancel();
    expect(closed.times).toBe(1);
  });

  it('is closed once, however far it was read', async () => {
    for (const chunks of [0, 1, 3]) {
      const closed = { times: 0 };
      const reader = ask({}, 'GET', closed).body!.getReader();
      for (let i = 0; i < chunks; i++) await reader.read();
      await reader.cancel();
      expect(closed.times).toBe(1);
    }
  });
});

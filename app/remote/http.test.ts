import { gzipSync } from 'node:zlib';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { z } from 'zod';
import { Failure, failureToWire } from '#core/failure';
import { SERVED_TOKEN_HEADER } from '#core/served';
import { getBytes, getJson, getPack, getStream, postJson, readPackedText, readText, request } from './http';
import { tellServedToken } from './token';

let asked: { url: string; init: RequestInit }[] = [];

function serviceAnswers(answer: () => Response | Promise<Response>): void {
  asked = [];
  vi.stubGlobal('fetch', (url: string, init: RequestInit) => {
    asked.push({ url, init });
    return Promise.resolve(answer());
  });
}
const refusal = (status: number, body: string): Response => new Response(body, { status });

afterEach(() => vi.unstubAllGlobals());

describe('a request', () => {
  it('fails with the code that the service names', async () => {
    const wire = failureToWire(new Failure('service/not-owned', { depot: 'island' }));
    serviceAnswers(() => refusal(403, JSON.stringify(wire)));
    await expect(request('/x')).rejects.toMatchObject({ code: 'service/not-owned', facts: { depot: 'island' } });
  });

  it.each(['<html>', '{}', '{"code":"made/up","facts":{}}'])(
    'fails with the status when the answer is %s',
    async (body) => {
      serviceAnswers(() => refusal(502, body));
      await expect(request('/x')).rejects.toMatchObject({ code: 'service/failed', facts: { status: 502 } });
    },
  );

  it('tells a service that cannot be reached from a request that was stopped', async () => {
    serviceAnswers(() => Promise.reject(new TypeError('network')));
    await expect(request('/x')).rejects.toMatchObject({ code: 'service/unreachable' });
    await expect(request('/x', { signal: AbortSignal.abort() })).rejects.toMatchObject({ code: 'job/cancelled' });
  });
});

describe('bytes', () => {
  const part = (body: BodyInit, range = 'bytes 2-4/10'): Response =>
    new Response(body, { status: 206, headers: { 'Content-Range': range } });

  it('are asked for by range, with the session', async () => {
    serviceAnswers(() => part('cde'));
    const bytes = await getBytes('/f', 10, { start: 2, end: 5, token: 't' });
    expect(new TextDecoder().decode(bytes)).toBe('cde');
    expect(asked[0]!.init.headers).toEqual({ Range: 'bytes=2-4', Authorization: 'Bearer t' });
  });

  it('are asked for without a range when all are wanted', async () => {
    serviceAnswers(() => new Response('0123456789'));
    await getBytes('/f', 10, {});
    expect(asked[0]!.init.headers).toEqual({});
  });

  it('of a source that gives the whole for a part are told as such, and are read as they come', async () => {
    serviceAnswers(() => new Response('0123456789'));
    await expect(getBytes('/f', 10, { start: 2, end: 5 })).rejects.toMatchObject({ code: 'service/no-ranges' });
    serviceAnswers(() => part('cde', 'bytes 0-2/10'));
    await expect(getBytes('/f', 10, { start: 2, end: 5 })).rejects.toMatchObject({ code: 'service/no-ranges' });
    serviceAnswers(() => new Response('0123456789'));
    let text = '';
    for await (const chunk of await getStream('/f', { token: 't' })) text += new TextDecoder().decode(chunk);
    expect(text).toBe('0123456789');
    expect(asked.at(-1)!.init.headers).toEqual({ Authorization: 'Bearer t' });
  });

  it('that are too few or too many are refused', async () => {
    serviceAnswers(() => part('cd'));
    const facts = { expected: 3, found: 2 };
    const endless = new ReadableStream({ pull: (controller) => controller.enqueue(new Uint8Array(2)) });
    await expect(getBytes('/f', 10, { start: 2, end: 5 })).rejects.toMatchObject({ code: 'service/failed', facts });
    serviceAnswers(() => part(endless));
    await expect(getBytes('/f', 10, { start: 2, end: 5 })).rejects.toMatchObject({ code: 'service/failed' });
    serviceAnswers(() => new Response('cd'));
    await expect(getPack(['/a'], 3, new AbortController().signal)).rejects.toMatchObject({ code: 'service/failed' });
  });
});

it('an answer that does not fit is refused with its address', async () => {
  serviceAnswers(() => new Response('{"a": "1"}'));
  await expect(getJson('/x', z.object({ a: z.number() }))).rejects.toMatchObject({
    code: 'json/does-not-fit',
    facts: { file: '/x', field: 'a' },
  });
});

it('only what is asked for elsewhere is shown the token of this start', async () => {
  tellServedToken('of-this-start');
  serviceAnswers(() => new Response('x'));
  await request('/from/typed/http/host/x', { headers: { Range: 'bytes=0-1' } });
  await request('/stand-ins/depots/index.json');
  expect(asked.map(({ init }) => init.headers)).toEqual([
    { Range: 'bytes=0-1', [SERVED_TOKEN_HEADER]: 'of-this-start' },
    undefined,
  ]);
});

it('what is sent is JSON, and says so', async () => {
  serviceAnswers(() => new Response('{"a": 1}'));
  expect(await postJson('/x', { b: 2 }, z.object({ a: z.number() }))).toEqual({ a: 1 });
  expect(asked[0]!.init).toEqual({
    ...{ method: 'POST', body: '{"b":2}', headers: { 'Content-Type': 'application/json' } },
  });
});

describe('a text', () => {
  const MOST = 2 << 20;
  const breaking = (): Response =>
    new Response(
      new ReadableStream({
        pull(controller) {
          controller.enqueue(new Uint8Array([0x61]));
          controller.error(new TypeError('gone'));
        },
      }),
    );

  it('is read across its chunks, up to its limit and no further', async () => {
    const chunks = new ReadableStream({
      start(controller) {
        for (const byte of new TextEncoder().encode('ä€')) controller.enqueue(Uint8Array.of(byte));
        controller.close();
      },
    });
    expect(await readText(new Response(chunks), '/x', MOST)).toBe('ä€');
    expect(await readText(new Response('a'.repeat(MOST)), '/x', MOST)).toHaveLength(MOST);
    await expect(readText(new Response('a'.repeat(MOST + 1)), '/x', MOST)).rejects.toMatchObject({
      ...{ code: 'source/not-as-expected', facts: { url: '/x', what: 'text', found: 'more than 2 MiB came' } },
    });
    await expect(readText(breaking(), '/x', MOST)).rejects.toMatchObject({ code: 'service/unreachable' });
  });

  it('in gzip is unpacked, whether it says so or not, and no further than its limit', async () => {
    expect(await readPackedText(new Response('plain'), '/x', MOST)).toBe('plain');
    expect(await readPackedText(new Response('\u001f'), '/x', MOST)).toBe('\u001f');
    const packed = gzipSync('a'.repeat(1000));
    expect(await readPackedText(new Response(packed), '/x', MOST)).toBe('a'.repeat(1000));
    const large = gzipSync(Buffer.alloc(MOST + 1));
    await expect(readPackedText(new Response(large), '/x', MOST)).rejects.toMatchObject({
      ...{ code: 'source/not-as-expected', facts: { found: 'more than 2 MiB came' } },
    });
    await expect(readPackedText(new Response(packed.subarray(0, 20)), '/x', MOST)).rejects.toMatchObject({
      ...{ code: 'source/not-as-expected', facts: { found: 'broken gzip' } },
    });
    await expect(readPackedText(breaking(), '/x', MOST)).rejects.toMatchObject({ code: 'service/unreachable' });
  });
});

it('a stream that breaks off says whether it was stopped, and is let go by who has enough', async () => {
  let cancelled = false;
  const endless = (): Response =>
    new Response(
      new ReadableStream({
        pull: (controller) => controller.enqueue(new Uint8Array(2)),
        cancel: () => void (cancelled = true),
      }),
    );
  serviceAnswers(endless);
  for await (const chunk of await getStream('/f', {})) {
    expect(chunk).toHaveLength(2);
    break;
  }
  expect(cancelled).toBe(true);
  const stopped = new AbortController();
  const broken = new ReadableStream({
    pull(controller) {
      controller.error(new TypeError('gone'));
    },
  });
  serviceAnswers(() => new Response(broken));
  const drain = async (signal?: AbortSignal): Promise<void> => {
    for await (const _ of await getStream('/f', { signal })) continue;
  };
  await expect(drain()).rejects.toMatchObject({ code: 'service/unreachable', facts: { url: '/f' } });
  serviceAnswers(() => new Response(new ReadableStream({ pull: (controller) => controller.error(new Error('gone')) })));
  const draining = drain(stopped.signal);
  stopped.abort();
  await expect(draining).rejects.toMatchObject({ code: 'job/cancelled' });
});

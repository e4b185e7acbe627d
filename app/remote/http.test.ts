import { afterEach, describe, expect, it, vi } from 'vitest';
import { z } from 'zod';
import { Failure, failureToWire } from '#core/failure';
import { getBytes, getJson, getPack, getStream, request } from './http';

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

import {
  contextOf,
  disk,
  here,
  INSTALL,
  GAME,
  outcomes,
  targetNow,
  planNow,
  noted,
  run,
  folderFrom,
  failingAfter,
  layOut,
  signInAtService,
  worldNow,
  type World,
} from '../testing/way';
import { beforeAll, describe, expect, it, vi } from 'vitest';
import { roomNeeded } from '#core/assemble';
import { isFailure } from '#core/failure';
import * as stages from '~/queries/stages';
import { fetchTotals, wireCost } from '#core/fetch';
import { BroughtReportSchema, FetchReportSchema } from '~/store/records';
import { handOver } from '~/places/handed';
import { getSession } from '~/store/told';
import { KINDS } from '.';

beforeAll(layOut);

let ready: World;

describe('fetch', () => {
  it('asks to sign in before it asks for anything of a depot', async () => {
    expect(await getSession(GAME)).toBeUndefined();
    const refused = await run('fetch', await targetNow()).catch((error: unknown) => error);
    expect(isFailure(refused, 'service/sign-in-needed')).toBe(true);
    expect(await here().list('contents')).toEqual([]);
  });

  it('goes on where it was cut off, and fetches nothing twice', async () => {
    await signInAtService();
    const whole = here();
    disk.now = failingAfter(100, whole);
    await expect(run('fetch', await targetNow())).rejects.toThrow();
    const arrived = await whole.list('contents');
    expect(arrived.length).toBeGreaterThan(0);
    disk.now = whole;
    const { items } = (await stages.fetchView(INSTALL))!;
    const stored = items.flatMap(({ source }) => (source.how === 'stored' ? [source.path] : []));
    expect(new Set(stored)).toEqual(new Set(arrived.map(({ path }) => path)));
    await run('fetch', await targetNow());
    expect((await planNow()).missing).toEqual([]);
    for (const { path } of arrived)
      expect(await whole.stat(path), path).toMatchObject(arrived.find((a) => a.path === path)!);
    // The player's files are kept, so that no change keeps them once more.
    await run('keepsake');
    ready = await worldNow();
  });

  it('takes the bytes and requests that were told before it', async () => {
    // As if nothing had been fetched.
    const bare = [...ready.image].filter(([path]) => !/^(contents|references)\//.test(path));
    disk.now = await folderFrom(new Map(bare));
    await noted('fetch');
    const { items, frames, room } = (await stages.fetchView(INSTALL))!;
    expect(room).toBe(Math.min(...(await stages.assemble(INSTALL))!.ways.slice(0, 2).map(roomNeeded)));
    const report = FetchReportSchema.parse(outcomes.get(await run('fetch', await targetNow())));
    const cost = wireCost(items, frames);
    for (const [told, was] of [
      [cost.plain + cost.compressed, report.wireBytes],
      [cost.requests, report.requests],
    ] as const)
      expect(Math.abs(told - was) / was, `${told} told, ${was} taken`).toBeLessThan(0.02);
  });
});

it.each(['fetch', 'keep-build'] as const)('%s does not begin where its bytes cannot fit', async (kind) => {
  // As if nothing had been fetched.
  const bare = await folderFrom(new Map([...ready.image].filter(([path]) => !/^(contents|references)\//.test(path))));
  disk.now = { ...bare, room: async () => ({ used: 0, free: 1_000_000 }) };
  await noted('fetch');
  const { free, items } = (await stages.fetchView(INSTALL))!;
  expect(free).toBe(1_000_000);
  const { target } = await targetNow();
  const before = await bare.list();
  const needs = kind === 'fetch' ? fetchTotals(items).written : expect.any(Number);
  await expect(run(kind, kind === 'fetch' ? { target } : { build: target.build })).rejects.toMatchObject({
    code: 'folder/full',
    facts: { needs, free: 1_000_000 },
  });
  expect(await bare.list()).toEqual(before);
  disk.now = await folderFrom(ready.image);
  await noted('fetch');
});

it('asks again for what failed in passing, waits longer each time, and names what never came', async () => {
  // As if nothing had been fetched.
  disk.now = await folderFrom(new Map([...ready.image].filter(([path]) => !/^(contents|references)\//.test(path))));
  await noted('fetch');
  const { items } = (await stages.fetchView(INSTALL))!;
  const [{ path }] = items.filter(({ source }) => source.how === 'fetch') as [(typeof items)[number]];
  const { fetch: real } = globalThis;
  let isDown = false;
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) =>
    isDown ? Promise.resolve(new Response(null, { status: 503 })) : real(url, init),
  );
  const waits: number[] = [];
  const context = {
    ...contextOf({ ...(await targetNow()), only: [path] }),
    phase: (phase: string) => void (isDown = phase.startsWith('Fetching')),
    wait: async (milliseconds: number) => void waits.push(milliseconds),
  };
  try {
    const { run: fetchOnly } = await KINDS.fetch();
    await expect(fetchOnly(context)).rejects.toMatchObject({ code: 'fetch/incomplete', facts: { files: 1, path } });
  } finally {
    vi.stubGlobal('fetch', real);
  }
  expect(waits).toEqual([1000, 2000, 4000, 8000]);
  expect(FetchReportSchema.parse(outcomes.get(context.id)).missing).toMatchObject([{ path, why: 'service/failed' }]);
  disk.now = await folderFrom(ready.image);
  await noted('fetch');
});

describe('a folder of depots', () => {
  it('is recognised by its contents, and what the target wants of it comes, checked, into the store', async () => {
    const whole = ready.image;
    const { items, lines } = (await stages.fetchView(INSTALL))!;
    expect(lines.every(({ lacking }) => lacking.files === 0)).toBe(true);
    const [{ depot, line, files }] = lines as [(typeof lines)[number]];
    expect(line.split('\t')).toEqual([
      depot.id,
      '2.9.4',
      expect.stringMatching(/^[0-9a-f]{64}$/),
      String(files),
      expect.any(String),
    ]);
    const stored = items.filter(({ source }) => source.how === 'stored');
    const handed = new Map<string, File>();
    for (const { path, owner, source } of stored)
      if (source.how === 'stored' && owner.kind === 'depot' && whole.has(source.path))
        handed.set(`got/${owner.depot}/${path}`, new File([whole.get(source.path)!], path));
    const [spoilt, ...others] = handed.keys();
    handed.set(spoilt!, new File([new Uint8Array(handed.get(spoilt!)!.size)], 'spoilt'));
    expect(others.length).toBeGreaterThan(2);
    // As if nothing had been fetched.
    disk.now = await folderFrom(new Map([...whole].filter(([path]) => !/^(contents|references)\//.test(path))));
    await noted('fetch');
    const before = (await stages.fetchView(INSTALL))!.items.filter(({ source }) => source.how === 'fetch').length;
    expect(before).toBe(stored.length);

    handOver('given', handed);
    const id = await run('bring-depots', { ...(await targetNow()), from: { kind: 'handed', name: 'given' } });
    const report = BroughtReportSchema.parse(outcomes.get(id));
    expect(report.depots.map(({ folder }) => folder)).toEqual(
      [...new Set([...handed.keys()].map((path) => path.split('/').slice(0, 2).join('/')))].toSorted(),
    );
    const spoiltDepot = report.depots.find(({ folder }) => spoilt!.startsWith(`${folder}/`))!;
    expect(spoiltDepot).toMatchObject({ build: '2.9.4', why: undefined, altered: { count: 1 } });
    const left = (await stages.fetchView(INSTALL))!.items.filter(({ source }) => source.how === 'fetch');
    const lost = left.filter(({ owner }) => owner.kind === 'depot').map(({ path }) => path);
    expect(lost.every((path) => spoilt!.endsWith(`/${path}`))).toBe(true);
    // What came has the bytes that it is to have.
    for (const { path } of await here().list('contents'))
      expect(Buffer.from(await here().read(path)).equals(Buffer.from(whole.get(path)!)), path).toBe(true);

    // Handed over to an earlier page, or changed since it was read: named, and nothing wrong comes.
    handOver('gone', new Map());
    expect(
      BroughtReportSchema.parse(
        outcomes.get(await run('bring-depots', { ...(await targetNow()), from: { kind: 'handed', name: 'gone' } })),
      ).depots,
    ).toEqual([]);
    await expect(
      run('bring-depots', { ...(await targetNow()), from: { kind: 'handed', name: 'never' } }),
    ).rejects.toMatchObject({ code: 'folder/gone' });
    disk.now = await folderFrom(whole);
  });
});

import { afterEach, describe, expect, it, vi } from 'vitest';
import { platformSha256 } from './sha256';
import { askSource, placeOfAddress } from './sources';

const INDEX = JSON.stringify({
  ...{ format: 'regressum-depot-index', version: 1, branches: [], depots: [], builds: [] },
  game: { id: 'g', title: 'G', rules: { own: [] } },
  manifests: [],
});
const CATALOGUE = JSON.stringify({ format: 'regressum-mod-catalogue', version: 1, mods: [] });

let asked: string[] = [];
function answering(of: (url: string) => string): void {
  asked = [];
  vi.stubGlobal('fetch', async (url: string) => (asked.push(url), new Response(of(url))));
}
afterEach(() => vi.unstubAllGlobals());

const address = (of: 'builds' | 'mods') =>
  ({ kind: 'address', id: 'a', of, href: 'https://host.example/deep/index.json?v=1', trust: 'typed' }) as const;
const NOTHING = { index: undefined, catalogue: undefined };

describe('a source', () => {
  it('at an address is asked through the page’s own server for what it tells of, and no more', async () => {
    answering((url) => (url.includes('mods') ? CATALOGUE : INDEX));
    const told = await askSource(address('builds'), NOTHING);
    expect(asked).toEqual(['/from/typed/https/host.example/deep/index.json?v=1']);
    expect(told.index!.value.game.title).toBe('G');
    expect(told).not.toHaveProperty('catalogue');
    answering(() => CATALOGUE);
    const mods = await askSource(address('mods'), NOTHING);
    expect([mods.catalogue!.value.mods, 'index' in mods]).toEqual([[], false]);
    expect(placeOfAddress(address('builds')).path).toBe('/deep/index.json?v=1');
  });

  it('that is the service is asked for builds and mods', async () => {
    answering((url) => (url.includes('catalogue') ? CATALOGUE : INDEX));
    const told = await askSource({ kind: 'service', id: 's' }, NOTHING);
    expect(asked).toEqual(['/stand-ins/depots/index.json', '/stand-ins/catalogue/index.json']);
    expect([told.index!.value.game.id, told.catalogue!.value.mods]).toEqual(['g', []]);
  });

  it('that says what it said before has nothing new, by the digest of its text', async () => {
    answering(() => INDEX);
    const digest = await platformSha256(INDEX);
    expect((await askSource(address('builds'), NOTHING)).index!.digest).toBe(digest);
    expect(await askSource(address('builds'), { ...NOTHING, index: digest })).toEqual({ index: undefined });
    expect((await askSource(address('builds'), { ...NOTHING, catalogue: digest })).index).toBeDefined();
  });

  it('that answers with a page is told as that', async () => {
    answering(() => '  <!doctype html>');
    await expect(askSource(address('mods'), NOTHING)).rejects.toMatchObject({
      ...{ code: 'source/not-as-expected', facts: { what: 'catalogue of mods', found: 'a web page came instead' } },
    });
    answering(() => 'no page');
    await expect(askSource(address('builds'), NOTHING)).rejects.toMatchObject({ code: 'json/malformed' });
  });

  it('that was handed over, or is one’s own, is asked nothing', async () => {
    answering(() => INDEX);
    for (const kind of ['handed', 'recorded'] as const)
      expect(await askSource({ kind, id: 'x', name: 'x', of: 'builds' } as never, NOTHING)).toEqual({});
    expect(asked).toEqual([]);
  });
});

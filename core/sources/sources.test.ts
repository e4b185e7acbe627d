import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot, type DepotIndex, DepotIndexSchema } from '#core/builds';
import { parseMetalink } from '#core/manifest';
import { digest, sha256 } from '../testing/digest';
import {
  addressOfFrom,
  askedOf,
  fromPrefix,
  GameFileSchema,
  leftOut,
  makeSource,
  mergeIndexes,
  type NewDepot,
  placeIndex,
  sourceAddress,
} from '.';

const GAME = {
  id: 'glass',
  title: 'Glass',
  rules: { modsFolder: 'mods', own: [{ folder: 'saves', kind: 'saves' as const }] },
};

const indexOf = (builds: readonly (readonly [string, string])[]): DepotIndex =>
  DepotIndexSchema.parse({
    ...{ format: 'regressum-depot-index', version: 1, game: GAME, branches: [], manifests: [] },
    depots: [{ id: 'core', title: 'Core', kind: 'core', order: 1, orderMatters: false }],
    builds: builds.map(([label, date]) => ({ label, date })),
  });

const labels = ({ builds }: DepotIndex): string[] => builds.map(({ label }) => label);

describe('several sources', () => {
  it('are one index: each keeps its order, dates decide between them, and each build stands once', () => {
    const all = fc.uniqueArray(fc.constantFrom(...'abcdefgh'), { minLength: 1 });
    fc.assert(
      fc.property(all, fc.array(fc.boolean()), fc.array(fc.boolean()), (order, first, second) => {
        const some = (which: readonly boolean[]): string[] => order.filter((_, i) => which[i]);
        const dated = (list: readonly string[]): [string, string][] => list.map((label) => [label, '2026-01-31']);
        const merged = labels(mergeIndexes(GAME, [indexOf(dated(some(first))), indexOf(dated(some(second)))]));
        expect([...merged].sort()).toEqual([...new Set([...some(first), ...some(second)])].sort());
        // Both are parts of one order, and so each is of what comes out.
        for (const list of [some(first), some(second)])
          expect(merged.filter((label) => list.includes(label))).toEqual(list);
      }),
    );
    const [old, young] = [
      indexOf([['1', '2026-01-01']]),
      indexOf([
        ['0', '2025-01-01'],
        ['2', '2026-02-01'],
      ]),
    ];
    expect(labels(mergeIndexes(GAME, [old, young]))).toEqual(['0', '1', '2']);
  });

  it('that have the same manifest are mirrors of one another; of another one the first counts', () => {
    const having = (sha256: string, filesHref: string, more = {}): DepotIndex => ({
      ...indexOf([['1', '2026-01-01']]),
      manifests: [
        { build: asBuild('1'), depot: asDepot('core'), href: 'm', sha256, filesHref, files: 1, bytes: 1, ...more },
      ],
    });
    const [a, b] = ['a'.repeat(64), 'b'.repeat(64)];
    const bundle = { href: '/y/bundle', index: '/y/index', sha256: a, bytes: 10 };
    const all = [
      having(a, ''),
      having(b, '/other/'),
      having(a, '/x/'),
      having(a, '/y/', { bundles: [bundle], mirrors: ['/x/', '/z/'] }),
    ];
    const { manifests } = mergeIndexes(GAME, all);
    expect(manifests).toMatchObject([{ sha256: a, filesHref: '/x/', mirrors: ['/y/', '/z/'], bundles: [bundle] }]);
  });

  it('even where they are at odds over the order, end', () => {
    const [a, b] = [
      indexOf([
        ['1', '2026-01-01'],
        ['2', '2026-01-02'],
      ]),
      indexOf([
        ['2', '2026-01-02'],
        ['1', '2026-01-01'],
      ]),
    ];
    expect(labels(mergeIndexes(GAME, [a, b])).sort()).toEqual(['1', '2']);
    expect(mergeIndexes(GAME, []).builds).toEqual([]);
  });
});

describe('an address', () => {
  it.each([
    'ftp://host/x',
    'javascript:alert(1)',
    'host/x',
    '',
    'http://',
    'http://a:b@host/x',
    `http://host/${'x'.repeat(3000)}`,
  ])('is refused where it is none of the web: %s', (text) =>
    expect(() => sourceAddress(text)).toThrow('source/not-an-address'),
  );

  it('comes back from the form in which the server is asked', () => {
    for (const text of [
      'http://host:8080/a/b%20c/index.json?x=1',
      'https://example.invalid/',
      'http://[2606:4700::1]/x',
    ]) {
      const url = sourceAddress(`${text}#part`);
      expect(addressOfFrom(`${fromPrefix(url, 'typed')}${url.pathname}${url.search}`)?.url.href).toBe(url.href);
    }
  });

  it('of a manifest is one of its source, whatever the index says', () => {
    const index = {
      ...indexOf([['1', '2026-01-01']]),
      manifests: ['m/1.meta4', '/m/1.meta4', '../../../m'].map((href) => ({
        ...{ build: asBuild('1'), depot: asDepot('core'), href, filesHref: 'files/1/', sha256: '0'.repeat(64) },
        ...{ files: 0, bytes: 0 },
      })),
    };
    const placed = placeIndex(index, { prefix: '/from/typed/http/host', path: '/dir/index.json' });
    expect(placed.manifests.map(({ href }) => href)).toEqual([
      '/from/typed/http/host/dir/m/1.meta4',
      '/from/typed/http/host/m/1.meta4',
      '/from/typed/http/host/m',
    ]);
    expect(placed.manifests[0]!.filesHref).toBe('/from/typed/http/host/dir/files/1/');
  });
});

describe('making a source', () => {
  const file = (path: string, text: string): NewDepot['files'][number] => ({
    ...{ path, size: text.length, sha256: digest(text), pieces: [digest(text)] },
  });
  const depot = (id: string, ...files: NewDepot['files']): NewDepot => ({ id, kind: 'core', files });
  const first = { label: '1.0', date: '2026-01-31', branch: 'stable' };

  it('gives an index and manifests that read back, and adds a build to what is there', async () => {
    const made = await makeSource(undefined, GAME, first, [depot('core', file('a', 'one'), file('b', 'two'))], {
      sha256,
      has: 'files',
    });
    const [[path, text]] = [...made.manifests] as [[string, string]];
    const [entry] = made.index.manifests;
    expect(entry).toMatchObject({ href: path, sha256: digest(text), files: 2, bytes: 6 });
    expect(parseMetalink(text, entry!.build, entry!.depot, path).paths).toEqual(['a', 'b']);
    const later = { label: '1.1', date: '2026-03-01', branch: 'stable' };
    const both = await makeSource(
      made.index,
      GAME,
      later,
      [depot('core', file('a', 'new')), depot('more', file('a', 'x'))],
      { sha256, has: 'files' },
    );
    expect(labels(both.index)).toEqual(['1.0', '1.1']);
    expect(both.index.branches).toEqual([{ name: 'stable', build: '1.1', needsCode: false }]);
    expect(both.index.depots.map(({ id, order, orderMatters }) => [id, order, orderMatters])).toEqual([
      ['core', 1, true],
      ['more', 2, true],
    ]);
    // An older build that is added later does not turn the branch back.
    const older = await makeSource(
      both.index,
      GAME,
      { ...first, label: '0.9', date: '2025-01-01' },
      [depot('core', file('a', 'o'))],
      { sha256, has: 'files' },
    );
    expect(labels(older.index)).toEqual(['0.9', '1.0', '1.1']);
    expect(older.index.branches[0]!.build).toBe('1.1');
    // Files of 1_0 would lie where those of 1.0 do.
    for (const label of ['1.0', '1_0'])
      await expect(makeSource(made.index, GAME, { ...first, label }, [], { sha256, has: 'files' })).rejects.toThrow(
        'source/exists',
      );
  });

  it.each([
    ['a date', { ...first, date: '31.1.2026' }, 'core'],
    ['a label', { ...first, label: '' }, 'core'],
    ['a depot', first, 'Not A Depot'],
  ])('refuses %s that is none', async (_, build, id) => {
    await expect(
      makeSource(undefined, GAME, build, [depot(id, file('a', 'x'))], { sha256, has: 'files' }),
    ).rejects.toThrow('json/does-not-fit');
  });

  it('leaves out what is the player’s own, and mods', () => {
    expect(['saves/1', 'mods/x', 'saves2', 'data/saves/1'].map((path) => leftOut(GAME, path))).toEqual([
      'own',
      'mod',
      undefined,
      undefined,
    ]);
    // What ships is the build's, and so is the file in which a loader's switch stands.
    const rules = {
      ...GAME.rules,
      loaderSwitch: { file: 'bin/engine.ini', form: 'ini', at: 'mods', on: '1' } as const,
    };
    expect(leftOut({ ...GAME, rules }, 'bin/engine.ini')).toBeUndefined();
    expect(leftOut(GAME, 'saves/1', (path) => path === 'saves/1')).toBeUndefined();
  });
});

it.each([
  ['/from/typed/http/mods.example:81/a/b.zst?c', '/from/typed/http/mods.example:81'],
  ['/from/told/https/mods.example', '/from/told/https/mods.example'],
  ['/stand-ins/depots/files/a', '/stand-ins/depots'],
  ['/alone', '/alone'],
  ['', ''],
])('who is asked for %j is %j', (href, of) => expect(askedOf(href)).toBe(of));

it('a game’s file names its sources by their own addresses, and no other', () => {
  const read = (href: string): boolean =>
    GameFileSchema.safeParse({ ...GAME, format: 'regressum-game', version: 1, sources: [{ of: 'builds', href }] })
      .success;
  expect([
    read('https://host/index.json'),
    read('https://host'),
    read('file:///etc/passwd'),
    read('http://a:b@host/'),
  ]).toEqual([true, false, false, false]);
});

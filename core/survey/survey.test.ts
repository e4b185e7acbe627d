import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot, type BuildLabel, type Depot } from '#core/builds';
import type { LaidFile } from '#core/manifest';
import { recogniseMods } from '#core/mods';
import { digest, keyOf } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import { treeArbitrary } from '../testing/trees';
import {
  cleaning,
  cleaningRows,
  compareTree,
  countStates,
  departures,
  foundFromList,
  identifyDepots,
  likeliestBuild,
  nameStrays,
  withUnreadable,
} from './index';

const found = (path: string, text: string) => ({ path, size: text.length, key: keyOf(text) });
const laid = (depot: string, path: string, text: string): LaidFile => ({
  ...found(path, text),
  sha256: digest(text),
  pieces: [digest(text)],
  depot: asDepot(depot),
  covers: [],
});

describe('a folder against the tree that it should be', () => {
  it('is all true when it is that tree', () => {
    fc.assert(
      fc.property(treeArbitrary, (tree) => {
        expect(departures(tree, tree)).toEqual([]);
        expect(countStates(compareTree(tree, tree)).true.files).toBe(tree.length);
      }),
    );
  });

  it('gets one row for every path of either, sorted, and each file is counted once', () => {
    fc.assert(
      fc.property(treeArbitrary, treeArbitrary, (expected, here) => {
        const rows = compareTree(expected, here);
        const paths = new Set([...expected, ...here].map(({ path }) => path));
        expect(rows.map(({ path }) => path)).toEqual([...paths].sort());
        expect(departures(expected, here)).toEqual(rows.filter(({ state }) => state !== 'true'));
        const counts = countStates(rows);
        const files = Object.values(counts).reduce((sum, count) => sum + count.files, 0);
        expect(files).toBe(rows.length);
        const onDisk = counts.true.bytes + counts.altered.bytes + counts.stray.bytes;
        expect(onDisk).toBe(here.reduce((sum, { size }) => sum + size, 0));
      }),
    );
  });

  it('tells the four states apart', () => {
    const rows = compareTree(
      [found('altered', 'old'), found('absent', 'xy'), found('true', 'z')],
      [found('altered', 'news'), found('stray', 's'), found('true', 'z')],
    );
    expect(rows.map(({ path, state, size }) => `${path} ${state} ${size}`)).toEqual([
      'absent absent 2',
      'altered altered 4',
      'stray stray 1',
      'true true 1',
    ]);
  });
});

const depot = (id: string, order: number): Depot => ({
  id: asDepot(id),
  title: id,
  kind: 'core',
  order,
  orderMatters: false,
});
const DEPOTS = [depot('core', 1), depot('voices', 2)];
const [OLD, NEW] = [asBuild('1.9'), asBuild('1.10')];
const TREES: ReadonlyMap<BuildLabel, readonly LaidFile[]> = new Map([
  [OLD, [laid('core', 'program', 'p1'), laid('core', 'table', 't'), laid('voices', 'voice', 'v1')]],
  [NEW, [laid('core', 'program', 'p2'), laid('core', 'table', 't'), laid('voices', 'voice', 'v2')]],
]);

describe('the build of a depot', () => {
  const identify = (...files: [string, string][]) =>
    identifyDepots(
      DEPOTS,
      TREES,
      files.map(([path, text]) => found(path, text)),
    );

  it('is told depot by depot when the folder is a mixture', () => {
    const ids = identify(['program', 'p2'], ['table', 't'], ['voice', 'v1']);
    expect(ids.map(({ builds }) => builds)).toEqual([[NEW], [OLD]]);
    expect(likeliestBuild(ids, TREES.keys())).toBe(NEW);
  });

  it('is told in one way of cutting the game, that which explains most of the folder', () => {
    const own = asBuild('my own');
    const recorded = ['program', 'table', 'voice', 'extra'].map((path) =>
      laid('whole', path, path === 'extra' ? 'x' : 'p2'),
    );
    const trees = new Map([...TREES, [own, recorded]]);
    const depots = [...DEPOTS, { ...DEPOTS[0]!, id: asDepot('whole') }];
    const ids = (...files: [string, string][]) =>
      identifyDepots(
        depots,
        trees,
        files.map(([path, text]) => found(path, text)),
      ).map(({ depot }) => depot);
    const published = DEPOTS.map(({ id }) => id);
    // What a source tells counts where both explain as much.
    expect(ids(['program', 'p2'])).toEqual(published);
    expect(ids(['program', 'p2'], ['voice', 'v1'])).toEqual(published);
    expect(ids(['program', 'p2'], ['extra', 'x'])).toEqual(['whole']);
    expect(ids()).toEqual(published);
  });

  it('is each of those that fit equally well', () => {
    expect(identify(['table', 't'])).toMatchObject([
      { builds: [OLD, NEW], found: 1, total: 2 },
      { builds: [], found: 0, total: 0 },
    ]);
  });

  it('is none where not one file of it lies', () => {
    const ids = identify(['something', 'else']);
    expect(ids.every(({ builds }) => builds.length === 0)).toBe(true);
    expect(likeliestBuild(ids, TREES.keys())).toBeUndefined();
  });
});

describe('a stray', () => {
  const catalogue = catalogueOf(
    {
      horn: [{ version: '1', files: [file('mods/horn.dat', 'horn')] }],
      hook: [{ version: '2', files: [file('hook.dll', 'hook')] }],
    },
    { hook: 'loader' },
  );
  const rules = {
    program: 'program',
    loader: 'hook.dll',
    modsFolder: 'mods',
    loadOrder: 'mods/order',
    own: [{ folder: 'saves', kind: 'saves' as const }],
  };
  const here = [
    found('program', 'p1'),
    found('wrong/place', 'horn'),
    found('hook.dll', 'hook'),
    found('mods/order', 'horn'),
    found('saves/1', 'mine'),
    found('saves/horn', 'horn'),
    found('what', 'unheard of'),
    found('table', 't'),
  ];
  const rows = compareTree(TREES.get(NEW)!, here);
  const names = nameStrays(rows, TREES, recogniseMods(here, catalogue), catalogue, rules);

  it.each([
    ['wrong/place', { kind: 'mod', mod: 'horn', release: '1', place: 'mods/horn.dat' }],
    ['hook.dll', { kind: 'loader', mod: 'hook', release: '2', place: 'hook.dll' }],
    ['mods/order', { kind: 'load-order' }],
    ['program', { kind: 'leftover', builds: [OLD] }],
    ['saves/1', { kind: 'own', what: 'saves' }],
    ['what', { kind: 'unknown' }],
  ])('%s is named', (path, name) => {
    expect(names.get(path)).toEqual(name);
  });

  it('is no name of a file that is as it should be, or not there', () => {
    expect(names.has('table')).toBe(false);
    expect(names.has('voice')).toBe(false);
  });
});

it('what it takes to be clean leaves the mods and the player’s own where they are', () => {
  const rules = {
    program: 'program',
    loader: 'hook.dll',
    modsFolder: 'mods',
    loadOrder: 'mods/order',
    own: [{ folder: 'saves', kind: 'saves' as const }],
  };
  // The mod puts one of its files over one of the build.
  const files = [file('mods/horn.dat', 'horn'), file('voice', 'horn')];
  const catalogue = catalogueOf({ horn: [{ version: '1', files }] });
  const here = [
    found('program', 'p1'),
    found('somewhere/table', 't'),
    found('voice', 'horn'),
    found('mods/horn.dat', 'horn'),
    found('saves/1', 'mine'),
    found('what', 'unheard of'),
  ];
  const rows = compareTree(TREES.get(NEW)!, here);
  const names = nameStrays(rows, TREES, recogniseMods(here, catalogue), catalogue, rules);
  expect(cleaning(cleaningRows(rows, names, here))).toEqual({
    // The table’s copy and what nobody knows; the program is left over from the older build, the newer one is to come.
    setAside: { files: 2, bytes: 1 + 'unheard of'.length },
    moveBack: { files: 1, bytes: 1 },
    fetch: { files: 1, bytes: 2 },
  });
});

it('a checksum list tells the same of a folder as its bytes, as far as its contents are known', () => {
  fc.assert(
    fc.property(treeArbitrary, treeArbitrary, (expected, here) => {
      const known = expected.map((one) => ({ ...one, digest: digest(one.key) }));
      const files = here.map(({ path, key }) => ({ path, digest: digest(key) }));
      const listed = foundFromList({ kind: 'sha-256', files }, known);
      const states = (rows: ReturnType<typeof compareTree>): string[] =>
        rows.map(({ path, state }) => `${path} ${state}`);
      expect(states(compareTree(expected, listed))).toEqual(states(compareTree(expected, here)));
    }),
  );
});

function file(path: string, text: string) {
  return { path, size: text.length, sha256: digest(text), href: '' };
}

it('what lies in a folder that could not be read is not said to be absent', () => {
  const rows = (['absent', 'absent', 'absent', 'true'] as const).map((state, i) => ({
    ...{ path: ['a/b/c', 'a2/b', 'd', 'a/x'][i]!, state, size: 1 },
  }));
  expect(withUnreadable(rows, ['a', 'd']).map(({ state }) => state)).toEqual([
    'unreadable',
    'absent',
    'unreadable',
    'true',
  ]);
  expect(withUnreadable(rows, [])).toBe(rows);
});

import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { asDepot } from '#core/builds';
import { layDownPlan, proposeWay, roomNeeded, type RoomNow, roomOverTime } from '#core/assemble';
import { type ContentKey, contentKey, PIECE_SIZE } from '#core/digest';
import {
  bytesToCome,
  diskContents,
  fetchTotals,
  isNowhere,
  isPartOfFetch,
  type OnDisk,
  type TargetFile,
  whatToFetch,
  wireCost,
} from './index';

const digest = (text: string): string => createHash('sha256').update(text).digest('hex');
const keyOf = (...pieces: string[]): ContentKey => contentKey((pieces.length - 1) * PIECE_SIZE + 7, pieces.map(digest));
const sizeOf = (key: ContentKey): number => Number(key.split(':')[0]);
const found = (path: string, key: ContentKey) => ({ path, size: sizeOf(key), key });
const target = (path: string, key: ContentKey): TargetFile => ({
  path,
  size: sizeOf(key),
  key,
  sha256: digest(key),
  owner: { kind: 'depot', depot: asDepot('core') },
  href: `/files/${path}`,
});
const RULES = {
  program: 'p',
  loader: 'l',
  modsFolder: 'mods',
  loadOrder: 'mods/load-order.txt',
  own: [{ folder: 'saves', kind: 'saves' as const }],
};
const NOTHING_STORED = new Map<ContentKey, string>();

it('a part of what is to come is a depot, what lies below a path, or what is both', () => {
  const file = { path: 'world/east/a', owner: { kind: 'depot', depot: asDepot('world') } } as TargetFile;
  const parts = [undefined, { depot: 'world' }, { below: 'world/east' }, { below: 'world/east/a' }];
  for (const part of parts) expect(isPartOfFetch(file, part)).toBe(true);
  const others = [{ depot: 'core' }, { below: 'world/ea' }, { depot: 'core', below: 'world' }];
  for (const part of others) expect(isPartOfFetch(file, part)).toBe(false);
});

describe('what to fetch', () => {
  const [same, moved, arrived, fresh] = [keyOf('same'), keyOf('moved'), keyOf('arrived'), keyOf('head', 'tail')];
  const grown = keyOf('head', 'middle', 'tail');
  const items = whatToFetch(
    [target('same', same), target('new-place', moved), target('arrived', arrived), target('grown', grown)],
    {
      contents: diskContents([found('same', same), found('old-place', moved), found('archive', fresh)]),
      stored: new Map([[arrived, 'contents/x']]),
    },
  );

  it('keeps, moves, takes what was fetched, and reuses single pieces', () => {
    expect(items.map(({ source }) => source)).toEqual([
      { how: 'keep', path: 'same' },
      { how: 'elsewhere', path: 'old-place' },
      { how: 'stored', path: 'contents/x' },
      { how: 'fetch', pieces: [{ path: 'archive', start: 0 }, undefined, { path: 'archive', start: PIECE_SIZE }] },
    ]);
  });

  it('reuses a small file as a piece of a larger one', () => {
    const [small, large] = [keyOf('tail'), keyOf('head', 'tail')];
    const contents = diskContents([found('small', small)]);
    const [item] = whatToFetch([target('large', large)], { contents, stored: NOTHING_STORED });
    expect(item!.source).toEqual({ how: 'fetch', pieces: [undefined, { path: 'small', start: 0 }] });
  });

  it('takes from folders beside the disk what the disk itself has not', () => {
    const [here, there] = [diskContents([found('small', keyOf('tail'))]), diskContents([found('old', fresh)])];
    const beside = [{ name: 'other', pieceAt: there.pieceAt }];
    const [item] = whatToFetch([target('grown', grown)], { contents: here, stored: NOTHING_STORED, beside });
    expect(item!.source).toEqual({
      how: 'fetch',
      pieces: [{ path: 'old', start: 0, beside: 'other' }, undefined, { path: 'small', start: 0 }],
    });
    expect(fetchTotals([item!])).toMatchObject({ beside: PIECE_SIZE, toFetch: PIECE_SIZE, reused: 7 });
  });

  it('asks nobody for pieces that an interrupted fetch has brought', () => {
    const large = keyOf('head', 'middle', 'tail');
    const [item] = whatToFetch([target('large', large)], {
      contents: diskContents([found('archive', fresh)]),
      ...{ stored: NOTHING_STORED, arrived: new Map([[digest(large), new Set([0])]]) },
    });
    expect(item!.source).toEqual({
      how: 'fetch',
      pieces: ['arrived', undefined, { path: 'archive', start: PIECE_SIZE }],
    });
    expect(fetchTotals([item!])).toMatchObject({ stored: PIECE_SIZE, toFetch: PIECE_SIZE, reused: 7 });
    expect(wireCost([item!])).toEqual({ compressed: 0, plain: PIECE_SIZE, requests: 1 });
  });

  it('counts only the missing pieces as bytes to fetch', () => {
    expect(fetchTotals(items)).toMatchObject({
      toFetch: PIECE_SIZE,
      reused: PIECE_SIZE + 7,
      filesToFetch: 1,
      moved: 7,
    });
  });

  it('says the bytes of any target without making a tree of it', () => {
    const contents = [same, moved, fresh, grown, keyOf('x'), keyOf('y', 'head'), keyOf('tail')];
    const place = fc.tuple(fc.constantFrom('a', 'b', 'c', 'd', 'e'), fc.constantFrom(...contents));
    const places = fc.uniqueArray(place, { selector: ([path]) => path, maxLength: 5 });
    fc.assert(
      fc.property(places, places, places, places, (wanted, there, kept, elsewhere) => {
        const foundAt = (some: typeof there) => diskContents(some.map(([path, key]) => found(path, key)));
        const asked = wanted.map(([path, key]) => target(path, key));
        const disk: OnDisk = {
          contents: foundAt(there),
          stored: new Map(kept.map(([path, key]) => [key, path])),
          arrived: new Map([[target('a', grown).sha256, new Set([0])]]),
          beside: [{ name: 'other', pieceAt: foundAt(elsewhere).pieceAt }],
        };
        const bytes = [...bytesToCome(asked, disk).values()].reduce((sum, one) => sum + one, 0);
        expect(bytes).toBe(fetchTotals(whatToFetch(asked, disk)).toFetch);
      }),
    );
  });

  it('counts a content that is wanted at two places once', () => {
    const twice = whatToFetch([target('a', grown), target('b', grown)], {
      contents: diskContents([]),
      stored: NOTHING_STORED,
    });
    const size = sizeOf(grown);
    expect(fetchTotals(twice)).toMatchObject({ toFetch: size, moved: size, filesToFetch: 1 });
  });

  it('counts nothing of a file that no service has, unless it lies on disk', () => {
    const own = { ...target('mods/own', fresh), href: '' };
    const from = (files: ReturnType<typeof found>[]) =>
      whatToFetch([own], { contents: diskContents(files), stored: NOTHING_STORED });
    expect(from([]).map(isNowhere)).toEqual([true]);
    expect(fetchTotals(from([]))).toMatchObject({ toFetch: 0, reused: 0, filesToFetch: 0 });
    expect(from([found('elsewhere', fresh)]).map(isNowhere)).toEqual([false]);
    expect(fetchTotals(from([found('elsewhere', fresh)])).moved).toBe(own.size);
  });

  it('each byte of the target is counted once', () => {
    const keys = fc.constantFrom(same, moved, fresh, grown);
    fc.assert(
      fc.property(fc.array(keys, { maxLength: 6 }), fc.array(keys, { maxLength: 4 }), (wanted, onDisk) => {
        const files = wanted.map((key, i) => target(`f${i}`, key));
        const totals = fetchTotals(
          whatToFetch(files, {
            contents: diskContents(onDisk.map((key, i) => found(`f${i}`, key))),
            stored: NOTHING_STORED,
          }),
        );
        const sum = totals.onHand + totals.moved + totals.reused + totals.stored + totals.toFetch;
        expect(sum).toBe(files.reduce((bytes, { size }) => bytes + size, 0));
      }),
    );
  });
});

describe('the plan to lay down', () => {
  const [right, old, save] = [keyOf('right'), keyOf('old'), keyOf('save')];
  const onDisk = [found('a', right), found('b', old), found('left-over', old), found('saves/1', save)];
  const items = whatToFetch([target('a', right), target('b', keyOf('new'))], {
    contents: diskContents(onDisk),
    stored: NOTHING_STORED,
  });
  const plan = layDownPlan(items, onDisk, RULES);
  const now = (oldBytes: number): RoomNow => ({ oldBytes, fetchedBytes: 0, toShelve: 0 });

  it('brings along what is right and what is the player’s own, and leaves the rest', () => {
    expect(plan.rows.map(({ path, own }) => [path, own])).toEqual([
      ['a', false],
      ['saves/1', true],
    ]);
    expect(plan.leftBehind.map(({ path }) => path)).toEqual(['b', 'left-over']);
    expect(plan.missing.map(({ path }) => path)).toEqual(['b']);
  });

  it('leaves what is not waited for as the folder has it', () => {
    const { rows, leftBehind, missing } = layDownPlan(items, onDisk, RULES, undefined, new Set(['b']));
    expect(rows.map(({ path, key, own }) => [path, key, own])).toEqual([
      ['a', right, false],
      ['b', old, true],
      ['saves/1', save, true],
    ]);
    expect([leftBehind.map(({ path }) => path), missing]).toEqual([['left-over'], []]);
  });

  it('needs most room when old, fetched and new stand side by side', () => {
    const { steps, peak } = roomOverTime(plan, now(28), 'beside');
    expect(steps.map(({ bytes }) => bytes)).toEqual([28, 35, 56, 49, 21]);
    expect(peak).toBe(56);
  });

  it('needs in place only room for the files that differ', () => {
    const { steps, peak } = roomOverTime(plan, now(28), 'in-place');
    expect(steps.map(({ bytes }) => bytes)).toEqual([28, 35, 42, 35, 21]);
    expect(peak).toBe(42);
  });

  it('proposes the way that finds room, and in place where little differs', () => {
    const ways = (['beside', 'in-place'] as const).map((way) => ({ way, ...roomOverTime(plan, now(28), way) }));
    expect(ways.map(roomNeeded)).toEqual([28, 14]);
    expect(proposeWay(ways)).toEqual({ way: 'beside', why: 'one-instant' });
    expect(proposeWay(ways, 28)).toEqual({ way: 'beside', why: 'one-instant' });
    expect(proposeWay(ways, 27)).toEqual({ way: 'in-place', why: 'no-room-beside' });
    expect(proposeWay(ways.slice(1), 100)).toEqual({ way: 'in-place', why: 'only-way' });
    const most = Array.from({ length: 9 }, (_, i) => found(`more ${i}`, right));
    const wanted = [target('b', keyOf('new')), ...most.map(({ path }) => target(path, right))];
    const there = [...onDisk, ...most];
    const little = layDownPlan(
      whatToFetch(wanted, { contents: diskContents(there), stored: NOTHING_STORED }),
      there,
      RULES,
    );
    const littles = (['beside', 'in-place'] as const).map((way) => ({ way, ...roomOverTime(little, now(91), way) }));
    expect(proposeWay(littles)).toEqual({ way: 'in-place', why: 'little-differs' });
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asMod, type GameRules } from '#core/builds';
import { type ContentKey, contentKey } from '#core/digest';
import { digest } from '../testing/digest';
import {
  bagRoot,
  expiredKeepsakes,
  fitBag,
  isPutBack,
  isSameOwn,
  type Keepsake,
  type KeepsakeHead,
  type OwnFile,
  ownName,
  pathInBag,
  placeAll,
  putBack,
  putBackOf,
  readBag,
  savedWith,
  withCopies,
} from './index';

const keyOf = (letter: string): ContentKey => contentKey(1, [letter.repeat(64)]);
const own = (path: string, letter = 'a', place = 'game'): OwnFile => ({
  ...{ place, path, kind: 'saves', key: keyOf(letter), modified: 0 },
});

it('a save was written with the mods that lay there when the first keepsake of it was made', () => {
  const kept = (at: number, why: Keepsake['why'], mods: string[] | undefined, ...files: OwnFile[]): Keepsake => ({
    ...{ version: 2, id: `k${at}`, at, why, files },
    ...(mods && { mods: mods.map((mod) => [asMod(mod), '1']) }),
  });
  const saves = [own('old'), own('changed', 'b'), own('new'), own('told')];
  const all = savedWith(
    saves,
    [
      kept(3, 'change', ['horn'], own('old'), own('changed', 'b')),
      kept(1, 'asked', ['horn', 'hook'], own('old'), own('changed', 'a')),
      kept(2, 'change', undefined, own('told')),
      // What came from elsewhere says nothing of this folder.
      kept(0, 'archive', ['sail'], ...saves),
    ],
    [asMod('keel')],
  );
  expect(all.map(({ save, mods }) => [save.path, mods])).toEqual([
    ['old', ['horn', 'hook']],
    ['changed', ['horn']],
    ['new', ['keel']],
    ['told', undefined],
  ]);
});

it('of keepsakes and their copies each is told once, with what has no copy and what only a copy is left of', () => {
  const head = (id: string, at: number): KeepsakeHead => ({ id, at, why: 'asked', files: 1, bytes: 1 });
  const list = (...keepsakes: KeepsakeHead[]) => ({ keepsakes, unreadable: [] });
  const all = withCopies(list(head('new', 3), head('both', 1)), list(head('lost', 2), head('both', 1)));
  expect(all.keepsakes.map(({ id }) => id)).toEqual(['new', 'lost', 'both']);
  expect([...all.onlyCopied]).toEqual(['lost']);
  expect(all.uncopied.map(({ id }) => id)).toEqual(['new']);
});

it('of a place that cannot be read nothing is told, and nothing put back', () => {
  const kept = [own('a'), own('b', 'a', 'outside')];
  const { rows } = putBackOf({ files: kept }, [], (place) => place === 'game');
  expect(rows.map((row) => [row.does, isPutBack(row)])).toEqual([
    ['returns', true],
    ['unknown', false],
  ]);
});

describe('putting back', () => {
  const fileArbitrary = fc.record({
    place: fc.constantFrom('game', 'ownaaa'),
    path: fc.constantFrom('a', 'b', 'c', 'd'),
    letter: fc.constantFrom('a', 'b'),
  });
  const filesArbitrary = fc
    .uniqueArray(fileArbitrary, { selector: ownName })
    .map((files) => files.map(({ path, letter, place }) => own(path, letter, place)));

  it('over all rows, and without what came since, there is just what was kept', () => {
    fc.assert(
      fc.property(filesArbitrary, filesArbitrary, (kept, now) => {
        const { rows, since } = putBack(kept, now);
        const gone = new Set(since.map(ownName));
        const stay = now.filter((file) => !gone.has(ownName(file)));
        const put = rows.filter(({ does }) => does !== 'nothing');
        const after = new Map([...stay, ...put].map((file) => [ownName(file), file.key]));
        expect(after).toEqual(new Map(kept.map((file) => [ownName(file), file.key])));
        for (const row of rows) expect(row.now === null).toBe(row.does === 'returns');
        expect(isSameOwn(kept, now)).toBe(put.length === 0 && since.length === 0);
      }),
    );
  });
});

it('nothing that a keepsake lacks by its own word was made since, nor anything where it has only what nobody knew', () => {
  const now = [own('a', 'a'), own('b', 'b'), own('c', 'c')];
  const since = (keepsake: Parameters<typeof putBackOf>[0]): string[] =>
    putBackOf(keepsake, now).since.map(({ path }) => path);
  expect(since({ files: [own('a', 'a')] })).toEqual(['b', 'c']);
  expect(since({ files: [own('a', 'a')], unread: ['b'] })).toEqual(['c']);
  expect(since({ files: [{ ...own('a', 'a'), along: true }] })).toEqual([]);
  expect(since({ files: [own('a', 'a'), { ...own('b', 'b'), along: true }] })).toEqual(['c']);
  expect(since({ files: [] })).toEqual(['a', 'b', 'c']);
});

describe('an archive that is brought in', () => {
  const manifest = (...paths: readonly string[]): string =>
    paths.map((path) => `${digest(path)}  data/${path}\n`).join('');
  const sums = (text: string) => new Map([['sha256', text]] as const);

  it('is a bag at its root or in its only folder', () => {
    expect(bagRoot('x.zip', ['bagit.txt', 'data/a'])).toBe('');
    expect(bagRoot('x.zip', ['one/data/a', 'one/bagit.txt'])).toBe('one/');
    expect(() => bagRoot('x.zip', ['a/b/bagit.txt'])).toThrow('bag/malformed');
  });

  it('is read by its strongest manifest', () => {
    const texts = new Map([
      ['md5', `${'1'.repeat(32)}  data/a\n`],
      ['sha512', `${'2'.repeat(128)} *data/a\r\n`],
    ] as const);
    expect(readBag('x', ['data/a'], texts)).toEqual({ sum: 'sha512', files: [{ path: 'a', hex: '2'.repeat(128) }] });
  });

  it.each([
    ['without a manifest', ['data/a'], new Map(), 'no manifest'],
    ['with a file that is missing', ['data/a'], sums(manifest('a', 'b')), '"data/b" is missing'],
    ['with a file that nobody lists', ['data/a', 'data/b'], sums(manifest('a')), '"data/b" is not in its manifest'],
    ['with files that are elsewhere', ['data/a', 'fetch.txt'], sums(manifest('a')), 'fetched from elsewhere'],
    ['that lists what is no payload', ['bagit.txt'], sums(`${digest('x')}  bagit.txt\n`), 'no part of its payload'],
    ['with nothing in it', ['bagit.txt'], sums(''), 'empty'],
  ])('%s is refused', (_what, paths, texts, problem) => {
    expect(() => readBag('x.zip', paths, texts)).toThrow(expect.objectContaining({ code: 'bag/malformed' }));
    try {
      readBag('x.zip', paths, texts);
    } catch (error) {
      expect((error as { facts: { what: string } }).facts.what).toContain(problem);
    }
  });

  it.each([
    ['climbs out', '../a', 'path/climbs'],
    ['is a device', 'con', 'path/reserved-name'],
  ])('with a path that %s is refused by it', (_what, path, code) => {
    expect(() => readBag('x.zip', [`data/${path}`], sums(manifest(path)))).toThrow(expect.objectContaining({ code }));
  });

  it('with two names for one file is refused by them', () => {
    const paths = ['data/A', 'data/a'];
    expect(() => readBag('x.zip', paths, sums(manifest('A', 'a')))).toThrow(
      expect.objectContaining({ code: 'path/collides' }),
    );
  });

  const rules: Pick<GameRules, 'own'> = {
    own: [
      { folder: 'profile/**/*.sav', kind: 'saves' },
      { folder: 'set', kind: 'settings' },
    ],
  };
  const none = { kept: undefined, outside: new Set<string>() };

  it('has its files placed by the rules, whatever folders are around them', () => {
    const { fitted, left } = fitBag(['My game/profile/x/one.sav', 'My game/set/a.ini', 'My game/read me'], rules, none);
    expect(fitted.map(({ path, kind }) => [path, kind])).toEqual([
      ['profile/x/one.sav', 'saves'],
      ['set/a.ini', 'settings'],
    ]);
    expect(left).toEqual(['My game/read me']);
  });

  it('that was packed here has its files where they were, as far as those places are here', () => {
    const files = [own('profile/a.sav'), own('two.sav', 'b', 'ownaaa'), own('three.sav', 'c', 'owngone')];
    const { fitted, left } = fitBag(files.map(pathInBag), rules, { kept: { files }, outside: new Set(['ownaaa']) });
    expect(fitted.map(({ place, path }) => [place, path])).toEqual([
      ['game', 'profile/a.sav'],
      ['ownaaa', 'two.sav'],
    ]);
    expect(left).toEqual(['elsewhere/owngone/three.sav']);
  });

  it('has the rest placed as a person says, without the folders around all of it', () => {
    const into = { place: 'ownaaa', kind: 'saves', folder: '' } as const;
    expect(placeAll(['x/y/a', 'x/y/z/b'], into).map(({ path }) => path)).toEqual(['a', 'z/b']);
    expect(placeAll(['x/a'], { ...into, folder: 'deep' }).map(({ path }) => path)).toEqual(['deep/a']);
  });
});

it('rules of retention name old, many and large keepsakes, never the newest or one that is needed', () => {
  const day = 86_400_000;
  const heads = [0, 1, 2, 3].map((age): KeepsakeHead => ({
    ...{ id: `k${age}`, at: -age * day, why: 'asked', files: 1, bytes: 10 },
  }));
  const past = (rules: Parameters<typeof expiredKeepsakes>[1], needed: readonly string[] = []) =>
    expiredKeepsakes(heads, rules, { now: 0, needed: new Set(needed) }).map(({ id }) => id);
  expect(past({})).toEqual([]);
  expect(past({ keepsakes: 2 })).toEqual(['k2', 'k3']);
  expect(past({ keepsakeDays: 2 }, ['k3'])).toEqual([]);
  expect(past({ keepsakeDays: 1.5 }, ['k3'])).toEqual(['k2']);
  expect(past({ keepsakeBytes: 5 })).toEqual(['k1', 'k2', 'k3']);
});

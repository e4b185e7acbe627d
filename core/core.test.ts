import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { contentKey, keyPieces, PIECE_SIZE, treeDigest } from '#core/digest';
import { Failure, failureFromWire, failureToWire } from '#core/failure';
import { manifestFiles, manifestFromFiles, overlay, parseMetalink, writeMetalink } from '#core/manifest';
import { patchImpact } from '#core/mend';
import { PathSet } from '#core/paths';
import { compareTree } from '#core/survey';

const sha256 = async (data: Uint8Array | string): Promise<string> => createHash('sha256').update(data).digest('hex');
const digest = (text: string): string => createHash('sha256').update(text).digest('hex');
const code = (work: () => unknown): string => {
  try {
    work();
  } catch (error) {
    if (error instanceof Failure) return error.code;
    throw error;
  }
  return 'accepted';
};

describe('safe paths', () => {
  it.each([
    ['../a', 'path/climbs'],
    ['a/../b', 'path/climbs'],
    ['..\\a', 'path/climbs'],
    ['/a', 'path/absolute'],
    ['C:/a', 'path/absolute'],
    ['a//b', 'path/empty'],
    ['a/con.txt', 'path/reserved-name'],
    ['a/b.', 'path/trailing-dot-or-space'],
    ['a\u0000b', 'path/forbidden-character'],
    ['a/b', 'accepted'],
  ])('%j: %s', (path, expected) => {
    expect(code(() => new PathSet().add(path))).toBe(expected);
  });

  it.each([[['a/b', 'a/B']], [['Data/x', 'data/y']], [['caf\u00e9', 'cafe\u0301']], [['a', 'a/b']], [['a/b', 'a/b']]])(
    'refuses %j side by side',
    (paths) => {
      const set = new PathSet();
      expect(code(() => paths.forEach((path) => set.add(path)))).toBe('path/collides');
    },
  );
});

const fileArbitrary = fc
  .record({ path: fc.stringMatching(/^f[a-z0-9]{1,8}$/), size: fc.integer({ min: 0, max: 3 * PIECE_SIZE }) })
  .map(({ path, size }) => {
    const count = Math.max(1, Math.ceil(size / PIECE_SIZE));
    const pieces = Array.from({ length: count }, (_, i) => digest(`${path} ${i}`));
    return { path, size, sha256: count === 1 ? pieces[0]! : digest(path), pieces };
  });
const filesArbitrary = fc.uniqueArray(fileArbitrary, { selector: ({ path }) => path, maxLength: 12 });

describe('manifests', () => {
  it('are read back as they were written', () => {
    fc.assert(
      fc.property(filesArbitrary, (files) => {
        const manifest = manifestFromFiles(asBuild('1'), asDepot('d'), files);
        const text = writeMetalink(manifest, (path) => path);
        expect(parseMetalink(text, asBuild('1'), asDepot('d'), 'm')).toEqual(manifest);
        expect(manifestFiles(manifest).map(({ key: _key, ...file }) => file)).toEqual(files);
      }),
    );
  });

  const metalink = (inside: string): string =>
    `<metalink xmlns="urn:ietf:params:xml:ns:metalink">\n${inside}</metalink>`;
  const file = (name: string, inside: string): string => `<file name="${name}">${inside}</file>\n`;
  const whole = `<size>1</size><hash type="sha-256">${digest('x')}</hash>`;
  it.each([
    ['<html/>', 'metalink/malformed'],
    [`<!DOCTYPE m [<!ENTITY e "x">]>${metalink('')}`, 'metalink/malformed'],
    [metalink(file('a', '<size>1</size>')), 'metalink/malformed'],
    [metalink(file('a', '<size>1</size><hash type="sha-256">abc</hash>')), 'digest/malformed'],
    [metalink(file('a', whole.replace('>1<', '>3000000<'))), 'metalink/pieces'],
    [metalink(file('../a', whole)), 'path/climbs'],
    [metalink(file('a', whole) + file('A', whole)), 'path/collides'],
    [metalink(file('a', whole)), 'accepted'],
  ])('%#: %s', (text, expected) => {
    expect(code(() => parseMetalink(text, asBuild('1'), asDepot('d'), 'm'))).toBe(expected);
  });

  it('names the line of a bad entry', () => {
    try {
      parseMetalink(metalink(file('a', whole) + file('b', '<size>1</size>')), asBuild('1'), asDepot('d'), 'm.meta4');
      expect.unreachable();
    } catch (error) {
      expect(error).toMatchObject({ facts: { file: 'm.meta4', line: 3, path: 'b' } });
    }
  });

  it('lay over one another, the last one on top', () => {
    const one = (depot: string, text: string) =>
      manifestFromFiles(asBuild('1'), asDepot(depot), [
        { path: 'same', size: 1, sha256: digest(text), pieces: [digest(text)] },
      ]);
    const [laid] = overlay([one('low', 'a'), one('high', 'b')]);
    expect(laid).toMatchObject({ depot: 'high', covers: ['low'], sha256: digest('b') });
  });
});

const tree = fc
  .uniqueArray(fc.record({ path: fc.stringMatching(/^[a-e]$/), size: fc.integer({ min: 0, max: 3 }) }), {
    selector: ({ path }) => path,
  })
  .map((files) => files.map((file) => ({ ...file, key: contentKey(file.size, [digest(String(file.size))]) })));

describe('trees', () => {
  it('have a digest that does not depend on order', async () => {
    await fc.assert(
      fc.asyncProperty(tree, async (files) => {
        expect(await treeDigest(files.toReversed(), sha256)).toBe(await treeDigest(files, sha256));
      }),
    );
  });

  it('compared with themselves are true, and every path of two gets one row', () => {
    fc.assert(
      fc.property(tree, tree, (expected, found) => {
        expect(compareTree(found, found).every(({ state }) => state === 'true')).toBe(true);
        const paths = new Set([...expected, ...found].map(({ path }) => path));
        expect(compareTree(expected, found).map(({ path }) => path)).toEqual([...paths].sort());
      }),
    );
  });

  it('differ by a patch that touches just the paths that are not equal', () => {
    fc.assert(
      fc.property(tree, tree, (before, after) => {
        const rows = compareTree(before, after).filter(({ state }) => state !== 'true');
        expect([...patchImpact(before, after).touched].sort()).toEqual(rows.map(({ path }) => path));
      }),
    );
  });
});

it('a content key gives its pieces back', () => {
  const pieces = [digest('a'), digest('b')];
  expect(keyPieces(contentKey(PIECE_SIZE + 1, pieces))).toEqual(pieces);
});

it('a failure crosses a thread with code, facts and cause', () => {
  const failure = new Failure('folder/full', { path: 'a' }, { cause: new Failure('service/failed') });
  const back = failureFromWire(structuredClone(failureToWire(failure)));
  expect(back).toMatchObject({ code: 'folder/full', facts: { path: 'a' }, cause: { code: 'service/failed' } });
});

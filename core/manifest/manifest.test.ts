import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { PIECE_SIZE } from '#core/digest';
import { topFolder } from '#core/paths';
import { digest, failureCode } from '../testing/digest';
import {
  fileAt,
  hasKeyAt,
  layerFolders,
  manifestBytes,
  manifestDigests,
  manifestFiles,
  manifestFromFiles,
  overlay,
  parseMetalink,
  writeMetalink,
} from './index';

const PIECE_SIZES = [PIECE_SIZE, PIECE_SIZE, 1 << 14, 1 << 18, 1 << 21];
const fileArbitrary = fc
  .record({
    path: fc.stringMatching(/^f[a-z0-9]{1,8}$/),
    size: fc.integer({ min: 0, max: 3 * PIECE_SIZE }),
    pieceSize: fc.constantFrom(...PIECE_SIZES),
  })
  .map(({ path, size, pieceSize }) => {
    if (size <= PIECE_SIZE) return { path, size, sha256: digest(path), pieces: [digest(path)] };
    const count = Math.ceil(size / pieceSize);
    const pieces = Array.from({ length: count }, (_, i) => digest(`${path} ${i}`));
    const sha256 = count === 1 ? pieces[0]! : digest(path);
    return { path, size, sha256, pieces, ...(pieceSize !== PIECE_SIZE && { pieceSize }) };
  });
const withOthers = fc.boolean().chain((others) =>
  fc.uniqueArray(fileArbitrary, { selector: ({ path }) => path, minLength: 1, maxLength: 12 }).map((files) =>
    files.map((file) => {
      const { sha256 } = file;
      return others
        ? { ...file, others: { 'sha-1': sha256.slice(0, 40), md5: sha256.slice(0, 32), 'crc-32': sha256.slice(0, 8) } }
        : file;
    }),
  ),
);

describe('manifests', () => {
  it('are read back as they were written', () => {
    fc.assert(
      fc.property(withOthers, (files) => {
        const manifest = manifestFromFiles(asBuild('1'), asDepot('d'), files);
        const text = writeMetalink(manifest, (path) => path);
        expect(parseMetalink(text, asBuild('1'), asDepot('d'), 'm')).toEqual(manifest);
        expect(manifestFiles(manifest).map(({ key: _, ...file }) => file)).toEqual(
          files.map(({ path, size, sha256, pieces, ...more }) => ({
            ...{ path, size, sha256, pieces },
            ...('pieceSize' in more && { pieceSize: more.pieceSize }),
          })),
        );
        const sha1 = manifestDigests(manifest, 'sha-1');
        expect(sha1 ?? []).toEqual(files.flatMap((file) => ('others' in file ? [file.others['sha-1']] : [])));
      }),
    );
  });

  it('tell whether a file has a content without making its key', () => {
    fc.assert(
      fc.property(withOthers, (files) => {
        const manifest = manifestFromFiles(asBuild('1'), asDepot('d'), files);
        const keys = manifestFiles(manifest).map(({ key }) => key);
        for (const i of files.keys()) {
          expect(keys.map((key) => hasKeyAt(manifest, i, key))).toEqual(
            keys.map((key) => key === fileAt(manifest, i).key),
          );
        }
      }),
    );
  });

  const metalink = (inside: string): string =>
    `<metalink xmlns="urn:ietf:params:xml:ns:metalink">\n${inside}</metalink>`;
  const file = (name: string, inside: string): string => `<file name="${name}">${inside}</file>\n`;
  const pieces = (length: number, ...texts: string[]): string =>
    `<pieces length="${length}" type="sha-256">${texts.map((text) => `<hash>${digest(text)}</hash>`).join('')}</pieces>`;
  const whole = `<size>1</size><hash type="sha-256">${digest('x')}</hash>`;
  it('of pieces of another length are read as they are, and small files need none', () => {
    const large = `<size>3000000</size><hash type="sha-256">${digest('x')}</hash>${pieces(1 << 20, 'a', 'b', 'c')}`;
    const text = metalink(
      file('usual', large) +
        file('coarse', large.replace(/<pieces.*/, pieces(1 << 21, 'a', 'b'))) +
        file('whole', large.replace(/<pieces.*/, pieces(1 << 22, 'x'))) +
        file('small', `${whole}${pieces(1 << 14, 'x')}`),
    );
    const keys = manifestFiles(parseMetalink(text, asBuild('1'), asDepot('d'), 'm')).map(({ key }) => key);
    expect(keys).toEqual([
      `3000000:${digest('a')}${digest('b')}${digest('c')}`,
      `3000000/2097152:${digest('a')}${digest('b')}`,
      `3000000/4194304:${digest('x')}`,
      `1:${digest('x')}`,
    ]);
  });

  it.each([
    ['<html/>', 'metalink/malformed'],
    [`<!DOCTYPE m [<!ENTITY e "x">]>${metalink('')}`, 'metalink/malformed'],
    [metalink(file('a', '<size>1</size>')), 'metalink/malformed'],
    [metalink(file('a', '<size>1</size><hash type="sha-256">abc</hash>')), 'digest/malformed'],
    [metalink(file('a', whole.replace('>1<', '>3000000<'))), 'metalink/pieces'],
    [metalink(file('a', `${whole}<hash type="md5">abc</hash>`)), 'digest/malformed'],
    [metalink(file('a', `${whole}<hash type="sha-512">abc</hash>`)), 'accepted'],
    [metalink(file('a', `${whole}<size>2</size>`)), 'metalink/malformed'],
    [metalink(file('a', `${whole}<size>1</size>`)), 'metalink/malformed'],
    [metalink(file('a', `${whole}<hash type="sha-256">${digest('y')}</hash>`)), 'metalink/malformed'],
    [metalink(file('a', `${whole}${pieces(1 << 14, 'x')}${pieces(1 << 14, 'x')}`)), 'metalink/malformed'],
    [metalink(file('a', whole.replace('>1<', '>1<x/>2<'))), 'metalink/malformed'],
    [metalink(file('a', whole.replace('>1<', '><!-- 7 -->1<'))), 'accepted'],
    [metalink(file('a', whole.replace('>1<', '><![CDATA[1]]><'))), 'accepted'],
    [metalink(file('a', whole.replace('>1<', '><![CDATA[x]]>1<'))), 'metalink/malformed'],
    [metalink(''), 'metalink/malformed'],
    [metalink('<generator>some</generator>'), 'metalink/malformed'],
    [metalink(`${'<a>'.repeat(30_000)}${'</a>'.repeat(30_000)}`), 'metalink/malformed'],
    [
      metalink(file('a', whole.replace('size', 'o:size xmlns:o="urn:other"').replace('/size', '/o:size'))),
      'metalink/malformed',
    ],
    [metalink(file('a', `${whole}<o:size xmlns:o="urn:other">2</o:size>`)), 'accepted'],
    [metalink(`<o:file xmlns:o="urn:other" name="../b"/>${file('a', whole)}`), 'accepted'],
    // What lies in an element that says nothing here says nothing either.
    [metalink(`<gone><file name="../b"/></gone>${file('a', whole)}`), 'accepted'],
    [metalink(file('a', `${whole}<copy><size>2</size><deep><size>3</size></deep></copy>`)), 'accepted'],
    [metalink(file('a', whole.replace('>1<', '>1e3<'))), 'metalink/malformed'],
    [metalink(file('a', whole.replace('>1<', '>-1<'))), 'metalink/malformed'],
    [metalink(file('a', `${whole}${pieces(1 << 14, 'x')}`)), 'accepted'],
    [metalink(file('a', `${whole}${pieces(1 << 13, 'x')}`)), 'metalink/unsupported'],
    [metalink(file('a', `${whole}${pieces(20_000, 'x')}`)), 'metalink/unsupported'],
    [metalink(file('a', `${whole}${pieces(1 << 14, 'y')}`)), 'metalink/pieces'],
    [metalink(file('a', `${whole}${pieces(1 << 14, 'x', 'x')}`)), 'metalink/pieces'],
    [metalink(file('../a', whole)), 'path/climbs'],
    [metalink(file('a', whole) + file('A', whole)), 'path/collides'],
    [metalink(file('a', whole)), 'accepted'],
  ])('%#: %s', (text, expected) => {
    expect(failureCode(() => parseMetalink(text, asBuild('1'), asDepot('d'), 'm'))).toBe(expected);
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

describe('layers', () => {
  const layer = (depot: string, files: Record<string, string>) =>
    manifestFromFiles(
      asBuild('1'),
      asDepot(depot),
      Object.entries(files).map(([path, text]) => ({
        path,
        size: text.length,
        sha256: digest(text),
        pieces: [digest(text)],
      })),
    );
  const low = layer('low', { 'a/1': 'xxx', 'a/2': 'xx', 'b/1': 'x' });
  const high = layer('high', { 'a/1': 'yyyyy' });

  it('count what stays and what is covered in each folder', () => {
    const [below, above] = layerFolders([low, high], overlay([low, high]), topFolder);
    expect([...below!.folders]).toEqual([
      ['a', { stays: 2, covered: 3 }],
      ['b', { stays: 1, covered: 0 }],
    ]);
    expect([...above!.folders]).toEqual([['a', { stays: 5, covered: 0 }]]);
  });

  it('laid the other way round give another tree, with the same paths', () => {
    const [right, wrong] = [overlay([low, high]), overlay([high, low])];
    expect(wrong.map(({ path }) => path)).toEqual(right.map(({ path }) => path));
    expect(wrong[0]).toMatchObject({ path: 'a/1', depot: 'low', size: 3 });
  });

  it('have the bytes of all their files', () => {
    expect(manifestBytes(low)).toBe(6);
    expect(manifestBytes(layer('empty', {}))).toBe(0);
  });

  it('names with signs that XML and addresses mind come back as they were', () => {
    const odd = layer('odd', { "a & b/'c' #1.txt": 'x', 'ä/ö%20': 'y' });
    const text = writeMetalink(odd, (path) => `files/${path.split('/').map(encodeURIComponent).join('/')}?a=1&b=2`);
    expect(parseMetalink(text, asBuild('1'), asDepot('odd'), 'm').paths).toEqual(odd.paths);
    expect(text).toContain('a=1&amp;b=2');
  });
});

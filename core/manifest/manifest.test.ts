import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { PIECE_SIZE } from '#core/digest';
import { topFolder } from '#core/paths';
import { digest, failureCode } from '../testing/digest';
import {
  layerFolders,
  manifestBytes,
  manifestDigests,
  manifestFiles,
  manifestFromFiles,
  overlay,
  parseMetalink,
  writeMetalink,
} from './index';

const fileArbitrary = fc
  .record({ path: fc.stringMatching(/^f[a-z0-9]{1,8}$/), size: fc.integer({ min: 0, max: 3 * PIECE_SIZE }) })
  .map(({ path, size }) => {
    const count = Math.max(1, Math.ceil(size / PIECE_SIZE));
    const pieces = Array.from({ length: count }, (_, i) => digest(`${path} ${i}`));
    return { path, size, sha256: count === 1 ? pieces[0]! : digest(path), pieces };
  });
const withOthers = fc.boolean().chain((others) =>
  fc.uniqueArray(fileArbitrary, { selector: ({ path }) => path, maxLength: 12 }).map((files) =>
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
        expect(manifestFiles(manifest).map(({ path, sha256 }) => [path, sha256])).toEqual(
          files.map(({ path, sha256 }) => [path, sha256]),
        );
        const sha1 = manifestDigests(manifest, 'sha-1');
        expect(sha1 ?? []).toEqual(files.flatMap((file) => ('others' in file ? [file.others['sha-1']] : [])));
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
    [metalink(file('a', `${whole}<hash type="md5">abc</hash>`)), 'digest/malformed'],
    [metalink(file('a', `${whole}<hash type="sha-512">abc</hash>`)), 'accepted'],
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

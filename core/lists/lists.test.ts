import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { digest } from '../testing/digest';
import { treeArbitrary } from '../testing/trees';
import { CHECKSUM_KINDS, parseChecksumList, writeChecksumList } from '.';

const SHA = digest('a');
const OTHER = digest('b');
const refusal = (text: string) => {
  try {
    parseChecksumList(text, 'folder.list');
  } catch (error) {
    if (isFailure(error)) return { code: error.code, ...error.facts };
    throw error;
  }
  return undefined;
};

describe('a checksum list', () => {
  it.each([
    ['GNU', `${SHA}  tables/a.csv\n${OTHER} *bin/b\n`],
    ['GNU with CRLF and no last end of line', `${SHA}  tables/a.csv\r\n${OTHER} *bin/b`],
    ['GNU with a byte order mark and a leading ./', `\ufeff${SHA}  ./tables/a.csv\n\n${OTHER}  ./bin/b\n`],
    ['GNU with the separators of another system', `${SHA}  tables\\a.csv\n${OTHER}  .\\bin\\b\n`],
    ['GNU in capitals', `${SHA.toUpperCase()}  tables/a.csv\n${OTHER}  bin/b\n`],
    ['BSD', `SHA256 (tables/a.csv) = ${SHA}\nSHA256 (bin/b) = ${OTHER}\n`],
    ['openssl dgst', `SHA2-256(tables/a.csv)= ${SHA}\nSHA256(bin/b)= ${OTHER}\n`],
    ['openssl dgst -r', `${SHA} *tables/a.csv\n${OTHER} *bin/b\n`],
    ['GNU with remarks that end in digits', `# made 20261126\n# of deadbeef\n${SHA}  tables/a.csv\n${OTHER}  bin/b\n`],
    ['BSD and GNU lines with comments', `# made by hand\nSHA2-256 (tables/a.csv) = ${SHA}\n; and\n${OTHER}  bin/b\n`],
  ])('is read in the form %s', (_, text) => {
    expect(parseChecksumList(text, 'x')).toEqual({
      kind: 'sha-256',
      files: [
        { path: 'tables/a.csv', digest: SHA },
        { path: 'bin/b', digest: OTHER },
      ],
    });
  });

  it('is no SFV where nothing parts the name from the digits, or there is no name', () => {
    for (const line of ['a.pak0A1B2C3D', '  0A1B2C3D', 'a.pak 0A1B2C3'])
      expect(refusal(`b.pak 0A1B2C3D\n${line}\n`), line).toMatchObject({ line: 2 });
  });

  it('is read as SFV, names with spaces too', () => {
    expect(
      parseChecksumList('; made today\nfine textures/big one.pak 0A1B2C3D\nb\\c.x  00000000\nabc  00000000\n', 'x'),
    ).toEqual({
      kind: 'crc-32',
      files: [
        { path: 'fine textures/big one.pak', digest: '0a1b2c3d' },
        { path: 'b/c.x', digest: '00000000' },
        { path: 'abc', digest: '00000000' },
      ],
    });
  });

  it.each([
    ['# made 20261126\na.pak 0A1B2C3D\n', ['a.pak']],
    ['#1.pak 00000000\na.pak 0A1B2C3D\n; b.pak 0A1B2C3D\n', ['#1.pak', 'a.pak']],
    ['deadbeef  12345678\na.pak 0A1B2C3D\n', ['deadbeef', 'a.pak']],
    ['deadbeef  12345678\n0a1b2c3d  a.pak\n', ['12345678', 'a.pak']],
    ['deadbeef  12345678\n', ['12345678']],
    ['0a1b2c3d  a\u2028b\n', ['a\u2028b']],
  ])('of CRC-32 is read in the form of its other lines: %j', (text, paths) => {
    const list = parseChecksumList(text, 'x');
    expect(list.kind).toBe('crc-32');
    expect(list.files.map(({ path }) => path)).toEqual(paths);
  });

  it.each(Object.entries(CHECKSUM_KINDS))('tells %s by its length', (kind, digits) => {
    expect(parseChecksumList(`${'0f'.repeat(digits / 2)}  a\n`, 'x').kind).toBe(kind);
  });

  it.each([
    [
      'a digest one digit short',
      `${SHA}  a\n${OTHER.slice(1)}  b\n`,
      { code: 'digest/malformed', line: 2, length: 63 },
    ],
    ['a tag that the digest does not fit', `SHA1 (a) = ${SHA}\n`, { code: 'digest/malformed', line: 1, path: 'a' }],
    [
      'a tagged digest with a letter that is none',
      `MD5 (a) = ${'g'.repeat(32)}`,
      { code: 'digest/malformed', line: 1 },
    ],
    [
      'mixed kinds',
      `${SHA}  a\n${'0'.repeat(32)}  b\n`,
      { code: 'list/mixed-kinds', line: 2, expected: 'sha-256', found: 'md5' },
    ],
    ['a line that is no entry', `${SHA}  a\nhello\n`, { code: 'list/no-entry', line: 2, found: 'hello' }],
    ['no entry at all', '# nothing\n\n', { code: 'list/empty', file: 'folder.list' }],
    ['a path that climbs out', `${SHA}  ../a\n`, { code: 'path/climbs', line: 1, path: '../a' }],
    ['an absolute path', `${SHA}  /a\n`, { code: 'path/absolute', line: 1 }],
    ['a path with a drive', `${SHA}  D:\\games\\a\n`, { code: 'path/absolute', line: 1 }],
    [
      'a name that is escaped and holds a newline',
      `\\${SHA}  a\\nb\n`,
      { code: 'path/forbidden-character', path: 'a\nb' },
    ],
    ['a backslash that is the name’s own', `\\${SHA}  a\\\\b\n`, { code: 'path/forbidden-character', path: 'a\\b' }],
    ['a line of ten million signs', `${SHA}  a\n${'x '.repeat(5e6)}`, { code: 'list/no-entry', line: 2 }],
    ['one name twice', `${SHA}  a\n${SHA}  A\n`, { code: 'path/collides', line: 2, other: 'a' }],
  ])('is refused with %s', (_, text, facts) => {
    expect(refusal(text)).toMatchObject(facts);
  });

  it('that is written reads the same again, and holds more lines than a call can take arguments', () => {
    fc.assert(
      fc.property(treeArbitrary, fc.constantFrom('gnu' as const, 'bsd' as const), (tree, form) => {
        fc.pre(tree.length > 0);
        const files = tree.map(({ path }) => ({ path, digest: digest(path) }));
        expect(parseChecksumList(writeChecksumList({ kind: 'sha-256', files }, { form }), 'x').files).toEqual(files);
      }),
    );
    const line = (i: number): string => `${SHA}  d${i % 100}/f${i}\n`;
    const text = Array.from({ length: 200_000 }, (_, i) => line(i)).join('');
    expect(parseChecksumList(text, 'x').files).toHaveLength(200_000);
  });

  it.each(['gnu', 'bsd'] as const)('that is written in the form %s is accepted by sha256sum', (form) => {
    const folder = mkdtempSync(join(tmpdir(), 'regressum-list-'));
    try {
      const texts = { 'a b/c': 'one', ü: 'two', '*star': 'three' };
      for (const [path, text] of Object.entries(texts)) {
        mkdirSync(dirname(join(folder, path)), { recursive: true });
        writeFileSync(join(folder, path), text);
      }
      const files = Object.entries(texts).map(([path, text]) => ({ path, digest: digest(text) }));
      const list = writeChecksumList({ kind: 'sha-256', files }, { form, remarks: ['not in it: a'] });
      writeFileSync(join(folder, 'list'), list);
      const { status, stdout } = spawnSync('sha256sum', ['-c', '--strict', 'list'], { cwd: folder, encoding: 'utf8' });
      expect([status, stdout.match(/: OK/g)?.length]).toEqual([0, 3]);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});

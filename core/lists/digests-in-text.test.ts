import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { digest } from '../testing/digest';
import { digestsInText } from './index';

const SHA = digest('program');
const [SHA1, MD5] = [SHA.slice(0, 40), SHA.slice(0, 32)];

describe('checksums in a log', () => {
  it.each([
    [`unknown program "bin/ferrywake.prog": ${SHA}`, 'sha-256', SHA, 'bin/ferrywake.prog'],
    [
      `[23:10] digest=${SHA.toUpperCase()} of C:\\Games\\Ferry\\ferrywake.prog`,
      'sha-256',
      SHA,
      'C:/Games/Ferry/ferrywake.prog',
    ],
    [`towline.lib ${SHA1}`, 'sha-1', SHA1, 'towline.lib'],
    [`(${MD5})`, 'md5', MD5, undefined],
    ['crc32 0badc0de of ./data/a.bin', 'crc-32', '0badc0de', 'data/a.bin'],
  ])('%j', (line, kind, hex, path) => {
    const { digests, mistyped } = digestsInText(`first\r\n${line}\n`);
    expect(digests).toEqual([{ kind, digest: hex, path, line: 2, column: line.toLowerCase().indexOf(hex) + 1 }]);
    expect(mistyped).toEqual([]);
  });

  it('are found wherever they stand, each once', () => {
    const hexArbitrary = fc
      .uint8Array({ minLength: 32, maxLength: 32 })
      .map((bytes) => Buffer.from(bytes).toString('hex'));
    fc.assert(
      fc.property(fc.array(hexArbitrary, { maxLength: 6 }), fc.lorem({ mode: 'sentences' }), (all, prose) => {
        const text = all.map((hex, i) => `${prose} ${i}: ${hex}.\n`).join('');
        const { digests, mistyped } = digestsInText(text + text);
        expect(digests.map(({ digest: hex }) => hex)).toEqual([...new Set(all)]);
        expect(mistyped).toEqual([]);
      }),
    );
  });

  it.each([
    ['a digit too few', SHA.slice(1), 'sha-256'],
    ['a digit too many', `${SHA}0`, 'sha-256'],
    ['a letter for a digit', `${SHA.slice(0, 20)}o${SHA.slice(21)}`, 'sha-256'],
    ['a digit of an MD5 missing', `0${MD5.slice(2)}`, 'md5'],
    ['two digits too many', `${SHA}00`, 'sha-256'],
  ])('with %s is told with its place', (_, word, expected) => {
    const { digests, mistyped } = digestsInText(`ok\n  program: ${word}`);
    expect(digests).toEqual([]);
    expect(mistyped).toEqual([{ found: word, expected, line: 2, column: 12 }]);
  });

  it.each([
    'address 00007ff6a1b2c3d4 in towline.lib',
    'deadbeef is no checksum where nothing says so',
    'an internationalization of counterrevolutionaries',
    `session ${SHA}${SHA}`,
    `digits of no checksum, three too many: ${SHA}000`,
    `digits of no checksum, three too few: ${SHA.slice(3)}`,
    '2026-11-24T23:10:11.123456789Z thread 12345678901234567890',
  ])('%j has none', (line) => {
    expect(digestsInText(line)).toEqual({ digests: [], mistyped: [] });
  });
});

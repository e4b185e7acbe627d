import { describe, expect, it } from 'vitest';
import { RecordLayoutSchema } from '#core/merge';
import { decode, encode } from './encoding';
import { mergeBytes } from './merge-bytes';

const utf8 = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const latin = (text: string): Uint8Array<ArrayBuffer> => Uint8Array.from(text, (sign) => sign.charCodeAt(0));
const utf16 = (text: string): Uint8Array<ArrayBuffer> =>
  Uint8Array.from([
    0xff,
    0xfe,
    ...Array.from(text).flatMap((sign) => [sign.charCodeAt(0) & 255, sign.charCodeAt(0) >> 8]),
  ]);
const marked = (text: string): Uint8Array<ArrayBuffer> => Uint8Array.from([0xef, 0xbb, 0xbf, ...utf8(text)]);

const merged = (
  base: Uint8Array<ArrayBuffer>,
  ours: Uint8Array<ArrayBuffer>,
  theirs: Uint8Array<ArrayBuffer>,
  path = 'a.csv',
): Uint8Array<ArrayBuffer> | undefined => mergeBytes([base, ours, theirs], { path }, () => undefined)?.merged;

describe('a text', () => {
  it.each([
    ['UTF-8', utf8('fähre, €')],
    ['UTF-8 with a mark', marked('fähre')],
    ['UTF-16 with a mark', utf16('fähre\n')],
    ['UTF-16, the other way round', Uint8Array.from([0xfe, 0xff, 0, 0x66, 0, 0xe4])],
    ['what is no UTF-8', latin('f\xe4hre')],
    ['every byte but that of no text', Uint8Array.from({ length: 255 }, (_, i) => i + 1)],
    ['nothing', new Uint8Array(0)],
  ])('in %s is written as it was read', (_, bytes) => {
    const decoded = decode(bytes)!;
    expect(encode(decoded.text, decoded)).toEqual(bytes);
  });

  it.each([
    ['a byte that no text has', Uint8Array.from([0x61, 0, 0x62])],
    ['half a sign of UTF-16', Uint8Array.from([0xff, 0xfe, 0x61])],
  ])('is none with %s', (_, bytes) => expect(decode(bytes)).toBeUndefined());

  it('stays in the encoding of the mod, whatever the game’s is, with its mark', () => {
    const base = 'id,name,fare\na,Fähre,1\nb,Boot,2\n';
    const ours = base.replace('Boot,2', 'Boot,9');
    const theirs = base.replace('Fähre,1', 'Fähre,5');
    const wanted = 'id,name,fare\na,Fähre,5\nb,Boot,9\n';
    expect(merged(utf8(base), latin(ours), utf8(theirs))).toEqual(latin(wanted));
    expect(merged(utf8(base), marked(ours), latin(theirs))).toEqual(marked(wanted));
    expect(merged(latin(base), utf16(ours), utf8(theirs))).toEqual(utf16(wanted));
  });

  it('is refused by name where its encoding has not what the game has written since', () => {
    const base = 'id,name,fare\na,F\xe4hre,1\nb,Boot,2\n';
    const theirs = base.replace('Boot,2', 'Łódź,2');
    expect(() => merged(utf8(base), latin(base.replace('hre,1', 'hre,9')), utf8(theirs))).toThrow(
      expect.objectContaining({ code: 'merge/encoding', facts: { path: 'a.csv', encoding: 'windows-1252' } }),
    );
  });
});

it('bytes that nothing explains are never guessed', () => {
  const binary = Uint8Array.from([1, 0, 2, 3]);
  expect(
    mergeBytes([binary, Uint8Array.from([1, 0, 9, 3]), Uint8Array.from([1, 0, 2, 4])], { path: 'a.csv' }, () => 'ours'),
  ).toBeUndefined();
});

it('a table of records is merged by its layout, bytes of every value kept', () => {
  const layout = RecordLayoutSchema.parse({
    ...{ record: 4, key: ['id'] },
    fields: [
      { name: 'id', at: 0, as: 'u8' },
      { name: 'fare', at: 2, as: 'i16' },
    ],
  });
  const rows = (...all: readonly (readonly [number, number, number])[]): Uint8Array<ArrayBuffer> =>
    Uint8Array.from(all.flatMap(([id, gap, fare]) => [id, gap, fare & 255, (fare >> 8) & 255]));
  const merge = mergeBytes(
    [rows([1, 200, -5], [2, 0, 7]), rows([1, 200, -6], [2, 0, 7]), rows([1, 200, -5], [2, 255, 300])],
    { path: 'fares.tbl', layout },
    () => undefined,
  )!;
  expect(merge.merged).toEqual(rows([1, 200, -6], [2, 255, 300]));
  expect(merge.differences.map(({ path, ours, theirs }) => [path.join(' '), ours, theirs])).toEqual([
    ['1 fare', '-6', '-5'],
    ['2 bytes 1 to 1', '', '\xff'],
    ['2 fare', '7', '300'],
  ]);
});

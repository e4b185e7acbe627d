import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { type ContentKey, contentKey, keySize, PIECE_SIZE, pieceBytes, pieceCount } from '#core/digest';
import { manifestFromFiles } from '#core/manifest';
import { digest } from '../testing/digest';
import {
  type BundleIndex,
  BundleIndexSchema,
  chooseFrames,
  type Costs,
  type Frame,
  framesOf,
  layoutFrames,
  MOST_PREFIX,
  MOST_UNPACKED,
  REQUEST_BYTES,
  unpackedSize,
} from '.';

/** A file of made-up bytes: of the same word and size the same. */
function file(path: string, size: number, word = path) {
  const pieces = Array.from({ length: pieceCount(size) }, (_, i) => digest(`${word} ${size} ${i}`));
  return {
    path,
    size,
    pieces,
    sha256: pieces.length === 1 ? pieces[0]! : digest(`${word} ${size}`),
    key: contentKey(size, pieces),
  };
}
const manifestOf = (files: readonly ReturnType<typeof file>[]) =>
  manifestFromFiles(asBuild('1.0'), asDepot('core'), files);
const indexOf = (frames: BundleIndex['frames']): BundleIndex =>
  BundleIndexSchema.parse({
    ...{ format: 'regressum-bundle', version: 1, build: '1.0', depot: 'core', manifest: digest('m'), frames },
  });

const filesArbitrary = fc
  .uniqueArray(fc.stringMatching(/^([ab]\/)?[a-d]\.(bin|txt)$/), { maxLength: 10 })
  .chain((paths) =>
    fc
      .array(fc.tuple(fc.integer({ min: 0, max: 40 }), fc.constantFrom('x', 'y', 'z')), {
        minLength: paths.length,
        maxLength: paths.length,
      })
      .map((more) => paths.toSorted().map((path, i) => file(path, more[i]![0] * 700_001, more[i]![1]))),
  );

describe('what goes into which frame', () => {
  it('is every content that is new, each byte once, in frames that a reader takes', () => {
    fc.assert(
      fc.property(filesArbitrary, fc.option(filesArbitrary, { nil: undefined }), (files, base) => {
        const laid = layoutFrames(files, base);
        const index = indexOf(laid.map((frame) => ({ length: 10, ...frame })));
        const frames = framesOf(index, manifestOf(files), base && manifestOf(base));
        const had = new Set(base?.map(({ key }) => key));
        const wanted = new Map(
          files.filter(({ key, size }) => size > 0 && !had.has(key)).map(({ key, size }) => [key, size]),
        );
        const covered = new Map<ContentKey, number>();
        for (const { key, start, end } of frames.flatMap(({ parts }) => parts)) {
          // Parts of a content come in its order.
          expect(covered.get(key) ?? 0).toBe(start);
          covered.set(key, end);
        }
        expect(covered).toEqual(wanted);
        for (const { size, prefix } of frames) {
          expect(size).toBeLessThanOrEqual(MOST_UNPACKED);
          expect(prefix.reduce((sum, { start, end }) => sum + end - start, 0)).toBeLessThanOrEqual(MOST_PREFIX);
          expect(prefix.every(({ key }) => had.has(key))).toBe(true);
        }
      }),
    );
  });

  it('begins with what a file was, at its path or where it was moved from', () => {
    const [before, after] = ['old', 'new'].map((word) => [
      file('maps/north.bin', 300_000, `${word} north`),
      file(`${word}/south.bin`, 300_000, `${word} south`),
    ]) as [ReturnType<typeof file>[], ReturnType<typeof file>[]];
    const [frame] = layoutFrames(after, before);
    expect(frame).toEqual({ parts: [0, 1], prefix: [0, 1] });
  });

  it('begins with the one of several of a name that shares most folders with it', () => {
    const was = ['a/one/x.bin', 'b/two/x.bin', 'c/two/x.bin'].map((path) => file(path, 1000, path));
    const [frame] = layoutFrames([file('new/b/two/x.bin', 1000, 'is')], was);
    expect(frame).toEqual({ parts: [0], prefix: [1] });
  });

  it('of a large file begins with the stretch that it lay in, as far as that has shifted', () => {
    const [was, is] = [file('big.pak', 30 << 20, 'was'), file('big.pak', (30 << 20) + 100_000, 'is')];
    const frames = framesOf(
      indexOf(layoutFrames([is], [was]).map((frame) => ({ length: 10, ...frame }))),
      manifestOf([is]),
      manifestOf([was]),
    );
    for (const { parts, prefix } of frames) {
      const [{ start, end }] = parts as [Frame['parts'][number]];
      const [part] = prefix as [Frame['prefix'][number]];
      expect(part.start).toBeLessThanOrEqual(Math.max(0, start - 100_000));
      expect(part.end).toBeGreaterThanOrEqual(Math.min(was.size, end - 100_000));
    }
  });
});

describe('an index', () => {
  const [small, large] = [file('a', 1000), file('b', 20 << 20)];
  const manifest = manifestOf([small, large]);

  it.each([
    ['a file that is not there', { length: 1, parts: [2] }, 'has a file 2, of 2'],
    ['bytes behind the end of a file', { length: 1, parts: [[0, 0, 1001]] }, 'has bytes 0 to 1001 of a file of 1000'],
    ['no bytes', { length: 1, parts: [[0, 5, 5]] }, 'has bytes 5 to 5 of a file of 1000'],
    ['half a piece', { length: 1, parts: [[1, 0, 5]] }, 'has bytes 0 to 5 of a file of 20971520'],
    ['more than fits', { length: 1, parts: [1] }, 'unpacks to 20971520 bytes'],
    ['a prefix of no build', { length: 1, parts: [0], prefix: [0] }, 'has a prefix of no build'],
  ])('that says %s is refused', (_, frame, problem) =>
    expect(() => framesOf(indexOf([{ length: 1, parts: [0] }, frame as never]), manifest, undefined)).toThrow(
      expect.objectContaining({
        code: 'bundle/does-not-fit',
        facts: { build: '1.0', depot: 'core', frame: 1, problem },
      }),
    ),
  );

  it('with a prefix that is too long is refused', () =>
    expect(() => framesOf(indexOf([{ length: 1, parts: [0], prefix: [1] }]), manifest, manifest)).toThrow(
      expect.objectContaining({ code: 'bundle/does-not-fit' }),
    ));

  it.each([
    { length: 2 ** 30, parts: [0] },
    { length: 1, parts: [] },
    { length: 0, parts: [0] },
    { length: 1, parts: [-1] },
  ])('of frames that cannot be is none: %j', (frame) => expect(() => indexOf([frame])).toThrow());
});

describe('the frames that are asked for', () => {
  const contents = Array.from({ length: 6 }, (_, i) => file(`f${i}`, 100_000 * (i + 1)));
  const frame = (at: number, length: number, of: readonly number[], prefix: readonly number[] = []): Frame => {
    const parts = (some: readonly number[]) =>
      some.map((i) => ({ key: contents[i]!.key, start: 0, end: contents[i]!.size, path: `f${i}` }));
    return {
      at,
      length,
      size: of.reduce((sum, i) => sum + contents[i]!.size, 0),
      parts: parts(of),
      prefix: parts(prefix),
    };
  };
  const missing = (...some: readonly number[]) => new Map(some.map((i) => [contents[i]!.key, [0]]));
  const costs = (prefix: number): Costs<Frame> => ({
    ...{ prefix: () => prefix, piece: (key, piece) => pieceBytes(keySize(key), piece) },
  });
  const framesIn = (chosen: ReturnType<typeof chooseFrames>): Frame[] => chosen.map(({ frame }) => frame);

  it('bring most for their bytes, those of what they begin with included', () => {
    const [whole, delta] = [frame(0, 500_000, [0, 1, 2, 3]), frame(500_000, 20_000, [2, 3], [5])];
    expect(framesIn(chooseFrames(missing(2, 3), [whole, delta], costs(0)))).toEqual([delta]);
    expect(framesIn(chooseFrames(missing(2, 3), [whole, delta], costs(Infinity)))).toEqual([whole]);
    // What is missing of a prefix is asked for too, as long as it is worth it.
    expect(framesIn(chooseFrames(missing(2, 3), [whole, delta], costs(400_000)))).toEqual([delta]);
    expect(framesIn(chooseFrames(missing(2, 3), [whole, delta], costs(500_000)))).toEqual([whole]);
    // A frame of which little is wanted costs more than that by itself.
    expect(chooseFrames(missing(0), [whole], costs(0))).toEqual([]);
    // A frame costs its request, as each file by itself does.
    expect(chooseFrames(missing(0), [frame(0, 99_999, [0])], costs(0))).toHaveLength(1);
    expect(chooseFrames(missing(0), [frame(0, 100_000, [0])], costs(0))).toEqual([]);
  });

  it('never cost more than everything by itself, and bring nothing twice', () => {
    const framesArbitrary = fc.array(
      fc
        .tuple(fc.integer({ min: 1, max: 900_000 }), fc.uniqueArray(fc.nat(5), { minLength: 1 }))
        .map(([length, of]) => frame(0, length, of)),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(5)), framesArbitrary, (wanted, frames) => {
        const chosen = chooseFrames(missing(...wanted), frames, costs(0));
        // Each piece comes by one frame at most, and those that are wanted alone.
        const brought = chosen.flatMap(({ pieces }) => pieces.map(([key]) => key));
        expect(new Set(brought).size).toBe(brought.length);
        const left = new Set(missing(...wanted).keys());
        for (const key of brought) expect(left.delete(key)).toBe(true);
        const plainCost = (keys: Iterable<ContentKey>): number =>
          [...keys].reduce((sum, key) => sum + keySize(key) + REQUEST_BYTES, 0);
        const cost = chosen.reduce((sum, { frame: { length } }) => sum + length + REQUEST_BYTES, plainCost(left));
        expect(cost).toBeLessThanOrEqual(plainCost(missing(...wanted).keys()));
      }),
    );
  });

  it('are for pieces of a large file as well', () => {
    const large = file('large', 3 * PIECE_SIZE);
    const part = (from: number, to: number): Frame => ({
      ...{ at: 0, length: 1000, size: (to - from) * PIECE_SIZE, prefix: [] },
      parts: [{ key: large.key, start: from * PIECE_SIZE, end: to * PIECE_SIZE }],
    });
    const [head, tail] = [part(0, 2), part(2, 3)];
    expect(framesIn(chooseFrames(new Map([[large.key, [2]]]), [head, tail], costs(0)))).toEqual([tail]);
    expect(chooseFrames(new Map([[large.key, [1, 2]]]), [head], costs(0))).toEqual([
      { frame: head, pieces: [[large.key, 1]] },
    ]);
  });
});

describe('the size that a frame says', () => {
  const head = (...bytes: number[]): Uint8Array => Uint8Array.from([0x28, 0xb5, 0x2f, 0xfd, ...bytes]);

  it.each([
    [head(0x20, 9), 9],
    [head(0x60, 1, 0), 257],
    [head(0xa0, 0, 0, 0, 1), 2 ** 24],
    [head(0x80, 0x58, 0, 0, 0, 1), 2 ** 24],
    [head(0xe0, 0, 0, 0, 0, 1, 0, 0, 0), 2 ** 32],
    [head(0x23, 1, 2, 3, 4, 7), 7],
    [head(0xe0, 255, 255, 255, 255, 255, 255, 255, 255), undefined],
    [head(0x00, 0x58), undefined],
    [head(0xa0, 0, 0), undefined],
    [head(), undefined],
    [Uint8Array.from([1, 2, 3, 4, 0x20, 9]), undefined],
  ])('%j', (bytes, size) => expect(unpackedSize(bytes)).toBe(size));
});

import { describe, expect, it } from 'vitest';
import { restoringReceiver, strippingSender } from './shared';

describe('what is large and seldom new', () => {
  const catalogue = { mods: ['one'] };
  const newer = { mods: ['two'] };

  it('crosses once, and is one object for all answers until it is new', () => {
    const [strip, restore] = [strippingSender(), restoringReceiver()];
    const sent = [catalogue, catalogue, newer, newer, catalogue].map((each, at) => strip({ catalogue: each, at }));
    const got = sent.map((each) => restore(structuredClone(each)) as { catalogue: object; at: number });
    expect(sent.map(({ asBefore }) => asBefore)).toEqual([[], ['catalogue'], [], ['catalogue'], []]);
    expect(got).toEqual([catalogue, catalogue, newer, newer, catalogue].map((each, at) => ({ catalogue: each, at })));
    expect(got[1]!.catalogue).toBe(got[0]!.catalogue);
    expect(got[2]!.catalogue).not.toBe(got[1]!.catalogue);
  });

  it.each([[undefined], ['text'], [[1, 2]], [new Map([['a', 1]])], [new Uint8Array(2)], [{ index: undefined }]])(
    'leaves other answers as they are: %o',
    (value) => {
      const [strip, restore] = [strippingSender(), restoringReceiver()];
      expect(restore(structuredClone(strip(value)))).toEqual(value);
    },
  );
});

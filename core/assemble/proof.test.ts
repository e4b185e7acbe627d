import fc from 'fast-check';
import { expect, it } from 'vitest';
import { asDepot, asMod } from '#core/builds';
import { type ContentKey, contentKey } from '#core/digest';
import type { Owner, TargetFile } from '#core/fetch';
import { digest, sha256 } from '../testing/digest';
import { proofOf } from './index';

const OWNERS: readonly Owner[] = [
  { kind: 'depot', depot: asDepot('core') },
  { kind: 'mod', mod: asMod('lamp'), release: '1' },
  { kind: 'written', text: 'x' },
];
const keyOf = (text: string, size: number): ContentKey => contentKey(size, [digest(text)]);
const targetArbitrary = fc
  .uniqueArray(fc.record({ name: fc.nat(20), size: fc.nat(900), owner: fc.constantFrom(...OWNERS) }), {
    selector: ({ name }) => name,
  })
  .map((files) =>
    files.map(({ name, size, owner }): TargetFile => ({
      ...{ path: `f${name}`, size, owner, sha256: digest(`f${name}`), pieces: [], href: '' },
      key: keyOf(`f${name}`, size),
    })),
  );

it('the parts are the whole, and the digests agree only where every byte is right', async () => {
  await fc.assert(
    fc.asyncProperty(targetArbitrary, fc.array(fc.nat(20)), fc.array(fc.nat(20)), async (target, gone, other) => {
      const found = new Map(target.map(({ path, key }) => [path, key]));
      for (const name of gone) found.delete(`f${name}`);
      for (const name of other) if (found.has(`f${name}`)) found.set(`f${name}`, keyOf('other', 3));
      // What is no part of the target does not count.
      found.set('stray', keyOf('stray', 1));
      const proof = await proofOf(target, found, sha256);
      const right = target.filter(({ path, key }) => found.get(path) === key);
      expect(proof.expected.files).toBe(target.length);
      expect(proof.right).toEqual({
        files: right.length,
        bytes: right.reduce((sum, { size }) => sum + size, 0),
      });
      expect(proof.parts.reduce((sum, part) => sum + part.expected.bytes, 0)).toBe(proof.expected.bytes);
      expect(proof.wrong.length).toBe(target.length - right.length);
      expect(proof.foundDigest === proof.expectedDigest).toBe(proof.wrong.length === 0);
    }),
  );
});

it('copies that others cover are told of their owner, and expected nowhere', async () => {
  const [core, mod] = OWNERS as [Owner, Owner];
  const copy = { path: 'a', size: 1, key: keyOf('a', 1), sha256: digest('a'), pieces: [], href: '', owner: core };
  const file: TargetFile = { ...copy, key: keyOf('m', 1), owner: mod, covers: [copy] };
  const { parts } = await proofOf([file], new Map([['a', keyOf('m', 1)]]), sha256);
  expect(parts.map(({ owner, expected, covered }) => [owner.kind, expected.files, covered])).toEqual([
    ['mod', 1, 0],
    ['depot', 0, 1],
  ]);
});

it('says how many settings of mods count as they lie there', async () => {
  const [, mod] = OWNERS as [Owner, Owner];
  const files = ['a', 'b'].map((path): TargetFile => ({
    ...{ path, size: 1, key: keyOf(path, 1), sha256: digest(path), href: '', owner: mod },
    ...(path === 'b' && { asFound: true }),
  }));
  const found = new Map(files.map(({ path, key }) => [path, key]));
  expect(await proofOf(files, found, sha256)).toMatchObject({ asFound: 1, wrong: [] });
});

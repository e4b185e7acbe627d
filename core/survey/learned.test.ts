import { describe, expect, it } from 'vitest';
import { contentKey } from '#core/digest';
import { digest, keyOf } from '../testing/digest';
import { compareTree, type LearnedBuild, learnedContents, learnedFits, learnedTree, listedKey } from './index';

const LARGE = contentKey(2 ** 21, [digest('1'), digest('2')]);
const sha256Of = (key: string): string | undefined => (key === LARGE ? digest('large') : undefined);
const record = (id: string, at: number, files: Record<string, LearnedBuild['keys'][number]>): LearnedBuild => ({
  ...{ id, label: `label of ${id}`, at, from: { kind: 'folder', name: 'disc' } },
  paths: Object.keys(files),
  keys: Object.values(files),
});
const found = [
  { path: 'prog', size: 1, key: keyOf('p') },
  { path: 'large', size: 2 ** 21, key: LARGE },
  { path: 'other', size: 1, key: keyOf('o') },
];

describe('a build that a person recorded', () => {
  it('is known by the contents of its files, or by their checksums alone', () => {
    const byFolder = record('folder', 1, { prog: keyOf('p') });
    const byLog = record('log', 2, { prog: listedKey(digest('p')), large: listedKey(digest('large')) });
    const of = learnedContents([byLog, byFolder], sha256Of);
    expect(of('prog', keyOf('p'))?.id).toBe('folder');
    expect(of('large', LARGE)?.id).toBe('log');
    expect(of('large', keyOf('p'))).toBeUndefined();
    expect(of('elsewhere', keyOf('p'))).toBeUndefined();
  });

  it('fits a folder by the share of its files, the larger and the later first', () => {
    const fits = learnedFits(
      [
        record('half', 9, { prog: keyOf('p'), large: keyOf('no') }),
        record('small', 9, { prog: listedKey(digest('p')) }),
        record('whole, earlier', 1, { prog: keyOf('p'), large: LARGE }),
        record('whole', 2, { prog: keyOf('p'), large: LARGE }),
        record('none', 9, { prog: keyOf('no') }),
      ],
      found,
      sha256Of,
    );
    expect(fits.map(({ record: { id }, found: files, total }) => [id, files, total])).toEqual([
      ['whole', 2, 2],
      ['whole, earlier', 2, 2],
      ['small', 1, 1],
      ['half', 1, 2],
    ]);
  });

  it('is a tree like any other to hold a folder against', () => {
    const tree = learnedTree(record('r', 1, Object.fromEntries(found.map(({ path, key }) => [path, key]))));
    expect(compareTree(tree, found).every(({ state }) => state === 'true')).toBe(true);
    expect(learnedTree(record('r', 1, { a: listedKey(digest('a')) }))).toMatchObject([{ path: 'a', size: 0 }]);
  });
});

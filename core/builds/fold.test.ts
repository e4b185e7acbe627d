import fc from 'fast-check';
import { expect, it } from 'vitest';
import { asBuild } from './schema';
import { foldBuilds } from './fold';

const builds = ['1', '2', '3', '4', '5', '6'].map(asBuild);

it('folds neighbours that nothing speaks of, but not a single one', () => {
  expect(foldBuilds(builds, new Set([asBuild('2'), asBuild('5')]))).toEqual([['1'], ['2'], ['3', '4'], ['5'], ['6']]);
  expect(foldBuilds(builds, new Set())).toEqual([builds]);
});

it('keeps each build once and in order, and what is spoken of by itself', () => {
  fc.assert(
    fc.property(fc.subarray(builds), (spokenOf) => {
      const columns = foldBuilds(builds, new Set(spokenOf));
      expect(columns.flat()).toEqual(builds);
      for (const build of spokenOf) expect(columns).toContainEqual([build]);
    }),
  );
});

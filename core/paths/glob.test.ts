import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitsGlob, isGlob, PathOrGlobSchema } from '.';
import { cases } from '../testing/cases';

describe('a pattern of paths', () => {
  it.each<[string, string, boolean]>([
    ['saves/*.sav', 'saves/one.sav', true],
    ['saves/*.sav', 'saves/deep/one.sav', false],
    ['saves/**/*.sav', 'saves/deep/er/one.sav', true],
    ['saves/**/*.sav', 'saves/one.sav', true],
    ['**/*.sav', 'one.sav', true],
    ['**/user.cfg', 'a/b/user.cfg', true],
    ['player?', 'player1/face.png', true],
    ['player?', 'player12', false],
    ['*/profile', 'a/profile/x/y', true],
    ['*/profile', 'profile/x', false],
    ['a*b*c', 'aXbYc', true],
    ['a*b*c', 'acb', false],
    ['*.ini', 'data/x.ini', false],
  ])('%s, %s: %s', (glob, path, fits) => expect(fitsGlob(path, glob)).toBe(fits));

  it('is as what it says in regular expressions', () => {
    const part = fc.stringMatching(/^[ab*?]{1,4}$/).filter((text) => !text.includes('**'));
    const glob = fc.array(fc.oneof(part, fc.constant('**')), { minLength: 1, maxLength: 4 });
    const path = fc.array(fc.stringMatching(/^[ab]{1,4}$/), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(glob, path, (parts, names) => {
        const source = parts
          .map((one) => (one === '**' ? '(?:[^/]+/)*' : `${one.replaceAll('*', '[^/]*').replaceAll('?', '[^/]')}/`))
          .join('');
        const expected = new RegExp(`^${source}(?:[^/]+/)*$`).test(`${names.join('/')}/`);
        expect(fitsGlob(names.join('/'), parts.join('/')), parts.join('/')).toBe(expected);
      }),
      { numRuns: cases(700) },
    );
  });

  it('takes no time by its stars', () => {
    const glob = `${'*a'.repeat(100)}b`;
    expect(fitsGlob('a'.repeat(200), glob)).toBe(false);
    expect(fitsGlob(Array(100).fill('a').join('/'), `${'**/a/'.repeat(40)}b`)).toBe(false);
  });

  it.each(['*', '**', '**/*', '?', '../*', '/x/*', 'C:*', 'a//*', 'x/../*.sav', ''])('is not %s', (text) =>
    expect(PathOrGlobSchema.safeParse(text).success).toBe(false),
  );

  it('is told from a path', () => {
    expect(PathOrGlobSchema.safeParse('saves').success && !isGlob('saves')).toBe(true);
    expect(PathOrGlobSchema.safeParse('saves/**/*.sav').success && isGlob('saves/*.sav')).toBe(true);
  });
});

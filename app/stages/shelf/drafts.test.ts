import { describe, expect, it } from 'vitest';
import type { DraftPlaces } from '~/queries';
import { type DraftChoice, firstChoice, openQuestion, type PartChoice, possibleStarts } from './drafts';

const PLACES: DraftPlaces = { places: [], clashes: [], game: [], mods: [] };
const part = (more: Partial<PartChoice> = {}): PartChoice => ({
  ...{ from: 'a', to: 'mods/a', paths: ['a/b'], why: 'mark', isTaken: true },
  ...more,
});
const draft = (more: Partial<DraftChoice> = {}): DraftChoice => ({
  ...{
    archive: 0,
    name: 'Mist',
    version: '1',
    mod: undefined,
    newer: undefined,
    builds: [],
    source: '',
    parts: [part()],
  },
  ...more,
});

describe('what is to be settled of a release', () => {
  it.each<[string | undefined, DraftChoice, DraftPlaces | undefined]>([
    [undefined, draft(), PLACES],
    [undefined, draft({ version: '', parts: [part({ isTaken: false })] }), undefined],
    ['Give the mod a name.', draft({ name: ' ' }), PLACES],
    ['Give Mist a release number.', draft({ version: '' }), PLACES],
    ['Say where the files of Mist go.', draft({ parts: [part({ to: undefined })] }), PLACES],
    ['"../x" is no folder below the game’s.', draft({ parts: [part({ to: '../x' })] }), PLACES],
    ['Working out where the files go…', draft(), undefined],
    ['Several parts of Mist have a file at x: take one of them.', draft(), { ...PLACES, clashes: ['x'] }],
  ])('%s', (question, of, places) => expect(openQuestion(of, places)).toBe(question));

  it('is nothing of what goes into the game’s own folder', () => {
    expect(openQuestion(draft({ parts: [part({ to: '' })] }), PLACES)).toBeUndefined();
  });

  it('begins with what is sure, for the build that the person is at', () => {
    const parts = [true, false].map((isSure) => ({ ...part(), isSure }));
    const first = firstChoice(
      { archive: 0, name: 'Mist', version: '', mod: undefined, newer: undefined, parts },
      '2.0' as never,
    );
    expect([first.builds, first.parts.map(({ isTaken }) => isTaken)]).toEqual([['2.0'], [true, false]]);
  });
});

it('a part may begin at each folder that has all of its files', () => {
  expect(possibleStarts(['a/b/c/x', 'a/b/d/y'])).toEqual(['', 'a', 'a/b']);
  expect(possibleStarts(['x', 'a/y'])).toEqual(['']);
});

import { expect, it } from 'vitest';
import { asMod } from '#core/builds';
import { filtered, SHELF_FILTERS, type Shelved } from './filters';

const release = (version: string, some: Partial<Shelved> = {}): Shelved => ({
  ...{ reference: version, mod: asMod('fig'), name: 'Fig', version, at: 0, files: 1, bytes: 1, missing: 0 },
  ...{ from: 'fig.zip', unofficial: undefined, note: undefined, words: '', ran: [], failed: [], paths: [] },
  ...{ isOffered: true, isFrozen: false, isBenched: false, inFolder: false, isWanted: false },
  ...some,
});

it('what can go is in no use, has no word of the person’s, and is to be had again', () => {
  const kept = [
    release('in', { inFolder: true }),
    release('wanted', { isWanted: true }),
    release('frozen', { isFrozen: true }),
    release('benched', { isBenched: true }),
    release('noted', { words: 'mine' }),
    release('alone', { isOffered: false }),
    release('post', { isOffered: false, unofficial: 'a post' }),
  ];
  const all = [...kept, release('gone'), release('ran', { ran: ['1.0' as never] })];
  const versions = (filter: (typeof SHELF_FILTERS)[number], words = ''): string[] =>
    filtered(all, filter, words).map(({ version }) => version);
  expect(versions('can-go')).toEqual(['gone', 'ran']);
  expect(versions('alone')).toEqual(['alone', 'post']);
  expect(versions('unofficial')).toEqual(['post']);
  expect(versions('ran')).toEqual(['ran']);
  expect(versions('noted')).toEqual(['noted']);
  expect(versions('frozen')).toEqual(['frozen']);
  expect(versions('here')).toEqual(['in']);
  expect(versions('all', ' A POST ')).toEqual(['post']);
  expect(versions('all', 'mine')).toEqual(['noted']);
});

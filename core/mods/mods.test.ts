import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asMod } from '#core/builds';
import { digest, keyOf } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import {
  inRange,
  knownReleases,
  modById,
  presetOwners,
  rangeWords,
  recogniseMods,
  releaseAt,
  releaseOrder,
} from './index';

const need = (from?: string, to?: string) => ({ mod: asMod('tow'), from, to });

describe('a range of releases', () => {
  const versions = ['1.9', '1.10', '1.10a', '2.0-t1', '2.0'];
  const tow = catalogueOf({ tow: versions.map((version) => ({ version })) }).mods[0]!;

  it('goes by the order of the catalogue, whatever the versions are called', () => {
    fc.assert(
      fc.property(fc.nat(4), fc.nat(4), fc.nat(4), (i, from, to) => {
        const inside = inRange(tow, versions[i]!, need(versions[from], versions[to]));
        expect(inside).toBe(from <= i && i <= to);
      }),
    );
  });

  it('is open where an end is left out', () => {
    expect(versions.filter((v) => inRange(tow, v, need('2.0-t1')))).toEqual(['2.0-t1', '2.0']);
    expect(versions.filter((v) => inRange(tow, v, need(undefined, '1.10')))).toEqual(['1.9', '1.10']);
    expect(versions.every((v) => inRange(tow, v, need()))).toBe(true);
  });

  it('places an end that the catalogue has no longer by its spelling', () => {
    const inside = (from?: string, to?: string) => versions.filter((v) => inRange(tow, v, need(from, to)));
    expect(inside('1.8')).toEqual(versions);
    expect(inside('1.9.5')).toEqual(versions.filter((v) => v !== '1.9'));
    expect(inside(undefined, '1.9.5')).toEqual(['1.9']);
    expect(inside('9')).toEqual([]);
    expect(inRange(tow, '3', need())).toBe(false);
  });

  it.each([
    [need('1', '2'), '1 to 2'],
    [need('1', '1'), '1'],
    [need('1'), '1 or newer'],
    [need(undefined, '2'), 'up to 2'],
    [need(), 'any release'],
  ])('is put in words', (range, words) => {
    expect(rangeWords(range)).toBe(words);
  });

  it('releases that are there no longer are told from the others', () => {
    const catalogue = catalogueOf({ tow: [{ version: '1' }] });
    const asked = [
      ['tow', '1'],
      ['tow', '2'],
      ['gone', '1'],
    ].map(([id, version]) => [asMod(id!), version!] as const);
    expect([...knownReleases(catalogue, asked.slice(0, 1))]).toEqual([['tow', '1']]);
    expect([...knownReleases(catalogue, asked.slice(1))]).toEqual([]);
  });

  it('releases are found by version', () => {
    expect(releaseAt(tow, '2.0')?.version).toBe('2.0');
    expect(releaseAt(tow, '9')).toBeUndefined();
    expect(releaseOrder(tow, '1.10a')).toBe(2);
  });
});

describe('mods on disk', () => {
  const file = (path: string, text: string) => ({ path, size: text.length, sha256: digest(text), href: '' });
  const catalogue = catalogueOf({
    bell: [
      { version: '1.0', files: [file('mods/bell.a', 'a1'), file('mods/bell.b', 'b1')] },
      { version: '1.1', files: [file('mods/bell.a', 'a2'), file('mods/bell.b', 'b1')] },
    ],
    same: [
      { version: '1', files: [file('mods/same', 's')] },
      { version: '2', files: [file('mods/same', 's')] },
    ],
    gone: [{ version: '1', files: [file('mods/gone', 'g')] }],
  });
  const recognise = (...files: [string, string][]) =>
    recogniseMods(
      files.map(([path, text]) => ({ path, key: keyOf(text) })),
      catalogue,
    );

  it('are known by their bytes, wherever they lie', () => {
    const [bell] = recognise(['elsewhere/x', 'a2'], ['mods/bell.b', 'b1']);
    expect(bell).toMatchObject({ mod: 'bell', release: '1.1', found: 2, total: 2, alsoHere: [] });
    expect(bell!.files).toEqual([
      { path: 'elsewhere/x', place: 'mods/bell.a' },
      { path: 'mods/bell.b', place: 'mods/bell.b' },
    ]);
  });

  it('of one release beside files of another say so', () => {
    const [bell] = recognise(['mods/bell.a', 'a2'], ['mods/bell.b', 'b1'], ['mods/old.a', 'a1']);
    expect(bell).toMatchObject({ release: '1.1', alsoHere: ['1.0'] });
  });

  it('are the newer release where two fit equally well, and none where no file lies', () => {
    expect(recognise(['mods/same', 's'])).toMatchObject([{ mod: 'same', release: '2' }]);
    expect(recognise(['mods/gone', 'other bytes'])).toEqual([]);
  });

  it('are not told by what a person has set of them, which stays when they go', () => {
    const files = (...texts: [string, string][]) => texts.map(([path, text]) => ({ path, key: keyOf(text) }));
    const isPreset = (path: string): boolean => path === 'mods/bell.b';
    expect(recogniseMods(files(['mods/bell.b', 'b1']), catalogue, isPreset)).toEqual([]);
    // Not even where it lies as another release has it elsewhere.
    expect(recogniseMods(files(['mods/bell.b', 'a1'], ['mods/bell.a', 'a2']), catalogue, isPreset)).toMatchObject([
      { release: '1.1', alsoHere: [] },
    ]);
    const changed = files(['mods/bell.a', 'a2'], ['mods/bell.b', 'as I like it']);
    expect(recogniseMods(changed, catalogue, isPreset)).toMatchObject([{ mod: 'bell', found: 1, total: 1 }]);
  });

  it('own settings that lie where a release has files, or are called as they are', () => {
    const ownerOf = presetOwners(
      catalogueOf({
        'night-sky': [{ version: '1', files: [file('mods/night/a', 'a'), file('mods/shared/n', 'n')] }],
        'wet-stone': [{ version: '1', files: [file('mods/wet/set.ini', 'w'), file('mods/shared/w', 'w')] }],
      }),
    );
    const owners = [
      'mods/wet/set.ini',
      'mods/night/deep/own.cfg',
      'config/Night Sky.json',
      'wet_stone/x',
      'mods/shared/s',
      'x/y',
    ];
    expect(owners.map((path) => ownerOf(path)?.id)).toEqual([
      ...['wet-stone', 'night-sky', 'night-sky', 'wet-stone', undefined, undefined],
    ]);
  });

  it('that the catalogue does not have are not found in it', () => {
    expect(modById(catalogue, 'nobody')).toBeUndefined();
  });
});

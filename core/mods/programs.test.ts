import { expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import { digest } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import { byPrograms, programMisfits } from './index';

const [one, two, three] = ['1', '2', '3'].map(asBuild) as [never, never, never];
const programs = new Map([
  [one, digest('p1')],
  [two, digest('p2')],
]);
const catalogue = catalogueOf({
  towline: [
    { version: '1', builds: [one, two, three], programs: [digest('p1')] },
    { version: '2', builds: [one], brokenOn: [two], programs: [digest('p2')] },
  ],
  lamp: [{ version: '1', builds: [one] }],
});

it('a digest counts more than a label, and a label where no program is known', () => {
  const [towline, lamp] = byPrograms(catalogue, programs).mods;
  expect(towline!.releases.map(({ builds, brokenOn }) => [builds, brokenOn])).toEqual([
    [['1', '3'], ['2']],
    [['2'], ['1']],
  ]);
  expect(lamp).toBe(catalogue.mods[1]);
});

it('a catalogue without such releases, or without known programs, stays the same object', () => {
  const plain = { ...catalogue, mods: [catalogue.mods[1]!] };
  expect(byPrograms(plain, programs)).toBe(plain);
  expect(byPrograms(catalogue, new Map())).toBe(catalogue);
});

it('what does not fit a program is named, whatever the program is', () => {
  const told = byPrograms(catalogue, programs);
  const names = (program: string | undefined) =>
    programMisfits(
      told,
      [
        ['towline', '1'],
        ['lamp', '1'],
      ],
      program,
    );
  expect(names(digest('p1'))).toEqual([]);
  expect(names(digest('p2'))).toEqual([{ name: 'towline', release: '1', builds: ['1', '3'] }]);
  expect(names(undefined)).toHaveLength(1);
});

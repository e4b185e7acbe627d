import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { contentKey } from '#core/digest';
import type { FoundFile } from '#core/survey';
import { digest } from '../testing/digest';

import { type KnownDepot, recogniseDepots } from '.';

const file = (path: string, text: string): FoundFile => ({
  ...{ path, size: text.length, key: contentKey(text.length, [digest(text)]) },
});
const depot = (id: string, build: string, files: Record<string, string>): KnownDepot => ({
  ...{ depot: asDepot(id), build: asBuild(build) },
  files: Object.entries(files).map(([path, text]) => file(path, text)),
});
const put = (folder: string, { files }: KnownDepot): FoundFile[] =>
  files.map((one) => ({ ...one, path: folder === '' ? one.path : `${folder}/${one.path}` }));

const CORE = [
  depot('core', '1.0', { 'bin/run': 'run 1', 'data/a': 'a 1', 'data/b': 'b', LICENCE: 'free' }),
  depot('core', '2.0', { 'bin/run': 'run 2', 'data/a': 'a 2', 'data/b': 'b', LICENCE: 'free' }),
];
const GERMAN = depot('german', '1.0', { 'data/words': 'Wörter', LICENCE: 'free' });
const KNOWN = [CORE[0]!, GERMAN, CORE[1]!];

const summary = (found: readonly FoundFile[], wanted?: string) =>
  recogniseDepots(found, KNOWN, wanted === undefined ? undefined : asBuild(wanted)).map(
    ({ folder, depot: id, build, expected, found: there }) =>
      `${folder}: ${id} ${build} ${there.files}/${expected.files}`,
  );

describe('depots in a folder', () => {
  it('are recognised by what they hold, however deep and whatever the folders are called', () => {
    expect(summary([...put('x/2.0', CORE[0]!), ...put('english', GERMAN)])).toEqual([
      'english: german 1.0 2/2',
      'x/2.0: core 1.0 4/4',
    ]);
    expect(summary(put('', CORE[1]!), '1.0')).toEqual([': core 2.0 4/4']);
  });

  it('lying in one folder are each found, the same file speaking for both', () => {
    const both = new Map([...put('all', CORE[0]!), ...put('all', GERMAN)].map((one) => [one.path, one]));
    expect(summary([...both.values()])).toEqual(['all: core 1.0 4/4', 'all: german 1.0 2/2']);
  });

  it('twice are told twice', () =>
    expect(summary([...put('one', CORE[0]!), ...put('two', CORE[0]!)])).toEqual([
      'one: core 1.0 4/4',
      'two: core 1.0 4/4',
    ]));

  it('in part say what lacks and what is another', () => {
    const [run, a, b] = put('half', CORE[0]!);
    const found = [run!, { ...file('half/data/a', 'somebody’s'), path: 'half/data/a' }, b!];
    expect(a).toBeDefined();
    expect(recogniseDepots(found, KNOWN)).toMatchObject([
      { folder: 'half', build: '1.0', found: { files: 2 }, missing: ['LICENCE'], altered: ['data/a'] },
    ]);
  });

  it('are of the wanted build where they are as much of that as of another', () => {
    const shared = [file('data/b', 'b'), file('LICENCE', 'free')];
    expect(summary(shared, '1.0')[0]).toBe(': core 1.0 2/4');
    expect(summary(shared, '2.0')[0]).toBe(': core 2.0 2/4');
  });

  it('are not made of a file that lies in many folders', () => {
    const many = Object.fromEntries(Array.from({ length: 100 }, (_, i) => [`f${i}`, `text ${i}`]));
    const large = depot('large', '1.0', { ...many, LICENCE: 'free' });
    const found = [...put('core', CORE[0]!), file('notes/LICENCE', 'free')];
    expect(recogniseDepots(found, [CORE[0]!, large]).map(({ folder, depot: id }) => [folder, id])).toEqual([
      ['core', 'core'],
      ['notes', 'core'],
    ]);
    expect(recogniseDepots([file('notes/LICENCE', 'free')], [large])).toEqual([]);
  });

  it('whose files another one covers are whole all the same', () => {
    const base = depot('base', '1.0', { x: 'base x', y: 'base y' });
    const over = depot('over', '1.0', { x: 'over x' });
    const found = [file('all/x', 'over x'), file('all/y', 'base y')];
    expect(
      recogniseDepots(found, [base, over]).map(({ depot: id, missing, altered }) => [id, missing, altered]),
    ).toEqual([
      ['base', [], []],
      ['over', [], []],
    ]);
  });

  it('are told in time by their number, whatever lies in however many folders', () => {
    const many = Object.fromEntries(Array.from({ length: 5000 }, (_, i) => [`f${i}`, i === 0 ? '' : `text ${i}`]));
    const builds = Array.from({ length: 20 }, (_, i) => depot('large', `${i}`, many));
    const empty = Array.from({ length: 20_000 }, (_, i) => file(`folder ${i}/f0`, ''));
    // Compared one by one it would be two thousand million files.
    expect(recogniseDepots(empty, builds)).toEqual([]);
  });

  it('put anywhere, whole, come out whole', () => {
    const folder = fc.array(fc.constantFrom('a', 'data', 'bin', 'LICENCE', 'x y'), { maxLength: 3 });
    fc.assert(
      fc.property(folder, fc.constantFrom(...KNOWN), (parts, one) => {
        const at = parts.join('/');
        const copies = recogniseDepots(put(at, one), KNOWN);
        expect(copies.find((copy) => copy.folder === at && copy.depot === one.depot)).toMatchObject({
          ...{ build: one.build, missing: [], altered: [] },
        });
      }),
    );
  });
});

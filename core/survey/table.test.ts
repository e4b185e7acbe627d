import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import { treeArbitrary } from '../testing/trees';
import {
  compareTree,
  countStates,
  countTable,
  filterTable,
  type FolderNode,
  folderTree,
  NOBODY,
  sortTable,
  STATES,
  type StrayName,
  type SurveyRow,
  surveyTable,
} from './index';

const rows: SurveyRow[] = [
  { path: 'a/one', state: 'true', size: 5 },
  { path: 'a/two', state: 'stray', size: 1 },
  { path: 'ab', state: 'absent', size: 9 },
  { path: 'b/c/Three', state: 'stray', size: 7 },
];
const names = new Map<string, StrayName>([
  ['a/two', { kind: 'mod', mod: asMod('horn'), release: '1', place: 'a/two' }],
  ['b/c/Three', { kind: 'leftover', builds: [asBuild('1'), asBuild('2')] }],
]);
const table = surveyTable(rows, new Map([['a/one', 'core']]), names);
const paths = (shown: Uint32Array): string[] => [...shown].map((i) => table.paths[i]!);

describe('a survey as a table', () => {
  it('says of each file its depot and whose it is', () => {
    expect([...table.depots]).toEqual([0, NOBODY, NOBODY, NOBODY]);
    expect([...table.whose]).toEqual([NOBODY, 0, NOBODY, 1]);
    expect(table.groups).toEqual([
      { kind: 'mod', mod: 'horn', release: '1' },
      { kind: 'leftover', build: '2' },
    ]);
    expect(countTable(table, table.whose, 2)).toEqual([
      { files: 1, bytes: 1 },
      { files: 1, bytes: 7 },
    ]);
  });

  it('counts as its rows do', () => {
    fc.assert(
      fc.property(treeArbitrary, treeArbitrary, (expected, here) => {
        const all = compareTree(expected, here);
        const counts = countStates(all);
        const columns = surveyTable(all, new Map(), new Map());
        expect(countTable(columns, columns.states, STATES.length)).toEqual(STATES.map((state) => counts[state]));
      }),
    );
  });

  it.each([
    [{}, ['a/one', 'a/two', 'ab', 'b/c/Three']],
    [{ folder: 'a' }, ['a/one', 'a/two']],
    [{ state: STATES.indexOf('stray') }, ['a/two', 'b/c/Three']],
    [{ state: STATES.indexOf('stray'), folder: 'a' }, ['a/two']],
    [{ whose: 1 }, ['b/c/Three']],
    [{ words: 'THREE' }, ['b/c/Three']],
    [{ words: 'none' }, []],
  ])('filtered by %j shows %j', (filter, shown) => {
    expect(paths(filterTable(table, filter))).toEqual(shown);
  });

  it('sorts either way, and leaves equal rows in their order', () => {
    const all = filterTable(table, {});
    expect(paths(sortTable(table, all, 'size', false))).toEqual(['a/two', 'a/one', 'b/c/Three', 'ab']);
    expect(paths(sortTable(table, all, 'size', true))).toEqual(['ab', 'b/c/Three', 'a/one', 'a/two']);
    expect(paths(sortTable(table, all, 'state', true))).toEqual(['a/two', 'b/c/Three', 'ab', 'a/one']);
    expect(paths(sortTable(table, all, 'path', true))).toEqual(['b/c/Three', 'ab', 'a/two', 'a/one']);
    expect(paths(all)).toEqual(['a/one', 'a/two', 'ab', 'b/c/Three']);
  });

  it('gives folders that hold the sums of what is in them', () => {
    const root = folderTree(table);
    expect([...root.folders.keys()]).toEqual(['a', 'b']);
    expect(root.own).toEqual([2]);
    expect(root.folders.get('b')!.folders.get('c')).toMatchObject({ path: 'b/c', own: [3], files: [0, 0, 0, 1, 0] });
    const sums = (node: FolderNode): void => {
      const below = [...node.folders.values()];
      node.files.forEach((files, state) => {
        const own = node.own.filter((row) => table.states[row] === state).length;
        expect(files).toBe(own + below.reduce((sum, folder) => sum + folder.files[state]!, 0));
      });
      below.forEach(sums);
    };
    sums(root);
  });
});

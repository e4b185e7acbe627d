import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Catalogue } from '#core/mods';
import { asMod, type ModId, asBuild } from '#core/builds';
import type { Weight } from '#core/mods';
import { failureCode } from '../testing/digest';
import { builds, catalogueOf, type ReleaseSketch } from '../testing/mods';
import {
  buildsInRange,
  csvRows,
  fromCsvCell,
  guessColumns,
  idOfName,
  jsonRows,
  isSharedList,
  listCells,
  type ListedMod,
  listMarkdown,
  markdownRow,
  markdownRows,
  readSharedList,
  mergeMod,
  withdrawnReleases,
  withReleases,
  modTable,
  labelsWithBlanks,
  parseRange,
  rangesOfBuilds,
  readModTable,
  saidOfMod,
  toCsv,
} from './index';

const BUILDS = builds('2.8.1', '2.9.4', '2.9.4a', '3.0.0-t1', '3.0.0', '3.1.0');
const catalogue = catalogueOf({
  towline: [
    { version: '1.12', builds: ['2.8.1'] },
    { version: '1.14', builds: ['2.9.4'] },
    { version: '2.0', builds: ['3.0.0'] },
  ],
});
const LABELS = BUILDS.map((label) => ({ label }));
/** What has a dash came out on trial. */
const APART = BUILDS.map((label) => ({ label, branch: label.includes('-') ? 'trial' : 'main' }));
const known = { catalogue, builds: LABELS };

describe('a range', () => {
  it.each([
    ['1.12 to 1.14', { from: '1.12', to: '1.14' }],
    ['1.12 - 1.14', { from: '1.12', to: '1.14' }],
    ['1.12–1.14', { from: '1.12', to: '1.14' }],
    ['up to 3.0', { to: '3.0' }],
    ['3.0 or older', { to: '3.0' }],
    ['2.0 or newer', { from: '2.0' }],
    ['from 2.0', { from: '2.0' }],
    ['3.0.0-t1', { from: '3.0.0-t1', to: '3.0.0-t1' }],
    ['any', {}],
    ['whatever you like', undefined],
    ['', undefined],
  ])('%j is read', (text, range) => {
    expect(parseRange(text)).toEqual(range);
  });

  it('knows where a label ends that has blanks in it', () => {
    const blanks = labelsWithBlanks(['harvest 1', '2.0', 'harvest 12', 'late harvest']);
    expect(blanks).toEqual(['late harvest', 'harvest 12', 'harvest 1']);
    const both = (label: string) => ({ from: label, to: label });
    expect(parseRange('harvest 1', blanks)).toEqual(both('harvest 1'));
    expect(parseRange('harvest 12', blanks)).toEqual(both('harvest 12'));
    expect(parseRange('harvest 1 to harvest 12', blanks)).toEqual({ from: 'harvest 1', to: 'harvest 12' });
    expect(parseRange('up to late harvest', blanks)).toEqual({ to: 'late harvest' });
    expect(parseRange('2.0 or newer', blanks)).toEqual({ from: '2.0' });
    for (const text of ['works on harvest 1', 'harvest 1 harvest 12', 'harvest'])
      expect(parseRange(text, blanks), text).toEqual(text === 'harvest' ? both('harvest') : undefined);
  });

  it('holds builds by their order, and places an end that is none of them by its spelling', () => {
    expect(buildsInRange({ from: '2.9.4', to: '3.0.0-t1' }, LABELS)).toEqual(['2.9.4', '2.9.4a', '3.0.0-t1']);
    expect(buildsInRange({ to: '2.9.9' }, LABELS)).toEqual(['2.8.1', '2.9.4', '2.9.4a']);
    expect(buildsInRange({ from: '3' }, LABELS)).toEqual(['3.0.0-t1', '3.0.0', '3.1.0']);
    expect(buildsInRange({ from: '4' }, LABELS)).toEqual([]);
    for (const alone of ['2.9', '2.9.x', '2.9.*', '2.9.X'])
      expect(buildsInRange({ from: alone, to: alone }, LABELS), alone).toEqual(
        LABELS.map(({ label }) => label).filter((label) => label.startsWith('2.9.')),
      );
    expect(buildsInRange({ from: '2.9', to: '2.9' }, [...LABELS, { label: asBuild('2.90') }])).not.toContain('2.90');
    expect(buildsInRange({ to: '2.9.x' }, LABELS)).toContain('2.9.4');
    expect(buildsInRange({ from: '2.9.x', to: '3.0.x' }, LABELS)).toEqual(['2.9.4', '2.9.4a', '3.0.0-t1', '3.0.0']);
  });

  it('stays on the branches of its ends', () => {
    expect(buildsInRange({ from: '2.9.4' }, APART)).toEqual(['2.9.4', '2.9.4a', '3.0.0', '3.1.0']);
    expect(buildsInRange({ to: '3.0.0' }, APART)).toEqual(['2.8.1', '2.9.4', '2.9.4a', '3.0.0']);
    expect(buildsInRange({ from: '2.9.4a', to: '3.0.0-t1' }, APART)).toEqual(['2.9.4a', '3.0.0-t1']);
    expect(buildsInRange({ from: '3.0.0-t1' }, APART)).toEqual(['3.0.0-t1']);
    expect(buildsInRange({}, APART)).toEqual(BUILDS);
    expect(rangesOfBuilds(BUILDS, APART)).toBe('2.8.1 to 3.1.0; 3.0.0-t1');
  });
});

const read = (...lines: string[][]) => {
  const [heads, ...rows] = lines;
  return readModTable(
    rows.map((cells, i) => ({ line: i + 2, cells })),
    guessColumns(heads!),
    known,
  );
};
const HEADS = ['Name', 'Version', 'Supported builds', 'Needs', 'Weight', 'Type'];

describe('a table of mods', () => {
  it('gives mods with releases, builds, requirements and weights', () => {
    const { mods, weights, faults } = read(
      HEADS,
      ['Honest fuel', '1.8', 'up to 2.9.4', 'Towline 1.12 to 1.14', 'must have', 'native'],
      ['Honest fuel', '1.9', '2.9.4, 3.1.0', 'towline 1.14 or newer | Night pilotage', '', ''],
      ['Night pilotage', '0.8', '2.9.4', '', 'Spare', ''],
    );
    expect(faults).toEqual([]);
    expect(mods.map(({ id, name, kind }) => [id, name, kind])).toEqual([
      ['honest-fuel', 'Honest fuel', 'native'],
      ['night-pilotage', 'Night pilotage', 'script'],
    ]);
    expect([...weights]).toEqual([
      ['honest-fuel', 'must'],
      ['night-pilotage', 'spare'],
    ]);
    const [first, second] = mods[0]!.releases;
    expect(first).toMatchObject({
      builds: ['2.8.1', '2.9.4'],
      requires: [{ mod: 'towline', from: '1.12', to: '1.14' }],
    });
    expect(second).toMatchObject({
      builds: ['2.9.4', '3.1.0'],
      requiresOneOf: [[{ mod: 'towline', from: '1.14' }, { mod: 'night-pilotage' }]],
    });
  });

  it('tells every fault with line, field and cell', () => {
    const { faults, unknownBuilds, badLines } = read(
      HEADS,
      ['', '1', '2.9.4', '', '', ''],
      ['Fog', '', '2.9.4', '', '', ''],
      ['Fog', '1', '2.9.4; 4.0', 'Nobody 2', 'much', 'fog'],
      ['Fog', '1', 'often enough', 'Towline 9', '', ''],
    );
    expect(faults.map(({ line, field, cell, fault }) => [line, field, cell, fault])).toEqual([
      [2, 'mod', '', 'empty'],
      [3, 'release', '', 'empty'],
      [5, 'release', '1', 'twice'],
      [4, 'weight', 'much', 'no-such-weight'],
      [4, 'kind', 'fog', 'no-such-kind'],
      [4, 'builds', '4.0', 'no-such-build'],
      [4, 'requires', 'Nobody 2', 'no-such-mod'],
      [5, 'builds', 'often enough', 'no-range'],
      [5, 'requires', 'Towline 9', 'no-such-release'],
    ]);
    expect([unknownBuilds, [...badLines].toSorted()]).toEqual([['4.0'], [2, 3, 4, 5]]);
  });

  it('refuses two weights of one mod', () => {
    const { faults } = read(HEADS, ['Fog', '1', 'any', '', 'must', ''], ['Fog', '2', 'any', '', 'want', '']);
    expect(faults).toEqual([{ line: 3, field: 'weight', cell: 'want', fault: 'two-weights' }]);
  });

  it('of JSON is a list of objects', () => {
    const { heads, rows } = jsonRows('[{"mod":"Fog","release":2,"builds":["2.9.4","3.1.0"]},{"mod":"Ice"}]', 'f.json');
    expect(heads).toEqual(['mod', 'release', 'builds']);
    expect(rows).toEqual([
      { line: 1, cells: ['Fog', '2', '2.9.4; 3.1.0'] },
      { line: 2, cells: ['Ice', '', ''] },
    ]);
    expect(failureCode(() => jsonRows('{"mod":"Fog"}', 'f.json'))).toBe('json/does-not-fit');
  });
});

it.each([
  ['on one branch', LABELS],
  ['with a branch apart', APART],
])('what is written of builds %s is read back as it was', (_, branchBuilds) => {
  const known = { catalogue, builds: branchBuilds };
  const names = ['Fog over, the Reach', 'Ice season', 'Towline | two'];
  const range = fc.record({ mod: fc.constantFrom(...names.map(idOfName)) });
  const release = fc.record({
    builds: fc.subarray([...BUILDS] as string[]),
    requires: fc.array(range, { maxLength: 2 }),
    requiresOneOf: fc.array(fc.array(range, { minLength: 2, maxLength: 2 }), { maxLength: 1 }),
    optional: fc.array(range, { maxLength: 1 }),
    conflicts: fc.array(range, { maxLength: 1 }),
  });
  fc.assert(
    fc.property(fc.array(fc.array(release, { minLength: 1, maxLength: 3 }), { minLength: 3, maxLength: 3 }), (mods) => {
      const sketches = mods.map((releases, i): [string, ReleaseSketch[]] => [
        idOfName(names[i]!),
        releases.map((one, place) => ({ version: `1.${place}`, touches: undefined, ...one })),
      ]);
      const own = catalogueOf(Object.fromEntries(sketches)).mods.map((mod, i) => ({ ...mod, name: names[i]! }));
      const weights = new Map<ModId, Weight>(own.map(({ id }, i) => [id, (['must', 'want', 'spare'] as const)[i]!]));
      const { fields, data } = modTable(own, weights, known);
      const rows = data.map((cells, i) => ({ line: i + 1, cells }));
      const back = readModTable(rows, Object.fromEntries(fields.map((field, i) => [field, i])), known);
      expect(back.faults).toEqual([]);
      expect(back.weights).toEqual(weights);
      expect(back.mods.map(({ releases }) => releases.map(({ date: _, ...rest }) => rest))).toEqual(
        own.map(({ releases }) => releases.map(({ date: _, ...rest }) => rest)),
      );
    }),
  );
});

it('what a person says is laid over the catalogue, whose files stay', () => {
  const file = { path: 'mods/towline/a', size: 1, sha256: 'a'.repeat(64), href: '' };
  const theirs = catalogueOf({
    tow: [
      { version: '1', builds: ['1'], files: [file] },
      { version: '2', builds: ['2'] },
    ],
  });
  const mine = catalogueOf({
    tow: [
      { version: '1', builds: ['1', '2'] },
      { version: '3', builds: ['3'] },
    ],
  });
  const { releases } = mergeMod(theirs.mods[0]!, mine.mods[0]!);
  expect(releases.map(({ version, builds: on }) => [version, on])).toEqual([
    ['1', ['1', '2']],
    ['2', ['2']],
    ['3', ['3']],
  ]);
  expect(releases[0]!.files).toEqual([file]);
});

it('releases of the shelf that no catalogue has any more stand where their days have them', () => {
  const of = (mods: Record<string, ReleaseSketch[]>) => catalogueOf(mods);
  const now = of({
    tow: [
      { version: '1', date: '2026-01-01' },
      { version: '3', date: '2026-03-01', builds: ['3'] },
    ],
  });
  const kept = of({
    tow: [
      { version: '2', date: '2026-02-01' },
      { version: '3', date: '2026-03-01' },
    ],
    gone: [{ version: '9' }],
  });
  const { mods } = withReleases(now, kept.mods);
  expect(mods.map(({ id, releases }) => [id, releases.map(({ version }) => version)])).toEqual([
    ['tow', ['1', '2', '3']],
    ['gone', ['9']],
  ]);
  expect(mods[0]!.releases[2]!.builds).toEqual(['3']);
  expect(withReleases(now, [now.mods[0]!]).mods[0]).toBe(now.mods[0]);
});

it('a release that has other files now goes on meaning what it meant, and one that told of none gets them', () => {
  const file = (path: string) => [{ path, size: 1, sha256: 'a'.repeat(64), href: '' }];
  const of = (version: string, path?: string, date = '2026-01-01') =>
    catalogueOf({ tow: [{ version, date, files: path === undefined ? [] : file(path) }] });
  const merged = (now: Catalogue, ...kept: Catalogue[]) =>
    withReleases(
      now,
      kept.flatMap(({ mods }) => mods),
    ).mods[0]!.releases.map(({ version, files }) => [version, files[0]?.path]);
  expect(merged(of('1', 'new'), of('1', 'old'))).toEqual([
    ['1', 'old'],
    ['1 (new files)', 'new'],
  ]);
  expect(merged(of('1'), of('1', 'old'))).toEqual([['1', 'old']]);
  const long = 'v'.repeat(40);
  expect(merged(of(long, 'new'), of(long, 'old'))[1]![0]).toHaveLength(40);
  // What was lost is what is no longer told, and was once told with files.
  const lost = (before: Catalogue, now: Catalogue) => withdrawnReleases(before, now, '2026-12-02').map(({ id }) => id);
  expect([lost(of('1', 'a'), of('1', 'a')), lost(of('1', 'a'), of('1', 'b')), lost(of('1'), of('2', 'a'))]).toEqual([
    ...[[], ['tow'], []],
  ]);
});

it('what a person says later of one release keeps what they said of others', () => {
  const of = (...releases: ReleaseSketch[]) => catalogueOf({ tow: releases }).mods[0]!;
  const first = of({ version: '1', builds: ['1'] }, { version: '2', builds: ['2'] });
  const later = saidOfMod(first, of({ version: '3', builds: ['3'] }, { version: '1', builds: ['1', '2'] }));
  expect(later.releases.map(({ version, builds: on }) => [version, on])).toEqual([
    ['1', ['1', '2']],
    ['2', ['2']],
    ['3', ['3']],
  ]);
  expect(saidOfMod(undefined, first)).toBe(first);
});

it('files that were named of a release stay where none are named later', () => {
  const file = { path: 'mods/own/a', size: 1, sha256: 'a'.repeat(64), href: '' };
  const of = (...releases: ReleaseSketch[]) => catalogueOf({ own: releases }).mods[0]!;
  const first = of({ version: '1', builds: ['1'], files: [file] });
  expect(saidOfMod(first, of({ version: '1', builds: ['2'] })).releases[0]).toMatchObject({
    builds: ['2'],
    files: [file],
  });
  const other = { ...file, path: 'mods/own/b' };
  expect(saidOfMod(first, of({ version: '1', files: [other] })).releases[0]!.files).toEqual([other]);
});

it('a mod of which the table says no weight keeps the one that it has', () => {
  const { weights, faults } = read(HEADS, ['Fog', '1', 'any', '', '', ''], ['Ice', '1', 'any', '', 'spare', '']);
  expect(faults).toEqual([]);
  expect([...weights]).toEqual([['ice', 'spare']]);
});

it('ids are made of any name', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 90 }), (name) => {
      expect(idOfName(name)).toMatch(/^[a-z0-9-]{1,60}$/);
      expect(idOfName(` ${name.toUpperCase()}  `)).toBe(idOfName(name.toUpperCase()));
    }),
  );
  expect(idOfName('Fog over the Reach')).toBe(asMod('fog-over-the-reach'));
});

it.each([
  ['Туман 2', '日本語 2'],
  ['Tool C', 'Tool C++'],
  ['Tool C++', 'Tool C#'],
  [`${'Very long '.repeat(7)}one`, `${'Very long '.repeat(7)}two`],
  ['Café', 'Cafe'],
  ['!!!', '???'],
  ['a.b', 'a b'],
])('%j and %j have ids of their own', (one, other) => {
  expect(idOfName(one)).not.toBe(idOfName(other));
});

describe('names that would share an id', () => {
  const heads = ['mod', 'release', 'builds'];
  const lines = [
    ['Tool-C', '1', 'any'],
    ['Tool C', '2', 'any'],
    ['TOOL  C', '3', 'any'],
  ];
  const rows = lines.map((cells, i) => ({ line: i + 2, cells }));
  const ask = (decided?: [string, 'same' | 'apart'][]) =>
    readModTable(rows, guessColumns(heads), known, new Map(decided));

  it('are asked about once, and only where they differ in more than case and blanks', () => {
    expect(ask().alike).toEqual([{ line: 3, name: 'Tool C', other: 'Tool-C' }]);
  });

  it('become one mod or two, as the person says', () => {
    const one = ask([['tool c', 'same']]);
    expect([one.alike, one.mods.map(({ releases }) => releases.length)]).toEqual([[], [3]]);
    const two = ask([['tool c', 'apart']]);
    expect([two.alike, two.mods.map(({ releases }) => releases.length)]).toEqual([[], [1, 2]]);
  });

  it('of the catalogue are asked about too, but an id that is written as such is meant', () => {
    const withDash = {
      catalogue: catalogueOf({ 'night-pilotage': [{ version: '1', builds: ['2.9.4'] }] }),
      builds: LABELS,
    };
    const named = {
      ...withDash.catalogue,
      mods: withDash.catalogue.mods.map((mod) => ({ ...mod, name: 'Night pilotage' })),
    };
    const of = (name: string) =>
      readModTable([{ line: 1, cells: [name, '2', 'any'] }], guessColumns(heads), { ...withDash, catalogue: named });
    expect(of('Night-Pilotage').alike).toHaveLength(1);
    expect(of('night-pilotage').alike).toEqual([]);
    expect(of('NIGHT pilotage').mods[0]!.id).toBe('night-pilotage');
  });
});

it('a table of many faults counts all and tells the first thousand', () => {
  const { faults, faultCount } = read(HEADS, ...Array.from({ length: 3000 }, () => ['', '', '', '', '', '']));
  expect([faults.length, faultCount]).toEqual([1000, 6000]);
});

describe('CSV', () => {
  const cell = fc.oneof(
    fc.string(),
    fc.string({ unit: fc.constantFrom("'", '=', '+', '-', '@', '\t', '\r', '\n', '"', ',', 'a', ' ', '＝') }),
  );

  it('is read back as it was written, and starts no formula', async () => {
    const { default: Papa } = await import('papaparse');
    fc.assert(
      fc.property(fc.array(fc.array(cell, { minLength: 2, maxLength: 2 }), { minLength: 1 }), (rows) => {
        const text = toCsv(['a', 'b'], rows);
        const { data } = Papa.parse<string[]>(text.replace(/\r\n$/, ''), { delimiter: ',', newline: '\r\n' });
        expect([...csvRows(text, ',', 10)].map(({ cells }) => cells)).toEqual(data);
        expect(data.slice(1).map((row) => row.map(fromCsvCell))).toEqual(rows);
        for (const text of data.flat()) expect(text).not.toMatch(/^[=+\-@\t\r\n＝＋－＠]/);
      }),
    );
  });

  it('is read by any separator and line end, with the line of each row', () => {
    const rows = [...csvRows('a;b\r\n"x\ny";1\r\n;\n"p""q"', ';', 10)];
    expect(rows).toEqual([
      { line: 1, cells: ['a', 'b'] },
      { line: 2, cells: ['x\ny', '1'] },
      { line: 4, cells: ['', ''] },
      { line: 5, cells: ['p"q'] },
    ]);
    for (const text of ['"a', 'a,"b"c', '"a"" ,']) expect(() => [...csvRows(text, ',', 10)]).toThrow('quotation mark');
    expect([...csvRows(',,,,', ',', 2)][0]!.cells).toHaveLength(3);
  });

  it('leaves numbers and plain text as they are', () => {
    expect(
      toCsv(
        ['n', 't'],
        [
          [-5, "it's"],
          [undefined, 'a,"b"'],
        ],
      ),
    ).toBe('n,t\r\n-5,it\'s\r\n,"a,""b"""\r\n');
  });
});

describe('a list of mods to publish', () => {
  const listed: ListedMod[] = [
    { mod: 'Tow | line', release: '1', build: '3.0 beta', role: 'must', source: 'a post \\ here' },
    { mod: 'Gone', release: '2', build: '3.0 beta', role: 'needed', source: '' },
    { mod: 'base', release: '9', build: '3.0 beta', role: 'spare', source: '=1+1' },
  ];
  const catalogue = {
    ...catalogueOf({ base: [{ version: '1' }] }),
    mods: [
      { ...catalogueOf({ tow: [{ version: '1' }] }).mods[0]!, name: 'Tow | line' },
      ...catalogueOf({ base: [{ version: '1' }] }).mods,
    ],
  };
  const expected = [
    { ...listed[0], mod: 'tow', name: 'Tow | line', isKnown: true },
    { ...listed[1], mod: undefined, name: 'Gone', isKnown: false },
    { ...listed[2], mod: 'base', name: 'base', isKnown: false },
  ];

  it('reads in again from Markdown, whatever stands around it', () => {
    const text = `Hello\n\n${listMarkdown('My list', listed)}\nSee you | there\n`;
    const { heads, rows } = markdownRows(text)!;
    expect(isSharedList(heads)).toBe(true);
    expect(readSharedList(heads, rows, catalogue)).toMatchObject(expected);
    expect(rows[0]!.line).toBe(7);
    expect(markdownRows('no | table\nhere')).toBeUndefined();
    expect(isSharedList(['Mod', 'Release', 'Build', 'Role', 'Source', 'Requires'])).toBe(false);
  });

  it('reads in again from CSV, in any order of its columns', () => {
    const { fields, data } = listCells(listed);
    const turned = data.map((cells) => cells.toReversed());
    const [head, ...rows] = [...csvRows(toCsv(fields.toReversed(), turned), ',', 10)];
    const cells = rows.map((row) => ({ ...row, cells: row.cells.map(fromCsvCell) }));
    expect(readSharedList(head!.cells, cells, catalogue)).toMatchObject(expected);
  });

  it('any cell survives a Markdown table, with its blanks made one', () => {
    fc.assert(
      fc.property(fc.array(fc.string(), { minLength: 1, maxLength: 5 }), (cells) => {
        const text = [markdownRow(cells.map(() => 'h')), markdownRow(cells.map(() => '---')), markdownRow(cells)].join(
          '\n',
        );
        expect(markdownRows(text)!.rows[0]!.cells).toEqual(cells.map((one) => one.replace(/\s+/g, ' ').trim()));
      }),
    );
  });
});

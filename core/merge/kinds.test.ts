import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  changedLines,
  type Decide,
  type Difference,
  distanceOf,
  mergeCsv,
  mergeFile,
  mergeJson,
  mergeRecords,
  mergeXml,
  nearestFirst,
  RecordLayoutSchema,
} from '.';
import { cases } from '../testing/cases';

const nothing: Decide = () => undefined;
const places = (differences: readonly Difference[]): string[] =>
  differences.map(({ path, by }) => `${path.join(' > ')}: ${by}`);

describe('tables', () => {
  const base = 'id,name,frequency\na,Ferry,1\nb,Tug,2\nc,Barge,3\n';

  it('follow a column that one side has given another name, also where the other one changed its cells', () => {
    const ours = base.replace('b,Tug,2', 'b,Tug,9');
    const theirs = base.replace('frequency', 'band').replace('c,Barge,3', 'c,Barge,7');
    // Of three rows one that differs is too many to be sure.
    expect(places(mergeCsv(base, ours, theirs, nothing)!.differences)).toEqual(['frequency: conflict', 'band: theirs']);
    const longer = (text: string): string => text + Array.from({ length: 20 }, (_, i) => `r${i},Raft,${i}\n`).join('');
    const merge = mergeCsv(longer(base), longer(ours), longer(theirs), nothing)!;
    expect(merge.merged).toBe(longer('id,name,band\na,Ferry,1\nb,Tug,9\nc,Barge,7\n'));
    expect(places(merge.differences)).toEqual(['frequency: theirs', 'b > frequency: ours', 'c > frequency: theirs']);
  });

  it('follow rows that one side alone has moved', () => {
    const theirs = 'id,name,frequency\nc,Barge,3\na,Ferry,1\nb,Tug,2\n';
    const ours = `${base}d,Raft,4\n`;
    expect(mergeCsv(base, ours, theirs, nothing)!.merged).toBe(
      'id,name,frequency\nc,Barge,3\nd,Raft,4\na,Ferry,1\nb,Tug,2\n',
    );
  });

  it('are told apart by two columns where none does by itself, or by those that are named', () => {
    const pairs = 'from,to,fare\nEast,West,1\nEast,North,1\nWest,North,1\n';
    const merge = mergeCsv(
      pairs,
      pairs.replace('West,1', 'West,5'),
      pairs.replace('West,North,1', 'West,North,8'),
      nothing,
    )!;
    expect([merge.key, merge.merged]).toEqual([
      ['from', 'to'],
      'from,to,fare\nEast,West,5\nEast,North,1\nWest,North,8\n',
    ]);
    expect(mergeCsv(base, base.replace('Tug', 'Tow'), base.replace('Ferry', 'Punt'), nothing, ['id'])!.key).toEqual([
      'id',
    ]);
  });

  it('of other signs than ours come in as ours are written', () => {
    const theirs = 'id;name;frequency\na;Ferry, old;1\nb;Tug;2\nc;Barge;3\n';
    expect(mergeCsv(base, base.replace('Tug,2', 'Tug,4'), theirs, nothing)!.merged).toBe(
      'id,name,frequency\na,"Ferry, old",1\nb,Tug,4\nc,Barge,3\n',
    );
  });

  // More than a call can take arguments.
  it('of 200,000 rows are merged', () => {
    const base = `id,fare,crew\n${Array.from({ length: 200_000 }, (_, i) => `r${i},1,4\n`).join('')}`;
    const [ours, theirs] = [base.replace('\nr7,1,', '\nr7,2,'), base.replace('\nr199999,1,', '\nr199999,3,')];
    const merge = mergeCsv(base, ours, theirs, nothing)!;
    expect(merge.differences).toHaveLength(2);
    expect(merge.merged === ours.replace('\nr199999,1,', '\nr199999,3,')).toBe(true);
  });
});

describe('JSON', () => {
  it.each<[string, string, string, string, string]>([
    [
      'items by what tells them apart, whatever their order',
      '[{"id": 1, "v": 1}, {"id": 2, "v": 1}]',
      '[\n  {"id": 2, "v": 1}, // second\n  {"id": 1, "v": 5}\n]',
      '[{"id": 1, "v": 1}, {"id": 2, "v": 8}, {"id": 3, "v": 0}]',
      '[\n  {"id": 2, "v": 8}, // second\n  {"id": 3, "v": 0},\n  {"id": 1, "v": 5}\n]',
    ],
    ['items by what stands around them', '[1, 2, 3, 4]', '[1, 2, 3, 4, 5]', '[0, 1, 2, 4]', '[0, 1, 2, 4, 5]'],
    [
      'an object that was empty',
      '{"a": {}, "b": 1}',
      '{"a": {}, "b": 2}',
      '{"a": {"c": 1}, "b": 1}',
      '{"a": { "c": 1 }, "b": 2}',
    ],
    ['the last of all', '{"a": 1, "b": 2}', '{"a": 3, "b": 2}', '{"a": 1}', '{"a": 3}'],
    [
      'commas too many and remarks behind them',
      '{"a": 1, "b": 2}',
      '{\n  "a": 5, // tuned\n  "b": 2, // as it was\n}\n',
      '{"a": 1, "b": 2, "c": 3}',
      '{\n  "a": 5, // tuned\n  "b": 2, // as it was\n  "c": 3,\n}\n',
    ],
    [
      'the spelling of numbers that are the same',
      '{"a": 1.0, "b": 1}',
      '{"a": 1.00, "b": 2}',
      '{"a": 3.5, "b": 1}',
      '{"a": 3.5, "b": 2}',
    ],
  ])('keeps the form of ours: %s', (_, base, ours, theirs, expected) => {
    expect(mergeJson(base, ours, theirs, nothing)!.merged).toBe(expected);
  });

  it('writes what a person decides as a value of the kind that was there', () => {
    const decided = (value: string): string | undefined =>
      mergeJson('{"a": "x", "b": 1}', '{"a": "y", "b": 2}', '{"a": "z", "b": 3}', ({ path }) => ({
        value: path[0] === 'a' ? value : '9',
      }))!.merged;
    expect(decided('say "w"')).toBe('{"a": "say \\"w\\"", "b": 9}');
    expect(decided('12')).toBe('{"a": "12", "b": 9}');
  });
});

describe('XML', () => {
  it.each<[string, string, string, string, string | undefined]>([
    [
      'attributes and children, with remarks and blanks',
      '<panel><item id="a" w="1"/><item id="b" w="1"/></panel>',
      "<?xml version='1.0'?>\n<!-- mine -->\n<panel>\n  <!-- first -->\n  <item id='a'   w='5'/>\n  <item id='b' w='1'/>\n</panel>\n",
      '<panel><item id="a" w="1"/><item id="b" w="7" h="2"/><item id="c" w="3"/></panel>',
      '<?xml version=\'1.0\'?>\n<!-- mine -->\n<panel>\n  <!-- first -->\n  <item id=\'a\'   w=\'5\'/>\n  <item id=\'b\' w="7" h="2"/>\n  <item id="c" w="3"/>\n</panel>\n',
    ],
    [
      'children of what had none',
      '<a><b x="1"/></a>',
      '<a><b x="2"/></a>',
      '<a><b x="1"><c/></b></a>',
      '<a><b x="2">\n<c/></b></a>',
    ],
    [
      'text',
      '<a><b>one</b><c>1</c></a>',
      '<a><b>two</b><c>1</c></a>',
      '<a><b>one</b><c>2</c></a>',
      '<a><b>two</b><c>2</c></a>',
    ],
    [
      'text with elements in it, as one value',
      '<p>a <b>b</b> c</p>',
      '<p>a <b>B</b> c</p>',
      '<p>a <b>b</b> d</p>',
      undefined,
    ],
    [
      'entities of a document type, and namespaces',
      '<!DOCTYPE a [<!ENTITY x "y">]><n:a xmlns:n="u"><n:b v="1"/><c>&x;</c></n:a>',
      '<!DOCTYPE a [<!ENTITY x "y">]><n:a xmlns:n="u"><n:b v="2"/><c>&x;</c></n:a>',
      '<!DOCTYPE a [<!ENTITY x "y">]><n:a xmlns:n="u"><n:b v="1"/><c>&x;!</c></n:a>',
      '<!DOCTYPE a [<!ENTITY x "y">]><n:a xmlns:n="u"><n:b v="2"/><c>&x;!</c></n:a>',
    ],
    [
      'several elements side by side',
      '<a v="1"/>\n<b/>',
      '<a v="2"/>\n<b/>',
      '<a v="1"/>\n<b/>\n<c/>',
      '<a v="2"/>\n<b/>\n<c/>',
    ],
  ])('merges %s', (_, base, ours, theirs, expected) => {
    expect(mergeXml(base, ours, theirs, nothing)!.merged).toBe(expected);
  });

  it('tells places without what is written around them, and writes what is decided as the place wants it', () => {
    const merge = mergeXml('<a><b w="1">x</b></a>', '<a><b w="2">y</b></a>', '<a><b w="3">z</b></a>', () => ({
      value: '"&',
    }))!;
    expect(merge.differences.map(({ path, base, ours, theirs }) => [path.join('/'), base, ours, theirs])).toEqual([
      ['a/b/@w', '1', '2', '3'],
      ['a/b', 'x', 'y', 'z'],
    ]);
    expect(merge.merged).toBe('<a><b w="&quot;&amp;">&quot;&amp;</b></a>');
  });
});

describe('records', () => {
  const layout = RecordLayoutSchema.parse({
    ...{ header: 4, record: 8, key: ['id'], count: { at: 0, as: 'u16' } },
    fields: [
      { name: 'id', at: 0, as: 'text', length: 3 },
      { name: 'fare', at: 4, as: 'u16' },
    ],
  });
  const signs = (number: number): string => String.fromCharCode(number & 255, number >> 8);
  const file = (rows: readonly (readonly [id: string, fare: number, gap?: string])[]): string =>
    `${signs(rows.length)}v1${rows.map(([id, fare, gap = '..']) => `${id.padEnd(3, '\0')}-${signs(fare)}${gap}`).join('')}`;
  const base = file([
    ['a', 1],
    ['b', 700],
    ['c', 3],
  ]);

  it('are merged field by field, with their count, and bytes that no field explains', () => {
    const ours = file([
      ['a', 900],
      ['b', 700],
      ['c', 3],
      ['m', 5],
    ]);
    const theirs = file([
      ['a', 1],
      ['c', 3, 'xy'],
      ['d', 4],
    ]);
    const merge = mergeRecords(base, ours, theirs, nothing, layout)!;
    expect(merge.merged).toBe(
      file([
        ['a', 900],
        ['c', 3, 'xy'],
        ['d', 4],
        ['m', 5],
      ]),
    );
  });

  it('take what a person decides only where it can be written there', () => {
    const [ours, theirs] = [
      file([
        ['a', 2],
        ['b', 700],
        ['c', 3],
      ]),
      file([
        ['a', 5],
        ['b', 700],
        ['c', 3],
      ]),
    ];
    expect(mergeRecords(base, ours, theirs, () => ({ value: '65535' }), layout)!.merged).toBe(
      file([
        ['a', 65535],
        ['b', 700],
        ['c', 3],
      ]),
    );
    for (const value of ['65536', '-1', 'many', ''])
      expect(mergeRecords(base, ours, theirs, () => ({ value }), layout)!.merged, value).toBeUndefined();
  });

  it.each([
    ['cut off', base.slice(0, -3)],
    ['too short for a header', 'v'],
  ])('are none: %s', (_, text) => expect(mergeRecords(text, `${text}`, text, nothing, layout)).toBeUndefined());

  it.each([
    [{ header: 0, record: 4, key: ['a'], fields: [{ name: 'a', at: 2, as: 'u32' }] }, 'fields'],
    [{ header: 0, record: 4, key: ['b'], fields: [{ name: 'a', at: 0, as: 'u32' }] }, 'key'],
    [
      { header: 1, record: 4, key: ['a'], fields: [{ name: 'a', at: 0, as: 'u32' }], count: { at: 0, as: 'u16' } },
      'count',
    ],
    [{ record: 4, key: ['a'], fields: [{ name: 'a', at: 0, as: 'text' }] }, 'fields'],
  ])('have a layout that fits itself: %#', (wrong, field) => {
    expect(RecordLayoutSchema.safeParse(wrong).error?.issues[0]?.path[0]).toBe(field);
  });
});

describe('a file', () => {
  const kindOf = (path: string, text: string): string | undefined =>
    mergeFile([text, `${text}\n`, `${text}\n\n`], { path }, nothing)?.kind;

  it.each([
    ['a.csv', 'id,v\na,1', 'table'],
    ['a.json', '{"a": 1}', 'json'],
    ['a.xml', '<a/>', 'xml'],
    ['a.ini', '[a]\nb=1', 'ini'],
    ['a.dat', '{"a": 1}', 'json'],
    ['a.txt', '<a><b/></a>', 'xml'],
    ['a.lst', '[general]\nb = 1', 'ini'],
    // Names say what a file is to be; what it is, its text does.
    ['a.json', 'id,v\na,1', 'text'],
    ['a.xml', '[general]\nb = 1', 'ini'],
    ['a.ini', 'Dear player,\nthis is no list of settings.', 'text'],
    ['a.csv', 'Fares, as they were\nsince, for ever, and a day', 'text'],
  ])('%s that says %j is merged as %3$s', (path, text, kind) => expect(kindOf(path, text)).toBe(kind));

  it('of any text is merged without a fault, and decided for one side is free of conflicts', () => {
    const pieces = ['{', '}', '[a]', '<a>', '</a>', '"', ',', 'x=1', 'id', '\n', '\r\n', '//', '\\', '&', ' ', '1'];
    const any = fc.array(fc.constantFrom(...pieces), { maxLength: 12 }).map((some) => some.join(''));
    fc.assert(
      fc.property(
        any,
        any,
        any,
        fc.constantFrom('a.csv', 'a.json', 'a.xml', 'a.ini', 'a'),
        (base, ours, theirs, path) => {
          for (const side of ['ours', 'theirs'] as const)
            expect(mergeFile([base, ours, theirs], { path }, () => side)!.merged).toBeDefined();
          expect(mergeFile([base, base, theirs], { path }, nothing)!.merged).toBe(theirs);
          expect(mergeFile([base, ours, base], { path }, nothing)!.merged).toBe(ours);
        },
      ),
      { numRuns: cases(300) },
    );
  });
});

describe('what a file was made from', () => {
  const three = [1, 2, 3].map((build) =>
    Array.from({ length: 40 }, (_, i) => `r${i},${i % 3 === build % 3 ? i + build : i}`),
  );
  const textOf = (rows: readonly string[]): string => ['id,toll', ...rows, ''].join('\n');

  it.each(['tolls.csv', 'tolls.txt'])('is what it differs from the least: %s', (path) => {
    const ours = textOf(three[1]!.map((row, i) => (i === 5 ? 'r5,999' : row)));
    const distances = three.map((rows) => {
      const { differences } = mergeFile([textOf(rows), ours, textOf(rows)], { path }, nothing)!;
      return distanceOf(differences);
    });
    expect(distances[1]).toBe(1);
    expect(Math.min(distances[0]!, distances[2]!)).toBeGreaterThan(10);
  });
});

it('the nearest is looked for among what has all of the files, and nothing is near that cannot be compared', () => {
  const some = [
    { of: 'newest', files: 2, places: 7 },
    { of: 'middle', files: 2, places: 3 },
    { of: 'as near', files: 2, places: 3 },
    { of: 'half there', files: 1, places: 0 },
  ];
  expect(nearestFirst(some).map((one) => one.of)).toEqual(['middle', 'as near', 'newest']);
  expect(nearestFirst([{ of: 'bytes', files: 0, places: 0 }])).toEqual([]);
  expect(nearestFirst([])).toEqual([]);
});

describe('columns that a person names', () => {
  const base = 'name,id,toll\nWeir,1,5\nBasin,2,6\n';
  const ours = base.replace(',5', ',50');

  it('tell rows apart, and are among those that can', () => {
    const theirs = base.replace('Weir', 'Upper weir').replace(',6', ',7');
    const merge = mergeFile([base, ours, theirs], { path: 'a.csv', key: ['id'] }, nothing)!;
    expect(merge).toMatchObject({ kind: 'table', key: ['id'], columns: ['name', 'id', 'toll'] });
    expect(merge.merged).toBe('name,id,toll\nUpper weir,1,50\nBasin,2,7\n');
  });

  it('do not count where two rows are alike in them; where nothing tells rows apart, they can still be named', () => {
    const alike = mergeFile([base, ours, base.replace('2,6', '1,6')], { path: 'a.csv', key: ['id'] }, nothing)!;
    expect(alike.key).toEqual(['name']);
    const text = 'a,b\n1,1\n1,1\n';
    const lines = mergeFile([text, text.replace('b', 'c'), text], { path: 'a.csv' }, nothing)!;
    expect(lines).toMatchObject({ kind: 'text', columns: ['a'] });
  });
});

it('lines that another text has not in their place are told', () => {
  expect([...changedLines('a\nb\nc\n', 'a\nx\nc\nd\n')]).toEqual([2, 4]);
  expect(changedLines('a\n', 'a\n').size).toBe(0);
});

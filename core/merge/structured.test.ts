import fc from 'fast-check';
import { parse, type ParseError } from 'jsonc-parser';
import { describe, expect, it } from 'vitest';
import {
  type Decide,
  type Difference,
  type Merge,
  mergeCsv,
  mergeFile,
  mergeIni,
  mergeJson,
  mergeText,
  mergeXml,
} from '.';
import { cases } from '../testing/cases';

type Merging = (base: string, ours: string, theirs: string, decide: Decide) => Merge | undefined;

const nothing: Decide = () => undefined;
const conflictsOf = ({ differences }: Merge): Difference[] =>
  differences.filter(({ by, decision }) => by === 'conflict' && decision === undefined);

/** A file of each kind with some values by names, and its values read back by the simplest means. */
interface Kind {
  readonly merge: Merging;
  readonly write: (values: ReadonlyMap<string, string>) => string;
  readonly read: (text: string) => Map<string, string>;
}

const KINDS: Readonly<Record<string, Kind>> = {
  INI: {
    merge: mergeIni,
    write: (values) => `; mine\n[all]\n${[...values].map(([name, value]) => `${name} = ${value}\n`).join('')}`,
    read: (text) => new Map([...text.matchAll(/^(\w+) = (.*)$/gm)].map(([, name, value]) => [name!, value!])),
  },
  CSV: {
    merge: mergeCsv,
    write: (values) => `id,value\n${[...values].map(([name, value]) => `${name},${value}\n`).join('')}`,
    read: (text) => new Map([...text.matchAll(/^(n\d),(.*)$/gm)].map(([, name, value]) => [name!, value!])),
  },
  JSON: {
    merge: mergeJson,
    write: (values) => `${JSON.stringify(Object.fromEntries(values), null, 2)}\n`,
    read: (text) => new Map(Object.entries(JSON.parse(text) as Record<string, string>)),
  },
  'XML attributes': {
    merge: mergeXml,
    write: (values) => `<panel${[...values].map(([name, value]) => ` ${name}="${value}"`).join('')}/>\n`,
    read: (text) => new Map([...text.matchAll(/ (n\d)="(\d)"/g)].map(([, name, value]) => [name!, value!])),
  },
  'XML elements': {
    merge: mergeXml,
    write: (values) =>
      `<list>${[...values].map(([id, value]) => `\n  <item id="${id}">${value}</item>`).join('')}\n</list>\n`,
    read: (text) =>
      new Map([...text.matchAll(/<item id="(n\d)">(\d)<\/item>/g)].map(([, name, value]) => [name!, value!])),
  },
  'a list in JSON': {
    merge: mergeJson,
    write: (values) => `[${[...values].map(([id, value]) => `{"id": "${id}", "v": ${value}}`).join(', ')}]\n`,
    read: (text) => new Map((JSON.parse(text) as { id: string; v: number }[]).map(({ id, v }) => [id, String(v)])),
  },
};

const names = ['n0', 'n1', 'n2', 'n3', 'n4', 'n5'];
const values = fc.dictionary(fc.constantFrom(...names), fc.constantFrom('1', '2', '3'), { maxKeys: 6 });

describe.each(Object.entries(KINDS))('a merge of %s', (_, { merge, write, read }) => {
  it('takes each name from who changed it, and is a conflict where both changed it and not alike', () => {
    fc.assert(
      fc.property(values, values, values, (b, o, t) => {
        const [base, ours, theirs] = [b, o, t].map((one) => new Map(Object.entries(one))) as [
          Map<string, string>,
          Map<string, string>,
          Map<string, string>,
        ];
        const merged = merge(write(base), write(ours), write(theirs), nothing)!;
        const both = names.filter(
          (name) =>
            ours.get(name) !== base.get(name) &&
            theirs.get(name) !== base.get(name) &&
            ours.get(name) !== theirs.get(name),
        );
        const nameIn = ({ path }: Difference): string | undefined => /n\d/.exec(path.join(' '))?.[0];
        expect(new Set(conflictsOf(merged).map(nameIn))).toEqual(new Set(both));
        if (both.length > 0) expect(merged.merged).toBeUndefined();
        for (const side of ['ours', 'theirs'] as const) {
          const decided = merge(write(base), write(ours), write(theirs), () => side)!;
          const wanted = names.flatMap((name): [string, string][] => {
            const isTheirs = both.includes(name) ? side === 'theirs' : ours.get(name) === base.get(name);
            const values = isTheirs ? theirs : ours;
            return values.has(name) ? [[name, values.get(name)!]] : [];
          });
          expect(new Map([...read(decided.merged!)].toSorted())).toEqual(new Map(wanted.toSorted()));
        }
      }),
      { numRuns: cases(150) },
    );
  });

  it('with one side unchanged is the other one byte for byte, and equal changes are none', () => {
    fc.assert(
      fc.property(values, values, (b, o) => {
        const [base, other] = [write(new Map(Object.entries(b))), `${write(new Map(Object.entries(o)))}`];
        for (const [ours, theirs] of [
          [base, other],
          [other, base],
          [other, other],
        ] as const)
          expect(merge(base, ours, theirs, nothing)!.merged).toBe(other);
      }),
    );
  });
});

it('a merge of JSON is what was merged, wherever remarks and commas stand in what is ours', () => {
  const between = fc.constantFrom(
    '',
    ' ',
    '\n',
    '\r\n  ',
    ' // a, b\n',
    ' /* c, d */ ',
    ' /* e\n */',
    ' // f /* g\n',
    ' // h\r\n',
  );
  const remarked = fc.tuple(values, fc.array(between, { minLength: 26, maxLength: 26 })).map(([own, remarks]) => {
    const left = [...remarks];
    const next = (): string => left.pop()!;
    const members = Object.entries(own).map(([name, v]) => `${next()}"${name}"${next()}:${next()}"${v}"${next()}`);
    return [own, `{${members.join(',')}${next()}}`] as const;
  });
  fc.assert(
    fc.property(values, remarked, values, (base, [ours, text], theirs) => {
      const { merged } = mergeJson(JSON.stringify(base), text, JSON.stringify(theirs), () => 'ours')!;
      const wanted = names.flatMap((name) => {
        const value = ours[name] === base[name] ? theirs[name] : ours[name];
        return value === undefined ? [] : [[name, value]];
      });
      const errors: ParseError[] = [];
      expect([parse(merged!, errors, { allowTrailingComma: true }), errors]).toEqual([Object.fromEntries(wanted), []]);
    }),
    { numRuns: cases(300) },
  );
});

// Whoever looks for the end of each anew would need the square of their number.
it.each([
  ['a remark of half a million strokes', `// ${'/'.repeat(500_000)}`],
  ['a remark that opens half a million others', `// ${'/*'.repeat(500_000)}`],
  ['half a million remarks', '/**/'.repeat(500_000)],
])('a merge of JSON is made whatever its remarks are: %s', (_, remark) => {
  const ours = `{"a": 9 ${remark}\n, "b": 1}`;
  const { merged } = mergeJson('{"a":1,"b":1}', ours, '{"a":1,"b":1,"c":1}', nothing)!;
  expect(merged).toBe(`{"a": 9, ${remark}\n "b": 1, "c":1}`);
});

describe('the form of what is ours', () => {
  it.each<[string, Merging, string, string, string, string]>([
    [
      'INI: remarks, blanks and ends of lines',
      mergeIni,
      '[a]\nx=1\ny=2\n[b]\nz=3\n',
      '; tuned\r\n[a]\r\n  x   =  9\r\ny=2\r\n\r\n[b]\r\nz=3\r\n',
      '[a]\nx=1\ny=5\nnew=7\n[b]\nz=3\n[c]\nw=1\n',
      '; tuned\r\n[a]\r\n  x   =  9\r\ny=5\r\nnew=7\r\n\r\n[b]\r\nz=3\r\n[c]\r\nw=1\r\n',
    ],
    [
      'CSV: quotes, another order of rows, a column that was added',
      mergeCsv,
      'id,name,fare\na,Ferry,1\nb,Tug,2\nc,Barge,3\n',
      'id,name,fare\nc,"Barge, old",3\na,"Ferry",9\nb,Tug,2\n',
      'id,name,fare,crew\na,Ferry,1,4\nb,Tug,7,2\nc,Barge,3,1\nd,Skiff,1,1\n',
      'id,name,fare,crew\nc,"Barge, old",3,1\nd,Skiff,1,1\na,"Ferry",9,4\nb,Tug,7,2\n',
    ],
    [
      'CSV: quotes in quotes, with the sign that parts cells behind them',
      mergeCsv,
      'id,name,fare\na,Ferry,1\nb,Tug,2\n',
      'id,name,fare\na,"Fer""ry",1\nb,"Tug""2,old",2\n',
      'id,name,fare\na,Ferry,4\nb,Tug,7\n',
      'id,name,fare\na,"Fer""ry",4\nb,"Tug""2,old",7\n',
    ],
    [
      'JSON: commas in remarks before the one that counts',
      mergeJson,
      '{"a": 1, "b": 2, "c": 3}',
      '{\n  "a": 9 // was 1, once\n  , "b": 2 /* so, so */, "c": 3 // last, as ever\n}\n',
      '{"a": 1, "b": 2, "c": 3, "d": 4}',
      '{\n  "a": 9, // was 1, once\n   "b": 2, /* so, so */ "c": 3, // last, as ever\n "d": 4\n}\n',
    ],
    [
      'JSON: a remark whose line ends with a member that goes',
      mergeJson,
      '{"a": 1, "b": 2}',
      '{"a": 9, // was 1\r\n "b": 2}',
      '{"a": 1}',
      '{"a": 9 // was 1\r\n}',
    ],
    [
      'JSON: remarks, layout, and every digit',
      mergeJson,
      '{"a": 1, "b": {"c": 12345678901234567890}, "list": [1, 2]}',
      '{\n  // tuned\n  "a": 5,\n  "b": { "c": 12345678901234567890 },\n  "list": [1, 9]\n}\n',
      '{"a": 1, "b": {"c": 12345678901234567891, "d": 1e400}, "list": [7, 2]}',
      '{\n  // tuned\n  "a": 5,\n  "b": { "c": 12345678901234567891, "d": 1e400 },\n  "list": [7, 9]\n}\n',
    ],
  ])('stays: %s', (_, merge, base, ours, theirs, expected) =>
    expect(merge(base, ours, theirs, nothing)!.merged).toBe(expected),
  );

  it.each<[string, Merging, string, string, string]>([
    [
      'a row that one side removed and the other changed',
      mergeCsv,
      'id,v\na,1\nb,1\n',
      'id,v\nb,1\n',
      'id,v\na,2\nb,1\n',
    ],
    ['a column likewise', mergeCsv, 'id,v,w\na,1,1\n', 'id,v\na,1\n', 'id,v,w\na,1,2\n'],
    ['a list that both made longer', mergeJson, '[1]', '[1,2]', '[1,3]'],
    ['an object that one side removed', mergeJson, '{"a":{"b":1},"c":1}', '{"c":1}', '{"a":{"b":2},"c":1}'],
    ['a name twice, its second value', mergeIni, '[a]\nx=1\nx=2\n', '[a]\nx=1\nx=3\n', '[a]\nx=1\nx=4\n'],
  ])('has a conflict: %s', (_, merge, base, ours, theirs) => {
    const merged = merge(base, ours, theirs, nothing)!;
    expect([merged.merged, conflictsOf(merged).length]).toEqual([undefined, 1]);
  });

  it.each<[string, Merging, string]>([
    ['a table with a row that is too short', mergeCsv, 'id,v\na\n'],
    ['a table without a column of its own for each row', mergeCsv, 'id,v\na,1\na,1\n'],
    ['a quote that is not closed', mergeCsv, 'id,v\na,"1\n'],
    ['heads that are alike', mergeCsv, 'id,id\na,1\n'],
    ['what is no JSON', mergeJson, '{"a":'],
    ['a key twice', mergeJson, '{"a":1,"a":2}'],
    ['lists in lists without end', mergeJson, '['.repeat(100_000)],
    ['lists in lists beyond all measure', mergeJson, '['.repeat(50_000) + ']'.repeat(50_000)],
    ['what is no XML', mergeXml, '<a><b></a>'],
    ['XML that does not end', mergeXml, '<a>'.repeat(10_000)],
  ])('is not looked for in what cannot be told apart: %s', (_, merge, text) =>
    expect(merge(text, `${text} `, ` ${text}`, nothing)).toBeUndefined(),
  );
});

describe('where lines conflict though nothing was changed twice', () => {
  const values = Array.from({ length: 40 }, (_, i) => i * 3);
  /** Documents of the same values, so written that neighbours share lines or lie beside each other. */
  const written: Readonly<Record<string, (some: readonly number[]) => string>> = {
    'a.csv': (some) =>
      ['id,a,b', ...some.flatMap((v, i) => (i % 2 ? [] : [`r${i},${v},${some[i + 1]}`])), ''].join('\n'),
    'a.json': (some) => `{\n${some.map((v, i) => `  "k${i}": ${v}`).join(',\n')}\n}\n`,
    'a.ini': (some) => `[all]\n${some.map((v, i) => `k${i} = ${v}\n`).join('')}`,
    'a.xml': (some) => `<all>\n${some.map((v, i) => `  <item id="k${i}" width="${v}"/>\n`).join('')}</all>\n`,
  };

  it.each(Object.entries(written))('%s is merged cleanly, and right', (path, write) => {
    let inLines = 0;
    fc.assert(
      fc.property(fc.array(fc.constantFrom('ours', 'theirs', 'none'), { minLength: 40, maxLength: 40 }), (who) => {
        const side = (...some: readonly string[]): string =>
          write(values.map((v, i) => (some.includes(who[i]!) ? v + 1000 : v)));
        const [base, ours, theirs] = [write(values), side('ours'), side('theirs')];
        if (mergeText(base, ours, theirs).merged === undefined) inLines += 1;
        expect(mergeFile([base, ours, theirs], { path }, () => undefined)!.merged).toBe(side('ours', 'theirs'));
      }),
    );
    expect(inLines).toBeGreaterThan(50);
  });
});

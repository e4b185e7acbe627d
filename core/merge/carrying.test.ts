import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decideBy, type Difference, jsonPatch, type JsonPatchStep, mergeCsv, shifted, summaryOf, unifiedDiff } from '.';
import { cases } from '../testing/cases';

describe('decisions', () => {
  it.each([
    ['22.00', '26.50', '23.00', '27.50'],
    ['1', '3', '10', '12'],
    ['0.1', '0.3', '0.2', '0.4'],
    ['5', '1', '2', '-2'],
    ['1', '1.25', '2', '2.25'],
    ['99999999999999999999', '99999999999999999998', '5', '4'],
    ['a', '1', '2', undefined],
    [undefined, '1', '2', undefined],
  ])('keep the change from %s to %s where theirs is %s', (base, ours, theirs, value) =>
    expect(shifted({ base, ours, theirs })).toBe(value),
  );

  const at = (path: readonly string[], base: string, ours: string, theirs: string): Difference => ({
    ...{ path, what: 'cell', base, ours, theirs, by: 'conflict' },
  });

  it('count again where the same values meet, and rules for what is called the same', () => {
    const conflict = at(['tug', 'fare'], '31.00', '34.00', '33.50');
    const decided = [{ ...conflict, file: 'a', choice: 'theirs' as const }];
    const rules = [{ file: 'a', name: 'fare', choice: 'shift' as const }];
    const decide = decideBy('a', decided, rules);
    expect(decide(conflict)).toBe('theirs');
    expect(decide(at(['tug', 'fare'], '31.00', '34.00', '35.00'))).toEqual({ value: '38.00' });
    expect(decide(at(['tug', 'crew'], '3', '4', '5'))).toBeUndefined();
    expect(decide(at(['tug', 'fare'], 'x', 'y', 'z'))).toBeUndefined();
    expect(decideBy('b', decided, rules)(conflict)).toBeUndefined();
  });
});

it('what a side did is told by column, with how much numbers rose', () => {
  const base = 'id,name,fare\na,Ferry,10\nb,Tug,20\nc,Barge,30\n';
  const ours = 'id,name,fare\na,Ferry,12\nb,Tug,24.5\nc,Old barge,30\nd,Punt,3\n';
  const { differences } = mergeCsv(base, ours, base.replace('Tug,20', 'Tug,19'), () => undefined)!;
  expect(summaryOf(differences, 'ours')).toEqual([
    { did: 'raised', what: 'cell', name: 'fare', count: 2, by: [2, 4.5], first: 'a' },
    { did: 'changed', what: 'cell', name: 'name', count: 1, first: 'c' },
    { did: 'added', what: 'row', name: undefined, count: 1, first: 'd' },
  ]);
  expect(summaryOf(differences, 'theirs')).toEqual([
    { did: 'lowered', what: 'cell', name: 'fare', count: 1, by: [1, 1], first: 'b' },
  ]);
});

describe('what is given on', () => {
  it('as a unified diff is what patch makes the one of the other by', () => {
    const work = mkdtempSync(join(tmpdir(), 'regressum-diff-'));
    const file = join(work, 'file');
    const lines = (count: number): string => Array.from({ length: count }, (_, i) => `${i}\n`).join('');
    const text = fc.array(fc.constantFrom('a\n', 'b\n', 'c\n', '\n', 'd\n'), { maxLength: 40 });
    const ended = fc.tuple(text, fc.constantFrom('', 'no end')).map(([lines, last]) => lines.join('') + last);
    fc.assert(
      fc.property(ended, ended, (before, after) => {
        const diff = unifiedDiff('file', before, after);
        writeFileSync(file, before);
        if (diff !== '')
          execFileSync(
            'git',
            ['apply', '--whitespace=nowarn', '--unsafe-paths', '--unidiff-zero', `--directory=${work}`, '-'],
            {
              cwd: work,
              input: diff,
            },
          );
        expect(readFileSync(file, 'utf8')).toBe(after);
      }),
      {
        numRuns: cases(8),
        examples: [
          ['a\nb\n', 'a\nb\n'],
          ['', 'a\n'],
          // Far from the beginning, from the end and from one another.
          [lines(30), lines(30).replace('7\n', '7\nx\n').replace('20\n21\n', '')],
        ],
      },
    );
    rmSync(work, { recursive: true });
  });

  /** RFC 6902, read by the letter. */
  function applied(value: unknown, steps: readonly JsonPatchStep[]): unknown {
    const root = { '': structuredClone(value) } as Record<string, unknown>;
    for (const step of steps) {
      const names = step.path.split('/').map((name) => name.replaceAll('~1', '/').replaceAll('~0', '~'));
      let parent = root as Record<string, unknown>;
      for (const name of names.slice(0, -1)) parent = parent[name] as Record<string, unknown>;
      if (step.op === 'remove') delete parent[names.at(-1)!];
      else
        Object.defineProperty(parent, names.at(-1)!, {
          value: step.value,
          enumerable: true,
          configurable: true,
          writable: true,
        });
    }
    return root[''];
  }

  it('as a JSON patch goes into objects and into lists of equal length, and replaces others', () => {
    const before = { list: [1, { a: 'x' }, 3], other: [1], gone: 0, 'a/b~c': 1 };
    const after = { list: [1, { a: 'y', b: 2 }, 4], other: [1, 2], 'a/b~c': null };
    expect(jsonPatch(before, after)).toEqual([
      { op: 'remove', path: '/gone' },
      { op: 'replace', path: '/list/1/a', value: 'y' },
      { op: 'add', path: '/list/1/b', value: 2 },
      { op: 'replace', path: '/list/2', value: 4 },
      { op: 'replace', path: '/other', value: [1, 2] },
      { op: 'replace', path: '/a~1b~0c', value: null },
    ]);
  });

  it('as a JSON patch is what makes the one of the other', () => {
    const value = fc.jsonValue({ maxDepth: 3 }).filter((one) => !JSON.stringify(one).includes('__proto__'));
    fc.assert(
      fc.property(value, value, (before, after) => {
        expect(JSON.stringify(applied(before, jsonPatch(before, after)), sorted)).toBe(JSON.stringify(after, sorted));
      }),
    );
  });

  const sorted = (_: string, value: unknown): unknown =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).toSorted(([a], [b]) => (a < b ? -1 : 1)))
      : value;
});

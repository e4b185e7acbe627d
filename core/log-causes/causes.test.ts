import { describe, expect, it } from 'vitest';
import type { LogCause } from '#core/builds';
import { causesIn, type KnownToLog, LineCutter } from '.';

const mod = (id: string, name: string, ...more: string[]) => ({
  ...{ id, name },
  paths: [`grafts/${id}/${id}.graft`, `grafts/${id}/info.json`, ...more.map((path) => `grafts/${id}/${path}`)],
});
const KNOWN: KnownToLog = {
  mods: [
    mod('trellis', 'Trellis', 'trellis.lib'),
    mod('damson', 'Damson jam', 'scripts/boil.lua'),
    mod('quince', 'Quince', 'tables/trees.csv'),
    mod('quince-tree', 'Quince tree'),
    mod('medlar', 'Medlar'),
  ],
  absent: [mod('pectin', 'Pectin')],
  program: 'bin/orchard.prog',
  loader: 'trellis',
  isVanilla: (path) => ['data/trees.bin', 'data/all trees.bin'].includes(path),
};

const started = '12:00:01 [Trellis] grafting host 2.0 starts\n';
const findingsOf = (line: string) =>
  causesIn(`${started}12:00:02 loading\n${line}\n12:00:03 done\n`, KNOWN).findings.map(
    ({ cause, mod: id, other, path, line: at }) => [cause, id, other, path, at],
  );

/** What logs say of one thing, in the words of many. */
const SAID: readonly (readonly [
  LogCause,
  string | undefined,
  string | undefined,
  string | undefined,
  readonly string[],
])[] = [
  [
    ...(['requirement-missing', 'damson', 'pectin', undefined] as const),
    [
      'ERROR: Damson jam requires Pectin, which is not installed',
      '[warn] damson: missing dependency pectin',
      'Skipping "Damson jam": unmet requirement "Pectin" (any)',
      'damson depends on pectin >= 1.0',
      'Cannot enable Damson jam because it needs Pectin',
      'Damson jam: dependency Pectin not satisfied',
    ],
  ],
  [
    ...(['wrong-version', 'medlar', undefined, undefined] as const),
    [
      'Medlar: version mismatch, expected 4, found 3',
      'medlar is not compatible with this game',
      'WARN medlar was built for harvest 1, but this is harvest 2',
      'Incompatible plugin version: medlar 3',
      '[medlar] unsupported api version 7',
    ],
  ],
  [
    ...(['program-unknown', 'trellis', undefined, 'bin/orchard.prog'] as const),
    [
      'unknown program bin/orchard.prog',
      'checksum of orchard.prog is not recognised: 5d3e90c1',
      'Unsupported executable: C:\\Games\\Orchard\\bin\\orchard.prog',
    ],
  ],
  [
    ...(['file-missing', 'quince', undefined, 'grafts/quince/tables/trees.csv'] as const),
    [
      'Could not open grafts/quince/tables/trees.csv',
      'failed to load "grafts\\quince\\tables\\trees.csv"',
      '/home/me/orchard/grafts/quince/tables/trees.csv: no such file or directory',
      'File not found: grafts/quince/tables/trees.csv',
    ],
  ],
  [
    ...(['file-missing', undefined, undefined, 'data/trees.bin'] as const),
    ['cannot open data/trees.bin', 'data/trees.bin is missing', 'Unable to read ./data/trees.bin (2)'],
  ],
  [
    ...(['file-twice', 'damson', 'medlar', undefined] as const),
    [
      'Duplicate id "jar" in damson and medlar',
      'Damson jam: recipe jar already registered by Medlar',
      'damson conflicts with medlar',
    ],
  ],
  [
    ...(['error-in-mod', 'damson', undefined, 'grafts/damson/scripts/boil.lua'] as const),
    [
      'grafts/damson/scripts/boil.lua:31: attempt to index a nil value (error)',
      'Exception in grafts\\damson\\scripts\\boil.lua line 31',
      'error: [string "grafts/damson/scripts/boil.lua"]: 31: undefined variable',
    ],
  ],
  [
    ...(['list-empty', undefined, undefined, undefined] as const),
    ['No mods to load', '0 plugins found', 'the load order is empty', 'No scripts are enabled'],
  ],
];

describe('a line of a log', () => {
  const cases = SAID.flatMap(([cause, id, other, path, lines]) =>
    lines.map((line) => [line, cause, id, other, path] as const),
  );

  it.each(cases)('%s', (line, cause, id, other, path) =>
    expect(findingsOf(line)).toEqual([[cause, id, other, path, 3]]),
  );

  it.each([
    '12:00:05 Damson jam loaded',
    '12:00:05 all requirements of Damson jam are satisfied',
    '12:00:05 Medlar: 0 errors, 0 conflicts',
    'quince: retry succeeded after an error',
    'autosave written to profile/saves/one.sav',
    'an error of somebody else: socket closed',
    'grafts/pectin: no info.json in this folder, passed over',
    'requires restart to apply the display mode',
    'texture streaming version 4',
    'loading grafts/damson/scripts/boil.lua',
  ])('that tells of nothing wrong with a mod is no finding: %s', (line) => expect(findingsOf(line)).toEqual([]));

  it('names the mod whose whole name it has', () => {
    expect(findingsOf('Quince tree: version mismatch')).toEqual([
      ['wrong-version', 'quince-tree', undefined, undefined, 3],
    ]);
    expect(findingsOf('quinces: version mismatch')).toEqual([]);
  });
});

describe('a log', () => {
  it('in which the loader never speaks has none', () => {
    expect(causesIn('the game starts\nthe game ends\n', KNOWN).findings).toMatchObject([
      { cause: 'loader-absent', mod: 'trellis' },
    ]);
  });

  it('tells each thing once, with how often it was said', () => {
    const { findings, lines } = causesIn(started + 'medlar: version mismatch\n'.repeat(1000), KNOWN);
    expect(findings).toMatchObject([{ cause: 'wrong-version', line: 2, count: 1000 }]);
    expect(lines).toBe(1001);
  });

  it('in which nothing is recognised shows what the last good one has not', () => {
    const good = `${started}12:00:02 sowing 14 trees\n12:00:04 title\n`;
    const bad = '12:30:01 [Trellis] grafting host 2.0 starts\n12:30:02 sowing 9 trees\n12:30:02 the soil is strange\n';
    expect(causesIn(bad, KNOWN, good)).toMatchObject({
      findings: [],
      unusual: [{ line: 3, text: '12:30:02 the soil is strange' }],
    });
  });

  it('of endless lines, of no lines, or of bytes at random takes time by its length and no more memory than a line', () => {
    const endless = `error ${'missing dependency version '.repeat(400_000)}`;
    expect(causesIn(started + endless, KNOWN).lines).toBe(2);
    expect(causesIn('', KNOWN)).toEqual({ findings: [], lines: 0, unusual: [] });
    const slashes = `missing ${'a/'.repeat(1000)}\n`.repeat(20_000);
    expect(causesIn(started + slashes + `error ${'x.'.repeat(900)}\n`.repeat(20_000), KNOWN).findings).toEqual([]);
    const noise = Array.from({ length: 200_000 }, (_, i) => String.fromCharCode((i * 7919) % 65_000)).join('');
    expect(causesIn(started + noise, KNOWN).findings).toEqual([]);
  });
});

describe('lines in the words of a game', () => {
  const ruled: KnownToLog = {
    ...KNOWN,
    rules: [
      { cause: 'requirement-missing', line: '^E17 (?P<mod>.+) <- (?P<other>.+)$' },
      { cause: 'file-missing', line: 'ENOTHERE (?P<file>\\S+)' },
      { cause: 'list-empty', line: '^E03$' },
    ],
    failed: '^-- (.*) left out',
  };

  it.each([
    ['E17 Damson jam <- Pectin', ['requirement-missing', 'damson', 'pectin', undefined]],
    ['E17 somebody <- nobody', ['requirement-missing', undefined, undefined, undefined]],
    ['ENOTHERE quince/tables/trees.csv', ['file-missing', 'quince', undefined, 'grafts/quince/tables/trees.csv']],
    ['E03', ['list-empty', undefined, undefined, undefined]],
    ['-- Medlar left out', ['error-in-mod', 'medlar', undefined, undefined]],
    ['-- Medlar left out: version mismatch', ['wrong-version', 'medlar', undefined, undefined]],
    ['medlar: version mismatch', ['wrong-version', 'medlar', undefined, undefined]],
  ])('tell what they tell: %s', (line, told) => {
    const { findings } = causesIn(`${started}${line}\n`, ruled);
    expect(findings.map(({ cause, mod: id, other, path }) => [cause, id, other, path])).toEqual([told]);
  });

  it('are looked for as long as that takes its time, and the rest is read by what is common', () => {
    let clock = 0;
    const time = { now: () => (clock += 1), most: 4 };
    const log = `${started}${'E03\n'.repeat(20)}medlar: version mismatch\n`;
    const { findings, ruledUntil } = causesIn(log, ruled, undefined, time);
    expect(findings.map(({ cause, count }) => [cause, count])).toEqual([
      ['list-empty', 3],
      ['wrong-version', 1],
    ]);
    expect(ruledUntil).toBe(4);
  });
});

describe('a text that comes in pieces', () => {
  const cut = (...pieces: string[]): string[] => {
    const lines: string[] = [];
    const cutter = new LineCutter((line) => lines.push(line));
    for (const piece of pieces) cutter.add(piece);
    cutter.end();
    return lines;
  };

  it('is the same lines wherever it is cut, without the ends that some systems have', () => {
    const text = 'one\r\ntwo\n\nthree\r';
    const whole = cut(text);
    expect(whole).toEqual(['one', 'two', '', 'three\r']);
    for (let at = 0; at <= text.length; at++) expect(cut(text.slice(0, at), text.slice(at))).toEqual(whole);
  });

  it('has of a line that is too long the beginning alone, and nothing of it in the next', () => {
    const long = 'x'.repeat(5000);
    expect(cut(`${long}\nshort\n`).map(({ length }) => length)).toEqual([2000, 5]);
    const [first, second] = cut(long, long, '\nshort');
    expect([first!.length < 4001, second]).toEqual([true, 'short']);
  });
});

import { describe, expect, it } from 'vitest';
import { asBuild, asDepot, type BuildLabel, type Depot } from '#core/builds';
import { type Manifest, manifestFromFiles, overlay } from '#core/manifest';
import { digest, keyOf } from '../testing/digest';
import { identifyDepots } from './identify';
import { mixedCases } from './mixed-cases';

const [OLD, NEW] = [asBuild('1.9'), asBuild('1.10')];
const depot = (id: string, order: number, kind: Depot['kind']): Depot => ({
  id: asDepot(id),
  title: id,
  kind,
  order,
  orderMatters: false,
});
const DEPOTS = [
  depot('core', 1, 'core'),
  depot('fixes', 2, 'core'),
  depot('program', 3, 'program'),
  depot('voices-en', 4, 'language'),
  depot('ice', 5, 'add-on'),
];

type Files = Record<string, string>;

const manifest = (build: BuildLabel, id: string, files: Files): Manifest =>
  manifestFromFiles(
    build,
    asDepot(id),
    Object.entries(files).map(([path, text]) => ({
      path,
      size: text.length,
      sha256: digest(text),
      pieces: [digest(text)],
    })),
  );

const manifestsAt = (build: BuildLabel): Manifest[] => [
  manifest(build, 'core', { a: `a ${build}`, b: 'b', locks: 'locks as they were' }),
  manifest(build, 'fixes', { locks: 'locks mended' }),
  manifest(build, 'program', { prog: `prog ${build}` }),
  manifest(build, 'voices-en', { 'voices/1': 'hello', 'voices/2': 'bye' }),
  manifest(build, 'ice', { b: 'b frozen', 'ice/1': 'cold', 'ice/2': 'colder' }),
];
const GERMAN = manifest(NEW, 'voices-de', { 'voices/1': 'hallo', 'voices/2': 'ade' });
const whole: Files = {
  ...{ a: 'a 1.10', b: 'b frozen', locks: 'locks mended', prog: 'prog 1.10' },
  ...{ 'voices/1': 'hello', 'voices/2': 'bye', 'ice/1': 'cold', 'ice/2': 'colder' },
};

function casesOf(folder: Files) {
  const found = Object.entries(folder).map(([path, text]) => ({ path, size: text.length, key: keyOf(text) }));
  const trees = new Map([OLD, NEW].map((build) => [build, overlay(manifestsAt(build))]));
  return mixedCases({
    depots: DEPOTS,
    identities: identifyDepots(DEPOTS, trees, found),
    builds: [OLD, NEW],
    found,
    manifests: manifestsAt(NEW),
    otherLanguages: [GERMAN],
  });
}

const without = (...paths: string[]): Files =>
  Object.fromEntries(Object.entries(whole).filter(([path]) => !paths.includes(path)));

describe('a folder that is a mixture', () => {
  it.each<[string, Files, object[]]>([
    ['is none when it is whole', whole, []],
    ['is none for strays and altered files', { ...whole, b: 'mine', stray: 'x' }, []],
    [
      'has data of one build under the program of another',
      { ...whole, prog: 'prog 1.9' },
      [{ kind: 'program-apart', program: OLD, data: NEW }],
    ],
    [
      'has depots laid the wrong way round',
      { ...whole, locks: 'locks as they were' },
      [{ kind: 'wrong-way-round', lower: 'core', upper: 'fixes', files: 1 }],
    ],
    [
      'has another language',
      { ...whole, 'voices/1': 'hallo', 'voices/2': 'ade' },
      [{ kind: 'other-language', wanted: 'voices-en', instead: 'voices-de', files: 2 }],
    ],
    [
      'lacks an add-on, and has what that would cover',
      { ...without('ice/1', 'ice/2'), b: 'b' },
      [{ kind: 'not-there', depot: 'ice' }],
    ],
    ['lacks the program', without('prog'), [{ kind: 'not-there', depot: 'program' }]],
    [
      'has a depot that was copied in part',
      without('ice/1', 'voices/2'),
      [
        { kind: 'half-copied', depot: 'voices-en', absent: 1, total: 2 },
        { kind: 'half-copied', depot: 'ice', absent: 1, total: 3 },
      ],
    ],
    ['is none when it is empty', {}, []],
  ])('%s', (_, folder, cases) => {
    expect(casesOf(folder)).toEqual(cases);
  });
});

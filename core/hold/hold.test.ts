import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { asBuild, type DepotIndex, DepotIndexSchema, type Ownership } from '#core/builds';
import { contentKey } from '#core/digest';
import { targetTree } from '#core/fetch';
import { manifestBytes, manifestFromFiles, overlay } from '#core/manifest';
import { digest, sha256 } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import { jsonSchemas } from '../../scripts/schemas';
import {
  checkClaims,
  checkNames,
  checkRest,
  checkStatement,
  drift,
  type HoldSheet,
  isOnlyLacking,
  looseMeans,
  type Mismatch,
  parseHoldSheet,
  restOfSheet,
  sheetFacts,
  writeHoldSheet,
} from './index';

const RULES = {
  program: 'p',
  loader: 'l',
  modsFolder: 'mods',
  loadOrder: 'mods/list',
  own: [{ folder: 'saves', kind: 'saves' as const }],
};
const DEPOTS = { core: ['a', 'b'], program: ['p'], 'voices-en': ['v'], 'voices-de': ['v'], 'salt-coast': ['s'] };
const manifestOf = (depot: string) =>
  manifestFromFiles(
    asBuild('2.9.4'),
    depot as never,
    DEPOTS[depot as keyof typeof DEPOTS].map((path) => {
      const sha = digest(`${depot} ${path}`);
      return { path, size: 10, sha256: sha, pieces: [sha] };
    }),
  );
const language = (depot: string) => (depot.startsWith('voices-') ? { language: depot.slice(-2) } : {});
const KINDS: Record<string, string> = { core: 'core', program: 'program', 'salt-coast': 'add-on' };
const index: DepotIndex = DepotIndexSchema.parse({
  format: 'regressum-depot-index',
  version: 1,
  game: { id: 'ferrywake', title: 'Ferrywake', rules: RULES },
  builds: [{ label: '2.9.4', date: '2025-11-30' }],
  branches: [],
  depots: Object.keys(DEPOTS).map((id, i) => ({
    ...{ id, title: id, kind: KINDS[id] ?? 'language', order: i + 1, orderMatters: true },
    ...language(id),
  })),
  manifests: Object.keys(DEPOTS).map((depot) => ({
    ...{ build: '2.9.4', depot, href: `m/${depot}`, filesHref: `f/${depot}/`, sha256: digest(depot) },
    ...{ files: DEPOTS[depot as keyof typeof DEPOTS].length, bytes: manifestBytes(manifestOf(depot)) },
  })),
});
const catalogue = catalogueOf({
  towline: [
    { version: '1.14', files: [{ path: 'mods/t', size: 1, sha256: digest('t'), href: 't' }] },
    { version: '2' },
  ],
  lamp: [{ version: '1', requires: [{ mod: 'towline' }] }],
});
const OWN: Ownership = { language: 'en', addOns: [], optional: [] };

/** The facts of a sheet, as anybody works them out who has the manifests. */
async function factsOf({ build, ownership, releases }: Pick<HoldSheet, 'build' | 'ownership' | 'releases'>) {
  const subject = { build, ownership, releases: releases.map(({ mod, release }) => [mod, release] as const) };
  const depots = index.depots.filter(
    ({ kind, id, language: of }) =>
      kind === 'core' || kind === 'program' || of === ownership.language || ownership.addOns.includes(id),
  );
  const tree = await targetTree(
    {
      index,
      laid: overlay(depots.map(({ id }) => manifestOf(id))),
      filesHref: new Map(),
      catalogue,
      releases: new Map(subject.releases),
    },
    sha256,
  );
  return sheetFacts(subject, { index, catalogue }, tree, sha256);
}

const [lamp, towline] = [catalogue.mods[1]!.id, catalogue.mods[0]!.id];
const about = {
  build: asBuild('2.9.4'),
  ownership: OWN,
  releases: [
    { mod: towline, name: 'towline', release: '1.14', files: 1 },
    { mod: lamp, name: 'lamp', release: '1', files: 0 },
  ],
};
const sheet: HoldSheet = {
  format: 'regressum-hold-sheet',
  version: 2,
  heldAt: '2026-11-23T00:00:00.000Z',
  game: { id: 'ferrywake', title: 'Ferrywake' },
  build: about.build,
  ownership: OWN,
  ...(await factsOf(about)),
  weights: { [towline]: 'must' },
  means: ['update-setting'],
};
const text = writeHoldSheet(sheet);

/** All that does not fit, as it is asked for: the names first, and the figures only where these are known. */
async function mismatches(changed: HoldSheet): Promise<Mismatch[]> {
  const names = checkNames(changed, { index, catalogue, ownership: OWN });
  return names.length > 0 ? names : checkClaims(changed, await factsOf(changed));
}

it.each([
  [{ setting: false, lock: false }, ['setting']],
  [{ setting: true, lock: false }, []],
  [{}, []],
  [undefined, []],
])('of means that were in effect, those are loose that do not stand: %o', (now, loose) => {
  // Nobody locked the record when it was held: that it can be written is no news.
  expect(looseMeans({ means: ['update-setting'] }, now)).toEqual(loose);
});

describe('what a sheet says of itself', () => {
  const NOW = Date.parse(sheet.heldAt);
  const decision: NonNullable<HoldSheet['decision']> = {
    ...{ at: sheet.heldAt, evidence: 'stated', wanted: 2, running: 1, provenBest: true, rolledBack: [] },
    lost: [{ mod: towline, weight: 'want', why: 'no-release' }],
  };
  const none = { files: 0, digest: digest('') };

  it('is taken at its word where it may be so', async () => {
    const whole = { ...sheet, decision, settings: none };
    expect(await checkStatement(whole, { index }, sha256, NOW)).toEqual([]);
  });

  it.each<[string, Partial<HoldSheet>, Mismatch['claim']]>([
    ['was held in the future', { heldAt: '2099-01-01T00:00:00.000Z' }, 'held-at'],
    ['has settings of no digest', { settings: { ...none, files: 3 } }, 'settings'],
    ['has a digest of no settings', { settings: { files: 0, digest: digest('x') } }, 'settings'],
    ['runs more mods than were wanted', { decision: { ...decision, running: 2 } }, 'decision'],
    ['was decided in the future', { decision: { ...decision, at: '2027-01-01T00:00:00.000Z' } }, 'decision'],
    [
      'was weighed against a build that nobody knows',
      { decision: { ...decision, runnerUp: { build: asBuild('0.0'), running: 1 } } },
      'decision',
    ],
  ])('is refused where it %s', async (_, change, claim) => {
    expect(await checkStatement({ ...sheet, ...change }, { index }, sha256, NOW)).toMatchObject([{ claim }]);
  });
});

describe('a hold sheet', () => {
  it('is read back as it was written, and all that it claims is so', async () => {
    expect(parseHoldSheet(text, 's.json')).toEqual(sheet);
    expect(sheet.files).toBe(6);
    expect(await mismatches(sheet)).toEqual([]);
  });

  it.each([
    ['not JSON', text.replace('{', '{{'), { code: 'json/malformed', facts: { file: 's.json', line: 1 } }],
    ['a later version', text.replace('"version": 2', '"version": 3'), { code: 'hold-sheet/unknown-version' }],
    [
      'a short digest',
      text.replace(sheet.treeDigest, 'abc'),
      { code: 'json/does-not-fit', facts: { field: 'treeDigest' } },
    ],
    ['a field too many', text.replace('"files": 6', '"more": 1,\n  "files": 6'), { code: 'json/does-not-fit' }],
    ['a negative size', text.replace('"bytes": 20', '"bytes": -20'), { code: 'json/does-not-fit' }],
    ['a negative count', text.replace('"files": 6', '"files": -6'), { code: 'json/does-not-fit' }],
  ])('with %s is refused, and the place named', (_what, changed, expected) => {
    expect(changed).not.toBe(text);
    try {
      parseHoldSheet(changed, 's.json');
      expect.unreachable();
    } catch (error) {
      expect(error).toMatchObject(expected);
    }
  });

  const [core, program, voices] = sheet.depots as [
    HoldSheet['depots'][number],
    HoldSheet['depots'][number],
    HoldSheet['depots'][number],
  ];
  const ZERO = '0'.repeat(64);
  const id = (name: string) => name as never;
  it.each<[string, Partial<HoldSheet>, Partial<Mismatch>[]]>([
    ['another game', { game: { id: 'other', title: 'Other' } }, [{ claim: 'game', claimed: 'Other' }]],
    ['an unknown build', { build: asBuild('9.9') }, [{ claim: 'build', claimed: '9.9' }]],
    ['a zeroed tree digest', { treeDigest: ZERO }, [{ claim: 'tree-digest', claimed: ZERO, known: sheet.treeDigest }]],
    [
      'zeroed manifest digests',
      { depots: sheet.depots.map((depot) => ({ ...depot, manifestSha256: ZERO })) },
      ['core', 'program', 'voices-en'].map((of) => ({ claim: 'depot-manifest', of, claimed: ZERO })),
    ],
    [
      'no depots',
      { depots: [] },
      ['core', 'program', 'voices-en'].map((claimed) => ({ claim: 'depot-missing', claimed })),
    ],
    [
      'an unknown depot',
      { depots: [...sheet.depots, { ...core, id: id('sails') }] },
      [{ claim: 'depot-unknown', claimed: 'sails' }],
    ],
    [
      'a depot that does not count',
      { depots: [...sheet.depots, { ...core, id: id('salt-coast') }] },
      [{ claim: 'depot-too-many', claimed: 'salt-coast' }],
    ],
    ['a depot twice', { depots: [...sheet.depots, core] }, [{ claim: 'depot-too-many', claimed: 'core' }]],
    ['depots in another order', { depots: [program, core, voices] }, [{ claim: 'depot-order' }]],
    [
      'wrong sums of a depot',
      { depots: [{ ...core, files: 9, bytes: 9 }, program, voices] },
      [
        { claim: 'depot-files', of: 'core', claimed: 9, known: 2 },
        { claim: 'depot-bytes', of: 'core' },
      ],
    ],
    [
      'wrong sums',
      { files: 9, bytes: 9 },
      [
        { claim: 'files', claimed: 9, known: 6 },
        { claim: 'bytes', claimed: 9 },
      ],
    ],
    [
      'an unknown mod in the weights',
      { weights: { [id('x')]: 'must' } },
      [{ claim: 'mod', of: 'weights', claimed: 'x' }],
    ],
    ['an unknown mod in the order', { loadOrder: [id('x')] }, [{ claim: 'mod', of: 'load order', claimed: 'x' }]],
    [
      'an unknown mod',
      { releases: [{ ...about.releases[0]!, mod: id('x') }] },
      [{ claim: 'mod', of: 'releases', claimed: 'x' }],
    ],
    [
      'an unknown release',
      { releases: [{ ...about.releases[0]!, release: '7' }] },
      [{ claim: 'release', of: 'towline', claimed: '7' }],
    ],
    [
      'two releases of a mod',
      { releases: [...about.releases, { ...about.releases[0]!, release: '2' }] },
      [{ claim: 'release-twice', of: 'towline', claimed: '2' }],
    ],
    [
      'a release with fewer files',
      { releases: [{ ...about.releases[0]!, files: 0 }, about.releases[1]!] },
      [{ claim: 'release-files', of: 'towline', claimed: 0, known: 1 }],
    ],
    [
      'another digest of a release',
      { releases: sheet.releases.map((release, i) => (i === 0 ? { ...release, digest: ZERO } : release)) },
      [{ claim: 'release-digest', of: 'towline', claimed: ZERO, known: sheet.releases[0]!.digest! }],
    ],
    ['a load order of its own', { loadOrder: sheet.loadOrder.toReversed() }, [{ claim: 'load-order' }]],
    ['an unknown language', { ownership: { ...OWN, language: 'xx' } }, [{ claim: 'language', claimed: 'xx' }]],
    [
      'a language that is not owned',
      { ownership: { ...OWN, language: 'de' } },
      [{ claim: 'language-not-owned', claimed: 'de', known: 'en' }],
    ],
    [
      'an add-on that is not owned',
      { ownership: { ...OWN, addOns: [id('salt-coast')] } },
      [{ claim: 'add-on-not-owned', claimed: 'salt-coast' }],
    ],
    ['an add-on that is none', { ownership: { ...OWN, addOns: [id('core')] } }, [{ claim: 'add-on', claimed: 'core' }]],
    [
      'an optional depot that is none',
      { ownership: { ...OWN, optional: [id('core')] } },
      [{ claim: 'optional-depot', claimed: 'core' }],
    ],
    [
      'another release under the digest of this one',
      { releases: [{ ...about.releases[0]!, release: '2', files: 0 }, about.releases[1]!] },
      [{ claim: 'files' }, { claim: 'bytes' }, { claim: 'tree-digest' }],
    ],
  ])('with %s names just that', async (_what, change, expected) => {
    expect(await mismatches({ ...sheet, ...change })).toMatchObject(expected);
  });
});

it('a sheet of version 1, which had no digests of releases, is read and checked still', async () => {
  const releases = sheet.releases.map(({ digest: _, ...release }) => release);
  const old = parseHoldSheet(writeHoldSheet({ ...sheet, version: 1, releases }), 's.json');
  expect(await mismatches(old)).toEqual([]);
});

it('what cannot be had is left out, and the rest still checked', async () => {
  const lacking = {
    ...sheet,
    releases: [...sheet.releases, { mod: 'gone' as never, name: 'Gone', release: '3', files: 2 }],
    loadOrder: [...sheet.loadOrder, 'gone' as never],
  };
  const names = checkNames(lacking, { index, catalogue, ownership: OWN });
  expect(isOnlyLacking(names)).toBe(true);
  const rest = restOfSheet(lacking, { catalogue });
  expect(rest.releases).toEqual(sheet.releases);
  expect(checkRest(rest, await factsOf(rest))).toEqual([]);
  const forged = { ...rest, depots: rest.depots.map((depot) => ({ ...depot, manifestSha256: '0'.repeat(64) })) };
  expect(checkRest(forged, await factsOf(forged)).map(({ claim }) => claim)).toEqual(
    rest.depots.map(() => 'depot-manifest'),
  );
  expect(isOnlyLacking([...names, { claim: 'build', claimed: '9' }])).toBe(false);
  expect(isOnlyLacking([])).toBe(false);
});

it('drift is every departure but the player’s own files', () => {
  const file = (path: string, letter: string) => ({ path, size: 1, key: contentKey(1, [letter.repeat(64)]) });
  const held = [file('a', 'a'), file('b', 'b'), file('c', 'c')];
  const found = [file('a', 'a'), file('b', 'x'), file('new', 'n'), file('saves/1', 's')];
  expect(drift(held, found, RULES).map(({ path, state }) => `${path} ${state}`)).toEqual([
    'b altered',
    'c absent',
    'new stray',
  ]);
});

it('the schemas in docs are what the program reads by', () => {
  for (const [name, schema] of Object.entries(jsonSchemas())) {
    expect(readFileSync(new URL(`../../docs/schemas/${name}`, import.meta.url), 'utf8')).toBe(schema);
  }
});

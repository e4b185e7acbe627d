import { describe, expect, it } from 'vitest';
import { asBuild, asDepot, asMod, DepotIndexSchema, type GameRules } from '#core/builds';
import type { ContentKey } from '#core/digest';
import type { LaidFile } from '#core/manifest';
import { digest, keyOf, sha256 } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import { coveredVanilla, fileHref, targetTree, withOwnSettings, writtenKey } from './index';

const file = (path: string, text: string) => ({ path, size: text.length, sha256: digest(text), href: `/mods/${path}` });
const laid = (path: string, text: string): LaidFile => ({
  path,
  size: text.length,
  key: keyOf(text),
  sha256: digest(text),
  pieces: [digest(text)],
  depot: asDepot('core'),
  covers: [],
});
const index = DepotIndexSchema.parse({
  format: 'regressum-depot-index',
  version: 1,
  game: {
    id: 'g',
    title: 'G',
    rules: { program: 'p', loader: 'l', modsFolder: 'mods', loadOrder: 'mods/order', own: [] },
  },
  builds: [],
  branches: [],
  depots: [],
  manifests: [],
});
const catalogue = catalogueOf({
  horn: [{ version: '1', requires: [{ mod: 'hook' }], files: [file('mods/horn', 'h')] }],
  hook: [{ version: '1', files: [file('hook.dll', 'k')] }],
  clash: [{ version: '1', files: [file('Program', 'c')] }],
  paint: [{ version: '1', files: [file('program', 'paint'), file('mods/x', 'x1')] }],
  varnish: [{ version: '1', requires: [{ mod: 'hook' }], files: [file('program', 'varnish')] }],
});

const tree = (releases: [string, string][], order: string[] = []) =>
  targetTree(
    {
      index,
      laid: [laid('program', 'p'), laid('a b/#1', 'x')],
      filesHref: new Map([[asDepot('core'), `/files/${asBuild('1')}/`]]),
      catalogue,
      releases: new Map(releases.map(([id, version]) => [asMod(id), version])),
      order: order.map(asMod),
    },
    sha256,
  );

it('what a person has set of a mod is wanted as it lies there, over what its release brings', async () => {
  const target = await tree([['paint', '1']]);
  const rules = { own: [{ folder: 'mods/*', kind: 'presets' as const }] };
  const known = { isOfBuild: () => false, switched: new Set<ContentKey>() };
  const found = new Map([
    ['mods/x', keyOf('as I like it')],
    ['program', keyOf('altered')],
  ]);
  const settled = withOwnSettings(target, found, rules, known);
  expect(settled.find(({ path }) => path === 'mods/x')).toMatchObject({
    ...{ key: keyOf('as I like it'), size: 12, asFound: true },
  });
  const others = (files: typeof settled) => files.filter(({ path }) => path !== 'mods/x');
  expect(others(settled)).toEqual(others(target));
  // Where nothing lies, the release's own is a start.
  expect(withOwnSettings(target, new Map(), rules, known)).toBe(target);
  expect(withOwnSettings(target, found, { own: [{ folder: 'mods/*', kind: 'settings' }] }, known)).toBe(target);
});

describe('a file of a depot that a rule names as the player’s', () => {
  const known = {
    isOfBuild: (path: string, key: ContentKey) => key === keyOf('of 1.2'),
    switched: new Set([keyOf('p')]),
  };
  const lies = async (text: string, rules: GameRules) => {
    const settled = withOwnSettings(await tree([]), new Map([['program', keyOf(text)]]), rules, known);
    return settled.find(({ path }) => path === 'program')!.asFound === true;
  };

  it('is the build’s as it comes with any build, and the player’s once they have changed it', async () => {
    const rules = { own: [{ folder: 'program', kind: 'settings' as const }] };
    expect([await lies('p', rules), await lies('of 1.2', rules), await lies('changed', rules)]).toEqual([
      ...[false, false, true],
    ]);
  });

  it('that has the loader’s switch is the build’s but for that value', async () => {
    const loaderSwitch = { file: 'program', form: 'ini', at: 'mods', on: '1' } as const;
    const target = await tree([]);
    const settle = (switched: string) =>
      withOwnSettings(
        target,
        new Map([['program', keyOf('other')]]),
        { own: [], loaderSwitch },
        {
          ...known,
          switched: new Set([keyOf(switched)]),
        },
      );
    expect(settle('p').find(({ path }) => path === 'program')).toMatchObject({ key: keyOf('other'), asFound: true });
    expect(settle('something else in it')).toBe(target);
  });
});

describe('the tree that a target is to become', () => {
  it('is the depots, the releases and the list of what to load, sorted', async () => {
    const files = await tree([
      ['horn', '1'],
      ['hook', '1'],
    ]);
    expect(files.map(({ path, owner }) => [path, owner.kind])).toEqual([
      ['a b/#1', 'depot'],
      ['hook.dll', 'mod'],
      ['mods/horn', 'mod'],
      ['mods/order', 'written'],
      ['program', 'depot'],
    ]);
    expect(files[0]!.href).toBe('/files/1/a%20b/%231');
    const order = files[3]!;
    expect(order.owner).toEqual({ kind: 'written', text: 'hook\nhorn\n' });
    expect(order.key).toBe(keyOf('hook\nhorn\n'));
  });

  it('has no list of what to load where there is nothing to load', async () => {
    expect((await tree([])).map(({ path }) => path)).toEqual(['a b/#1', 'program']);
  });

  it.each<[string, string[], string, string[]]>([
    ['by the catalogue’s order', [], 'varnish', ['depot', 'paint']],
    ['by the order that the person has', ['varnish', 'paint'], 'paint', ['depot', 'varnish']],
  ])('of several copies of a file the last one stays, %s', async (_, order, winner, covered) => {
    const files = await tree(
      [
        ['paint', '1'],
        ['varnish', '1'],
        ['hook', '1'],
      ],
      order,
    );
    const [program, ...more] = files.filter(({ path }) => path === 'program');
    expect(more).toEqual([]);
    const nameOf = ({ owner }: (typeof files)[number]): string => (owner.kind === 'mod' ? owner.mod : owner.kind);
    expect([nameOf(program!), program!.covers!.map(nameOf)]).toEqual([winner, covered]);
    expect(program!.key).toBe(keyOf(winner));
    expect(coveredVanilla(files)).toMatchObject([{ path: 'program', key: keyOf('p') }]);
    expect(files.filter(({ covers }) => covers)).toHaveLength(1);
  });

  it('loads what a mod needs before it, whatever order the person has', async () => {
    const files = await tree(
      [
        ['horn', '1'],
        ['hook', '1'],
      ],
      ['horn', 'nobody', 'hook'],
    );
    expect(files.find(({ path }) => path === 'mods/order')!.owner).toEqual({ kind: 'written', text: 'hook\nhorn\n' });
  });

  it('is refused when a mod would stand over a file of the game by another case', async () => {
    await expect(tree([['clash', '1']])).rejects.toMatchObject({
      code: 'path/collides',
      facts: { path: 'Program', other: 'program' },
    });
  });

  it('is refused when a release is not known', async () => {
    await expect(tree([['horn', '7']])).rejects.toMatchObject({ code: 'target/unknown-release' });
  });
});

it('what is written has the digest of its bytes', async () => {
  expect(await writtenKey('hôok\n', sha256)).toEqual({
    size: 6,
    key: `6:${digest('hôok\n')}`,
    sha256: digest('hôok\n'),
  });
});

it('an address keeps the folders and encodes the rest', () => {
  expect(fileHref('/f/', 'a/b c/d?e')).toBe('/f/a/b%20c/d%3Fe');
});

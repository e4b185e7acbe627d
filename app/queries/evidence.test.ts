import 'fake-indexeddb/auto';
import { expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import { builds, catalogueOf } from '../../core/testing/mods';
import { keyOf } from '../../core/testing/digest';
import { addGame } from '~/store';
import { choosingBy, evidenceOf } from './evidence';
import type { InstallContext } from './install-context';

const [before, after] = builds('1', '2') as [never, never];
const catalogue = catalogueOf({ tow: [{ version: '1', builds: ['1'] }] });

/** What is known where file `a` of the later build has these contents. */
const context = (contents: string): InstallContext => {
  const tree = (text: string) => [{ path: 'a', size: text.length, key: keyOf(text) }];
  return {
    install: { id: 'one', game: 'g' },
    index: { builds: [{ label: before }, { label: after }] },
    catalogue,
    trees: new Map([
      [before, tree('old')],
      [after, tree(contents)],
    ]),
    installed: [],
  } as unknown as InstallContext;
};

it('has a fix that somebody posted step back once its author has a release that is as good', async () => {
  await addGame({ id: 'h', title: 'H', rules: { own: [] }, sources: [] } as never);
  const mods = catalogueOf({
    fix: [
      { version: '1', builds: ['1'] },
      { version: '2', builds: ['2'] },
      { version: 'f', builds: ['2'] },
    ],
  });
  const [mod] = mods.mods;
  const marked = {
    ...mods,
    mods: [
      { ...mod!, releases: mod!.releases.map((one) => (one.version === 'f' ? { ...one, unofficial: 'a post' } : one)) },
    ],
  };
  const here = { ...context('new'), install: { id: 'one', game: 'h' }, catalogue: marked } as unknown as InstallContext;
  const strength = choosingBy(await evidenceOf(here)).evidence(after);
  expect([strength(mod!.id, '2'), strength(mod!.id, 'f')]).toEqual([3, 2]);
  // Where its author says nothing of the build, it counts in full.
  const alone = {
    ...marked,
    mods: [{ ...marked.mods[0]!, releases: marked.mods[0]!.releases.filter(({ version }) => version !== '2') }],
  };
  const without = choosingBy(await evidenceOf({ ...here, catalogue: alone })).evidence(after);
  expect(without(mod!.id, 'f')).toBe(3);
});

it('is worked out anew where the manifests of the same builds say something else, and kept where they do not', async () => {
  const rules = { program: 'p', modsFolder: 'mods', own: [] };
  await addGame({ id: 'g', title: 'G', rules, sources: [] } as never);
  const told = context('new');
  const first = (await evidenceOf(told)).inputAt(asBuild('2'));
  expect(first.impactSince(before).touched).toEqual(new Set(['a']));
  expect((await evidenceOf({ ...told })).inputAt(asBuild('2'))).toBe(first);
  const corrected = (await evidenceOf(context('old'))).inputAt(asBuild('2'));
  expect(corrected.impactSince(before).touched).toEqual(new Set());
});

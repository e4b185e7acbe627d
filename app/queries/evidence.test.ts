import 'fake-indexeddb/auto';
import { expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import { builds, catalogueOf } from '../../core/testing/mods';
import { keyOf } from '../../core/testing/digest';
import { evidenceOf } from './evidence';
import type { InstallContext } from './install-context';

const [before, after] = builds('1', '2') as [never, never];
const catalogue = catalogueOf({ tow: [{ version: '1', builds: ['1'] }] });

/** What is known where file `a` of the later build has these contents. */
const context = (contents: string): InstallContext => {
  const tree = (text: string) => [{ path: 'a', size: text.length, key: keyOf(text) }];
  return {
    install: { id: 'one' },
    index: { builds: [{ label: before }, { label: after }] },
    catalogue,
    trees: new Map([
      [before, tree('old')],
      [after, tree(contents)],
    ]),
  } as unknown as InstallContext;
};

it('is worked out anew where the manifests of the same builds say something else, and kept where they do not', async () => {
  const told = context('new');
  const first = (await evidenceOf(told)).inputAt(asBuild('2'));
  expect(first.impactSince(before).touched).toEqual(new Set(['a']));
  expect((await evidenceOf({ ...told })).inputAt(asBuild('2'))).toBe(first);
  const corrected = (await evidenceOf(context('old'))).inputAt(asBuild('2'));
  expect(corrected.impactSince(before).touched).toEqual(new Set());
});

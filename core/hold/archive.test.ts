import { expect, it } from 'vitest';
import { digest, keyOf, sha256 } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import { type HoldSheet, modFileInArchive, shelfOffer } from './index';
import { releaseDigest } from './facts';

const file = (path: string, text: string, href = '') => ({ path, size: text.length, sha256: digest(text), href });
const ARCHIVED = catalogueOf({
  horn: [{ version: '1', files: [file('mods/horn', 'horn'), file('mods/horn.ini', 'loud')] }],
  hook: [{ version: '2', files: [file('mods/hook', 'hook')] }],
  sail: [{ version: '1', files: [file('mods/sail', 'sail')] }],
  oar: [{ version: '1', files: [file('mods/oar', 'oar')] }],
  keel: [{ version: '1', files: [file('mods/keel', 'keel')] }],
});
const FILES = [
  ...(['horn', 'hook', 'sail', 'oar'] as const).map((id) => [id, `mods/${id}`, id] as const),
  ['horn', 'mods/horn.ini', 'loud'] as const,
].map(([mod, path, text]) => ({ path: modFileInArchive(mod, path), key: keyOf(text) }));

async function sheetOf(...releases: [mod: string, release: string, digest?: string][]): Promise<HoldSheet> {
  const claims = releases.map(async ([mod, release, claimed]) => {
    const { files } = ARCHIVED.mods.find(({ id }) => id === mod)!.releases[0]!;
    return { mod, name: mod, release, files: files.length, digest: claimed ?? (await releaseDigest(files, sha256)) };
  });
  return { releases: await Promise.all(claims) } as unknown as HoldSheet;
}

it('of an archive those releases go on the shelf that the sheet speaks of, that are whole, and that nobody else has', async () => {
  const sheet = await sheetOf(['horn', '1'], ['hook', '2'], ['sail', '1', '0'.repeat(64)], ['keel', '1']);
  const known = catalogueOf({
    hook: [{ version: '2', files: [file('mods/hook', 'hook', '/mods/hook')] }],
    oar: [{ version: '1' }],
  });
  const offer = await shelfOffer({ sheet, catalogue: ARCHIVED, files: FILES }, known, sha256);
  expect(offer.takes.map(({ mod, isNew, files }) => [mod.id, isNew, files.length])).toEqual([['horn', true, 2]]);
  // Its catalogue has it.
  expect(offer.had).toBe(1);
  expect(offer.refused).toEqual([
    { name: 'sail', release: '1', why: 'not-as-claimed' },
    { name: 'oar', release: '1', why: 'not-on-sheet' },
    { name: 'keel', release: '1', why: 'incomplete' },
  ]);
});

it('a release that is known here goes on the shelf where its files are to be had nowhere, and only with the same files', async () => {
  const sheet = await sheetOf(['horn', '1'], ['hook', '2']);
  const known = catalogueOf({
    horn: [{ version: '1', files: [file('mods/horn', 'horn'), file('mods/horn.ini', 'loud')] }],
    hook: [{ version: '2', files: [file('mods/hook', 'another')] }],
  });
  const { takes, refused } = await shelfOffer({ sheet, catalogue: ARCHIVED, files: FILES }, known, sha256);
  expect(takes.map(({ mod, isNew }) => [mod.id, isNew])).toEqual([['horn', false]]);
  expect(refused.find(({ name }) => name === 'hook')?.why).toBe('other-files');
  const altered = FILES.map((one) => ({ ...one, key: keyOf('something else') }));
  const none = await shelfOffer({ sheet, catalogue: ARCHIVED, files: altered }, known, sha256);
  expect(none.takes).toEqual([]);
});

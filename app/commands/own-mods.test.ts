import './testing/told';
import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { asMod, type DepotIndex } from '#core/builds';
import { contentKey, PIECE_SIZE } from '#core/digest';
import { isFailure } from '#core/failure';
import { modById, type Weight } from '#core/mods';
import type { ModTable } from '#core/tables';
import { memoryFolder } from '#core/folders';
import { closeDb } from '~/store/db';
import { addInstall, getInstall } from '~/store/installs';
import { listOwnMods } from '~/store/own-mods';
import type { Install } from '~/store/records';
import { addGame } from '~/store/games';
import { getCatalogue, putTold } from '~/store/told';
import { catalogueOf } from '../../core/testing/mods';
import { readSheetWeights } from '~/queries/reading';
import { forgetOwnMod, takeOverTable, takeOverWritten, wantMods, wantModsOfSheet } from './own-mods';
import { platformSha256 } from '~/remote/sha256';

const folder = memoryFolder();
vi.mock('~/places/source', () => ({ sourceOf: () => Promise.resolve({ reader: folder, root: 'trees/t1' }) }));

const [tow, fog, keel] = ['tow', 'fog', 'keel-noise'].map(asMod) as [never, never, never];
const install: Install = {
  ...{ id: 'a', game: 'g', title: 'A', folder: 'A', place: { kind: 'browser-disk' }, tree: 't1', profile: 'first' },
  ...{ ownership: { language: 'x', addOns: [], optional: [] }, changedAt: 0, arrived: true },
  weights: [[tow, 'must']],
};
const index: DepotIndex = {
  ...{ format: 'regressum-depot-index', version: 1, branches: [], depots: [], manifests: [], builds: [] },
  game: { id: 'g', title: 'G', rules: { program: 'p', loader: 'l', modsFolder: 'mods', loadOrder: 'mods/o', own: [] } },
};

beforeEach(async () => {
  await closeDb();
  vi.stubGlobal('indexedDB', new IDBFactory());
  await addInstall(install);
  await addGame({ ...index.game, sources: [{ kind: 'service', id: 's' }] });
  const catalogue = catalogueOf({ tow: [{ version: '1', builds: ['1'] }] });
  await putTold('g', 's', { index: { value: index }, catalogue: { value: catalogue } });
});

vi.mock('~/queries/client', () => ({
  query: (question: 'readSheetWeights', ...parameters: Parameters<typeof readSheetWeights>) =>
    ({ readSheetWeights })[question](...parameters),
}));

const weights = async (): Promise<Record<string, Weight>> => Object.fromEntries((await getInstall('a')).weights);
const table = (said: Record<string, Weight | undefined>): Pick<ModTable, 'mods' | 'weights'> => ({
  mods: catalogueOf(Object.fromEntries(Object.keys(said).map((id) => [id, [{ version: '1', builds: ['1'] }]]))).mods,
  weights: new Map(Object.entries(said).flatMap(([id, weight]) => (weight ? [[asMod(id), weight]] : []))),
});

describe('mods of one’s own', () => {
  it('are added behind those that are there, of which only the weight changes', async () => {
    await wantMods(
      'a',
      new Map<never, Weight>([
        [fog, 'spare'],
        [tow, 'want'],
      ]),
    );
    expect(await weights()).toEqual({ tow: 'want', fog: 'spare' });
  });

  it('keep their weight where a table says none, and are wanted where they are new', async () => {
    await takeOverTable('a', table({ tow: undefined, fog: undefined, [keel]: 'spare' }), 'mine.csv');
    expect(await weights()).toEqual({ tow: 'must', fog: 'want', 'keel-noise': 'spare' });
    expect((await listOwnMods('g')).map(({ id, from }) => [id, from])).toEqual([
      ['fog', 'mine.csv'],
      ['keel-noise', 'mine.csv'],
      ['tow', 'mine.csv'],
    ]);
  });

  it('are forgotten with their weight, but for those that the catalogue knows', async () => {
    await takeOverTable('a', table({ tow: undefined, fog: undefined }), 'mine.csv');
    await forgetOwnMod('a', fog);
    await forgetOwnMod('a', tow);
    expect(await weights()).toEqual({ tow: 'must' });
    expect(await listOwnMods('g')).toEqual([]);
    expect(modById(await getCatalogue('g'), tow)).toBeDefined();
  });

  it('come with their files, each by its bytes', async () => {
    const small = new TextEncoder().encode('hum');
    const large = new Uint8Array(PIECE_SIZE + 5).fill(7);
    await folder.writeWhole('trees/t1/mods/keel-noise/large', large);
    const pieces = [await platformSha256(large.slice(0, PIECE_SIZE)), await platformSha256(large.slice(PIECE_SIZE))];
    const digest = await platformSha256(small);
    const found = [
      { path: 'mods/keel-noise/small', size: 3, key: contentKey(3, [digest]) },
      { path: 'mods/keel-noise/large', size: large.length, key: contentKey(large.length, pieces) },
    ];
    // It is called otherwise than its folder, by which the game finds it.
    await takeOverWritten(install, table({ 'noise-of-keels': 'must' }), keel, found);
    const [mod] = await listOwnMods('g');
    expect(mod!.id).toBe(keel);
    expect(await weights()).toEqual({ tow: 'must', 'keel-noise': 'must' });
    expect(mod!.releases[0]!.files).toEqual([
      { path: 'mods/keel-noise/small', size: 3, sha256: digest, href: '' },
      { path: 'mods/keel-noise/large', size: large.length, sha256: await platformSha256(large), pieces, href: '' },
    ]);
    expect(modById(await getCatalogue('g'), keel)!.releases[0]!.files).toHaveLength(2);
  });

  it('are not taken over where a file of theirs cannot be read', async () => {
    const gone = {
      path: 'mods/gone/x',
      size: 2 * PIECE_SIZE,
      key: contentKey(
        2 * PIECE_SIZE,
        ['a', 'b'].map((c) => c.repeat(64)),
      ),
    };
    const outcome = await takeOverWritten(install, table({ gone: 'must' }), undefined, [gone]).catch((e: unknown) => e);
    expect(isFailure(outcome, 'folder/not-found')).toBe(true);
    expect(await listOwnMods('g')).toEqual([]);
    expect(await weights()).toEqual({ tow: 'must' });
  });

  it('of a catalogue keep their id, whatever folder they lie in', async () => {
    await takeOverWritten(install, table({ tow: 'spare' }), keel, []);
    expect((await listOwnMods('g')).map(({ id }) => id)).toEqual(['tow']);
    expect(await weights()).toEqual({ tow: 'spare' });
  });

  it('are not taken from a hold sheet that does not fit', async () => {
    const outcome = await wantModsOfSheet('a', '{ "format": "regressum-hold-sheet" }', 's.json').catch(
      (e: unknown) => e,
    );
    expect(isFailure(outcome, 'json/does-not-fit')).toBe(true);
    expect(await weights()).toEqual({ tow: 'must' });
  });
});

import './testing/told';
import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { asBuild, asDepot } from '#core/builds';
import { manifestFromFiles, writeMetalink } from '#core/manifest';
import { platformSha256 } from '~/remote/sha256';
import { kindOfFile } from '~/queries/reading';
import * as telling from '~/queries/telling';
import { closeDb } from '~/store/db';
import { getGame, listGames } from '~/store/games';
import { addInstall } from '~/store/installs';
import { getIndex, getManifest } from '~/store/told';
import {
  addAddress,
  addGameOf,
  duplicateGame,
  exportGame,
  forgetGame,
  handFiles,
  importGame,
  pageOfImported,
} from './games';

vi.mock('~/queries/client', () => ({
  query: (question: 'askFirst', ...parameters: Parameters<typeof telling.askFirst>) =>
    ({ ...telling, kindOfFile })[question](...parameters),
}));

let answers: Record<string, string>;
vi.stubGlobal('fetch', (url: string) =>
  Promise.resolve(
    url in answers
      ? new Response(answers[url])
      : Response.json({ code: 'service/failed', facts: { url, status: 404 } }, { status: 503 }),
  ),
);

const RULES = { own: [] };
const index = (labels: readonly string[]): string =>
  JSON.stringify({
    ...{ format: 'regressum-depot-index', version: 1, branches: [], depots: [], manifests: [] },
    game: { id: 'theirs', title: 'As they call it', rules: RULES },
    builds: labels.map((label) => ({ label, date: '2026-01-31' })),
  });
const file = (name: string, text: string) => ({ name, bytes: new TextEncoder().encode(text) });
const labels = async (id: string): Promise<string[]> => (await getIndex(id)).builds.map(({ label }) => label);

beforeEach(() => {
  closeDb();
  vi.stubGlobal('indexedDB', new IDBFactory());
  answers = { '/from/typed/https/host.invalid/dir/index.json': index(['1', '2']) };
});

describe('a game', () => {
  it('gets an id of its own, made of its title', async () => {
    const ids = [];
    for (const title of ['Glass Orchard', 'Glass, Orchard!', '玻璃', 'é'.repeat(80)])
      ids.push(await addGameOf({ title, rules: RULES }));
    expect(ids).toEqual(['glass-orchard', 'glass-orchard-2', 'game', 'e'.repeat(50)]);
  });

  it('is told of by an address once that has answered with an index, and else is as it was', async () => {
    const id = await addGameOf({ title: 'G', rules: RULES });
    await expect(addAddress(id, 'builds', 'https://host.invalid/none.json')).rejects.toMatchObject({
      code: 'service/failed',
    });
    answers['/from/typed/https/host.invalid/page'] = '<html>';
    await expect(addAddress(id, 'builds', 'https://host.invalid/page')).rejects.toMatchObject({
      code: 'source/not-as-expected',
    });
    expect((await getGame(id)).sources).toEqual([]);
    await addAddress(id, 'builds', ' https://host.invalid/dir/index.json#top ');
    expect(await labels(id)).toEqual(['1', '2']);
    await expect(addAddress(id, 'builds', 'https://host.invalid/dir/index.json')).rejects.toThrow('source/exists');
    await handFiles(id, [file('handed.json', index(['2', '3']))]);
    expect(await labels(id)).toEqual(['1', '2', '3']);
    expect((await getIndex(id)).game.title).toBe('G');
  });

  it('goes out as a file and comes in beside itself, its addresses to be confirmed', async () => {
    const id = await addGameOf({ title: 'G', rules: { modsFolder: 'mods', own: [] } });
    await addAddress(id, 'builds', 'https://host.invalid/dir/index.json');
    const imported = await importGame(JSON.stringify(await exportGame(id)), 'g.json');
    expect(pageOfImported(imported)).toBe(
      `/games/g-2?builds=${encodeURIComponent('https://host.invalid/dir/index.json')}`,
    );
    expect(await getGame('g-2')).toMatchObject({ title: 'G', rules: { modsFolder: 'mods' }, sources: [] });
    await expect(importGame('{"format":"regressum-game"}', 'g.json')).rejects.toMatchObject({
      code: 'json/does-not-fit',
    });
  });

  it('is duplicated with all that is told of it, and then goes its own way', async () => {
    const id = await addGameOf({ title: 'G', rules: { modsFolder: 'mods', own: [] } });
    await handFiles(id, [file('handed.json', index(['1']))]);
    const copy = await duplicateGame(id);
    expect(await getGame(copy)).toMatchObject({ title: 'G, copy', rules: { modsFolder: 'mods' } });
    await handFiles(copy, [file('another.json', index(['2']))]);
    expect([await labels(id), await labels(copy)]).toEqual([['1'], ['1', '2']]);
  });

  it('takes a single manifest for a build', async () => {
    const id = await addGameOf({ title: 'G', rules: RULES });
    const digest = 'a'.repeat(64);
    const files = [{ path: 'x', size: 3, sha256: digest, pieces: [digest] }];
    const text = writeMetalink(manifestFromFiles(asBuild('?'), asDepot('d'), files), (path) => path);
    await handFiles(id, [file('old.meta4', text)]);
    const { manifests, builds } = await getIndex(id);
    expect(builds.map(({ label }) => label)).toEqual(['old']);
    expect((await getManifest(manifests[0]!.sha256))?.paths).toEqual(['x']);
    // The same once more is known already; another one cannot have its label.
    await handFiles(id, [file('old.meta4', text)]);
    expect((await getGame(id)).sources).toHaveLength(1);
    await expect(handFiles(id, [file('old.meta4', `${text}<!-- another -->`)])).rejects.toThrow('source/exists');
    await expect(handFiles(id, [file('bad.meta4', '<metalink xmlns="x"></metalink>')])).rejects.toMatchObject({
      code: 'metalink/malformed',
    });
    expect(await labels(id)).toEqual(['old']);
  });

  it('of an index and its manifests that are handed over together asks nobody, and knows each for what it is', async () => {
    const id = await addGameOf({ title: 'G', rules: RULES });
    const digest = 'b'.repeat(64);
    const files = [{ path: 'y', size: 3, sha256: digest, pieces: [digest] }];
    const text = writeMetalink(manifestFromFiles(asBuild('1'), asDepot('d'), files), (path) => path);
    const entry = { build: '1', depot: 'd', href: 'm/1.meta4', filesHref: 'f/', sha256: await platformSha256(text) };
    const whole = {
      ...(JSON.parse(index(['1'])) as object),
      depots: [{ id: 'd', title: 'D', kind: 'core', order: 1, orderMatters: false }],
      manifests: [{ ...entry, files: 1, bytes: 3 }],
    };
    await handFiles(id, [file('d.meta4', text), file('index.json', JSON.stringify(whole))]);
    const read = await getIndex(id);
    expect(read.builds.map(({ label }) => label)).toEqual(['1']);
    expect(read.manifests).toEqual([expect.objectContaining({ href: '', filesHref: '' })]);
    expect((await getManifest(entry.sha256))?.depot).toBe('d');
    expect((await getGame(id)).sources).toHaveLength(1);
  });

  it('is not removed while a folder of it is here', async () => {
    const id = await addGameOf({ title: 'G', rules: RULES });
    await addInstall({
      ...{ id: 'a', game: id, title: 'A', folder: 'A', place: { kind: 'handed' }, tree: 't1', profile: 'first' },
      ...{ ownership: { language: '', addOns: [], optional: [] }, weights: [], changedAt: 0, arrived: true },
    });
    await expect(forgetGame(id)).rejects.toThrow('job/busy');
    expect(await listGames()).toHaveLength(1);
  });
});

import { createHash } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { asBuild, asDepot, DepotIndexSchema } from '#core/builds';
import { StorefrontAnswerSchema } from '#core/outside';
import { BundleIndexSchema } from '#core/bundles';
import { parseMetalink } from '#core/manifest';
import { writeModList } from '#core/mod-list';
import { loadOrder } from '#core/mods';
import { contentKey } from '#core/digest';
import { releaseAt, modById } from '#core/mods';
import {
  GameAnswerSchema,
  type PanelState,
  PanelStateSchema,
  SeedListSchema,
  SessionAnswerSchema,
} from '#core/outside';
import { chooseAll } from '#core/choose';
import { INSTALLED_RELEASES, PLAYER_OWNERSHIP, PLAYER_WEIGHTS } from '#demo';
import { library } from './library';
import { failureResponse } from '../http/failures';
import { OutsideWorld } from './outside-world';
import { standIns } from './stand-ins';

let visitor = 0;
let cookie = '';
const newVisitor = (): void => {
  cookie = `regressum-world=00000000-0000-4000-8000-${String(++visitor).padStart(12, '0')}`;
};

async function ask(path: string, init: RequestInit = {}): Promise<Response> {
  const [service, ...rest] = path.split('/');
  const request = new Request(`http://127.0.0.1/stand-ins/${path}`, {
    ...init,
    headers: { Cookie: cookie, ...init.headers },
  });
  return standIns(request, service!, rest.join('/')).catch(failureResponse);
}

const post = (path: string, body: unknown): Promise<Response> =>
  ask(path, { method: 'POST', body: JSON.stringify(body) });
const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
const bytesOf = async (response: Response): Promise<Uint8Array> => new Uint8Array(await response.arrayBuffer());
const account = { name: 'ferryhand', passphrase: 'lantern-over-water' };

async function signedIn(more: object = {}): Promise<{ Authorization: string }> {
  await post('depots/session', { ...account, ...more });
  const { oneTimeCode } = PanelStateSchema.parse(await (await ask('panel/state')).json());
  const answer = SessionAnswerSchema.parse(
    await (await post('depots/session', { ...account, ...more, code: oneTimeCode })).json(),
  );
  if (answer.step !== 'signed-in') throw new Error('not signed in');
  return { Authorization: `Bearer ${answer.token}` };
}

beforeAll(() => library.warm());

describe('the depot service', () => {
  const file = 'depots/files/2.9.4/program/bin/ferrywake.prog';

  it('has an index whose manifests have the digests that it tells', async () => {
    newVisitor();
    const index = DepotIndexSchema.parse(await (await ask('depots/index.json')).json());
    const entry = index.manifests.find(({ build, depot }) => build === '2.9.4' && depot === 'core')!;
    const text = await (await ask(entry.href.replace('/stand-ins/', ''))).text();
    expect(sha256(new TextEncoder().encode(text))).toBe(entry.sha256);
    expect(parseMetalink(text, entry.build, entry.depot, entry.href).paths).toHaveLength(entry.files);
  });

  it('wants name, passphrase and a one-time code that holds once', async () => {
    newVisitor();
    expect((await ask(file)).status).toBe(401);
    expect((await post('depots/session', { ...account, passphrase: 'guess' })).status).toBe(403);
    expect((await post('depots/session', { ...account, code: '000000' })).status).toBe(403);
    const headers = await signedIn();
    expect((await ask(file, { headers })).status).toBe(200);
    expect(PanelStateSchema.parse(await (await ask('panel/state')).json()).oneTimeCode).toBeNull();
    await post('panel/act', { do: 'forget-sessions' });
    expect((await ask(file, { headers })).status).toBe(401);
  });

  it('gives ranges of the right bytes and refuses others', async () => {
    newVisitor();
    const headers = await signedIn();
    const whole = await ask(file, { headers });
    const bytes = await bytesOf(whole);
    expect(whole.headers.get('ETag')).toBe(`"${sha256(bytes)}"`);
    const part = await ask(file, { headers: { ...headers, Range: 'bytes=100-199' } });
    expect(part.status).toBe(206);
    expect(part.headers.get('Content-Range')).toBe(`bytes 100-199/${bytes.length}`);
    expect(sha256(await bytesOf(part))).toBe(sha256(bytes.subarray(100, 200)));
    const beyond = await ask(file, { headers: { ...headers, Range: `bytes=${bytes.length}-` } });
    expect([beyond.status, beyond.headers.get('Content-Range')]).toEqual([416, `bytes */${bytes.length}`]);
    const known = { ...headers, 'If-None-Match': `"${sha256(bytes)}"` };
    expect((await ask(file, { headers: known })).status).toBe(304);
  });

  it('refuses an add-on that is not owned, and a branch without its code', async () => {
    newVisitor();
    const [pan] = library.manifest(asBuild('2.9.4'), asDepot('salt-coast')).manifest.paths;
    const headers = await signedIn();
    expect(await (await ask(`depots/files/2.9.4/salt-coast/${pan}`, { headers })).json()).toMatchObject({
      code: 'service/not-owned',
    });
    const trial = file.replace('2.9.4', '3.2.0');
    expect((await ask(trial, { headers })).status).toBe(403);
    const opened = await signedIn({ branchCode: 'deep-water' });
    expect((await ask(trial, { headers: opened })).status).toBe(200);
  });

  it('fails and corrupts as often as it is asked to, for this visitor alone', async () => {
    newVisitor();
    const headers = await signedIn();
    const right = sha256(await bytesOf(await ask(file, { headers })));
    // What is left out of a change stays as it was.
    await post('panel/act', { do: 'set-faults', faults: { corruptEvery: 3 } });
    await post('panel/act', { do: 'set-faults', faults: { failEvery: 2 } });
    expect((await ask(file, { headers })).status).toBe(200);
    expect((await ask(file, { headers })).status).toBe(503);
    expect(sha256(await bytesOf(await ask(file, { headers })))).not.toBe(right);
    newVisitor();
    expect(sha256(await bytesOf(await ask(file, { headers: await signedIn() })))).toBe(right);
  });

  it('makes bundles when they are asked for: their index for everybody, their bytes for who may have the files', async () => {
    newVisitor();
    const at = 'depots/bundles/2.9.4/core/3.1.1';
    const index = BundleIndexSchema.parse(await (await ask(`${at}.json`)).json());
    expect(await (await ask(`${at}.zst`)).json()).toMatchObject({ code: 'service/sign-in-needed' });
    const headers = await signedIn();
    const bytes = await bytesOf(await ask(`${at}.zst`, { headers }));
    expect(bytes.length).toBe(index.frames.reduce((sum, { length }) => sum + length, 0));
    const other = await ask('depots/bundles/2.9.4/salt-coast/3.1.1.zst', { headers });
    expect(await other.json()).toMatchObject({ code: 'service/not-owned' });
    for (const nothing of ['core/3.1.1', 'core/9.9.zst', 'nowhere/3.1.1.json', '../core/all.json'])
      expect((await ask(`depots/bundles/2.9.4/${nothing}`, { headers })).ok, nothing).toBe(false);
    // What is made of a file that is wrong there is wrong in that frame alone.
    const manifest = parseMetalink(
      await (await ask('depots/manifests/2.9.4/core.meta4')).text(),
      ...([index.build, index.depot, 'core.meta4'] as const),
    );
    const [first] = index.frames[0]!.parts;
    const path = manifest.paths[typeof first === 'number' ? first : first![0]]!;
    await post('panel/act', {
      do: 'set-faults',
      faults: { delayMs: 0, failEvery: 0, corruptEvery: 0, spoilt: path },
    });
    const spoilt = await bytesOf(await ask(`${at}.zst`, { headers }));
    const differing = bytes.findIndex((byte, i) => byte !== spoilt[i]);
    expect(differing).toBe(0);
  });

  it('sends wrong bytes of some files always, has others no more, changes under way, and gives no parts', async () => {
    newVisitor();
    const headers = await signedIn();
    const faulty = async (faults: Partial<PanelState['faults']>): Promise<Response> => {
      const none = { spoilt: '', gone: '', wholeOnly: false, changeAfter: 0 };
      await post('panel/act', { do: 'set-faults', faults: { ...none, ...faults } });
      return ask(file, { headers: { ...headers, Range: 'bytes=0-9' } });
    };
    const name = file.split('/').at(-1)!;
    const right = sha256(await bytesOf(await faulty({})));
    for (let i = 0; i < 2; i++) expect(sha256(await bytesOf(await faulty({ spoilt: name })))).not.toBe(right);
    expect(await (await faulty({ gone: name })).json()).toMatchObject({ code: 'demo/unknown-file' });
    expect(sha256(await bytesOf(await faulty({ gone: 'another', spoilt: 'another' })))).toBe(right);
    expect((await faulty({ wholeOnly: true })).status).toBe(200);
    const before = (await faulty({ changeAfter: 1 })).headers.get('ETag');
    expect((await ask(file, { headers })).headers.get('ETag')).not.toBe(before);
    const start = performance.now();
    await bytesOf(await faulty({ bytesPerSecond: 40 }));
    expect(performance.now() - start).toBeGreaterThan(200);
  });
});

describe('the storefront', () => {
  const record = { game: 'ferrywake', branch: 'main', build: '2.9.4', updates: 'by-itself', depots: [] };
  const look = async (more: object = {}) =>
    StorefrontAnswerSchema.parse(await (await post('storefront/look', { ...record, ...more })).json());

  it('updates what is behind, unless the setting says otherwise and is heeded', async () => {
    newVisitor();
    const update = await look();
    if (update.action !== 'update') throw new Error(update.why);
    expect(update.build).toBe('3.1.1');
    for (const { href, size, sha256: digest } of update.write.slice(0, 3)) {
      const got = await bytesOf(await ask(href.replace('/stand-ins/', ''), { headers: await signedIn() }));
      expect([got.length, sha256(got)]).toEqual([size, digest]);
    }
    expect(await look({ build: '3.1.1' })).toEqual({ action: 'nothing', why: 'newest' });
    expect(await look({ updates: 'when-asked' })).toEqual({ action: 'nothing', why: 'setting' });
    await post('panel/act', { do: 'ignore-setting', ignores: true });
    expect(await look({ updates: 'when-asked' })).toMatchObject({ action: 'update' });
  });

  it('takes the folder to where another branch leads, and opens one with a code to whoever has it', async () => {
    newVisitor();
    const at = { build: '3.1.1' };
    expect(await look({ ...at, branch: 'steady' })).toMatchObject({ action: 'update', build: '2.9.4' });
    expect(await look({ ...at, branch: 'trial', branchCode: 'guessed' })).toEqual({ action: 'nothing', why: 'code' });
    expect(await look({ ...at, branch: 'trial', branchCode: 'deep-water' })).toMatchObject({
      build: '3.2.0',
      record: { branch: 'trial', branchCode: 'deep-water' },
    });
  });

  it('follows its branch when the next patch comes out, which brings new releases', async () => {
    newVisitor();
    const releases = async (): Promise<number> =>
      (await (await ask('catalogue/index.json')).json()).mods.flatMap((m: { releases: unknown[] }) => m.releases)
        .length;
    const before = await releases();
    await post('panel/act', { do: 'release-patch' });
    expect(await look({ build: '3.1.1' })).toMatchObject({ action: 'update', build: '3.2.0' });
    expect(await releases()).toBeGreaterThan(before);
  });
});

describe('the game', () => {
  const keysOf = (build: string): Map<string, string> =>
    new Map(library.laid(asBuild(build), PLAYER_OWNERSHIP).map(({ path, key }) => [path, key]));
  const start = async (files: Map<string, string>, loadOrder = '') =>
    GameAnswerSchema.parse(
      await (await post('game/start', { files: [...files].map(([path, key]) => ({ path, key })), loadOrder })).json(),
    );
  const withMods = (files: Map<string, string>, releases: ReadonlyMap<string, string>): Map<string, string> => {
    for (const [id, version] of releases) {
      for (const { path, size, sha256: digest } of releaseAt(modById(library.catalogue(false), id)!, version)!.files) {
        files.set(path, contentKey(size, [digest]));
      }
    }
    return files;
  };

  it('reaches its title screen on a whole tree, and tells its version', async () => {
    newVisitor();
    expect(await start(keysOf('2.9.4'))).toMatchObject({ outcome: 'title', version: '2.9.4', mods: [] });
  });

  it('crashes on data of one build under the program of another', async () => {
    const mixed = keysOf('3.1.1').set('bin/ferrywake.prog', keysOf('2.9.4').get('bin/ferrywake.prog')!);
    const { outcome, version, log } = await start(mixed);
    expect({ outcome, version }).toEqual({ outcome: 'crash', version: '2.9.4' });
    expect(log.some(({ text }) => text.startsWith('archives/deep-locks.fwa'))).toBe(true);
  });

  it('crashes on one file too few, and on one left over from a newer build', async () => {
    const fewer = keysOf('2.9.4');
    fewer.delete('archives/part-001.fwa');
    expect(await start(fewer)).toMatchObject({ outcome: 'crash' });
    const path = 'archives/deep-locks.fwa';
    expect(await start(keysOf('2.9.4').set(path, keysOf('3.1.1').get(path)!))).toMatchObject({ outcome: 'crash' });
  });

  it('loads at each build just the mods of the best set, in their order', async () => {
    const catalogue = library.catalogue(false);
    const labels = ['2.9.4', '3.1.0'].map(asBuild);
    for (const { build, runs } of chooseAll(labels, catalogue, PLAYER_WEIGHTS, INSTALLED_RELEASES)) {
      const { outcome, mods } = await start(withMods(keysOf(build), runs), writeModList(loadOrder(catalogue, runs)));
      expect(outcome).toBe('title');
      expect(mods.filter(({ ran }) => !ran)).toEqual([]);
      expect(mods).toHaveLength(runs.size);
    }
  });

  it('crashes every other time with one mod, and with another one only beside a third', async () => {
    newVisitor();
    const mark = { size: 3, key: contentKey(3, ['0'.repeat(64)]) };
    const withMark = (...mods: string[]) => {
      const files = withMods(keysOf('3.1.1'), new Map([]));
      for (const mod of mods) files.set(`mods/${mod}/mod.json`, mark.key);
      return files;
    };
    const outcomes: string[] = [];
    for (let i = 0; i < 4; i++) outcomes.push((await start(withMark('lantern-parade'))).outcome);
    expect(outcomes).toEqual(['title', 'crash', 'title', 'crash']);
    expect(await start(withMark('otter-tracks'))).toMatchObject({ outcome: 'title' });
    expect(await start(withMark('otter-tracks', 'reed-banks'))).toMatchObject({ outcome: 'crash', version: '3.1.1' });
  });

  it('starts without the script mods when the list of mods to load is empty', async () => {
    const { mods } = await start(
      withMods(
        keysOf('2.9.4'),
        new Map([
          ['towline', '1.14'],
          ['sextant', '1.1'],
          ['gull-calls', '1.3'],
        ]),
      ),
    );
    expect(mods.map(({ mod, ran }) => `${mod} ${ran}`)).toEqual(['towline false', 'sextant false', 'gull-calls true']);
  });
});

it('the first install is the player’s folder, its mods and what went wrong with them', async () => {
  newVisitor();
  const { files, record } = SeedListSchema.parse(await (await ask('storefront/first-install')).json());
  expect(record).toMatchObject({ build: '3.1.1', updates: 'by-itself' });
  expect(new Set(files.map(({ path }) => path)).size).toBe(files.length);
  const own = files.find(({ path }) => path === 'player/settings.ini')!;
  expect((await bytesOf(await ask(own.href.replace('/stand-ins/', '')))).length).toBe(own.size);
  expect(files.some(({ path }) => path === 'mods/reed-banks/reed-banks/mod.json')).toBe(true);
});

it('a body that does not fit is refused with line and field', async () => {
  const answer = await post('storefront/look', { game: 1 });
  expect(answer.status).toBe(400);
  expect(await answer.json()).toMatchObject({ code: 'json/does-not-fit', facts: { field: 'game', line: 1 } });
  expect((await ask('nowhere/at-all')).status).toBe(404);
});

it('a session ends when it was not used for half a day, and not before', () => {
  let now = 0;
  const world = new OutsideWorld(() => now);
  const token = world.openSession(new Set(['beta']));
  const hour = 3_600_000;
  for (const later of [11, 11, 12]) {
    now += later * hour;
    expect(world.session(token)?.branches).toEqual(new Set(['beta']));
  }
  now += 12 * hour + 1;
  expect(world.session(token)).toBeUndefined();
});

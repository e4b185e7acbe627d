import type { IDBPObjectStore } from 'idb';
import type { DepotIndex } from '#core/builds';
import { addManifests, mergeCatalogues, mergeIndexes } from '#core/sources';
import { addReleases, mergeMod, withReleases } from '#core/tables';
import type { Manifest } from '#core/manifest';
import type { Catalogue, Mod } from '#core/mods';
import { db, type RegressumDb, type Rested, type ToldRecord } from './db';
import { getGame } from './games';
import { listOwnMods } from './own-mods';
import { listShelved, shelvedStamp } from './shelved';
import { type GameRecord, type GameSource, type OwnMod, type StoredSession, StoredSessionSchema } from './records';
import { stored } from './stored';

/* What the sources of a game have told of it. */

interface Read<Value> {
  /** What it was made of, told without reading it. */
  readonly of: string;
  readonly value: Value;
}

/** What is known of each game, as it was read last: large, and asked for at every step. */
const indexes = new Map<string, Read<DepotIndex>>();
const catalogues = new Map<string, Read<Catalogue>>();
const withOwnMods = new Map<string, { service: Catalogue; of: string; catalogue: Catalogue }>();

async function stampOf(game: GameRecord, name: 'index' | 'catalogue'): Promise<string> {
  const stamps = await (await db()).get('told', [game.id, '', 'stamps']);
  return `${game.changedAt} ${stamps?.name === 'stamps' ? stamps[name] : 0}`;
}

/** What a source said of builds last; undefined where it said nothing. */
export async function saidIndex(game: string, source: string): Promise<DepotIndex | undefined> {
  const record = await (await db()).get('told', [game, source, 'index']);
  return record?.name === 'index' ? record.value : undefined;
}

/** What each source said last, in the order of the sources. */
async function saidBy<Name extends 'index' | 'catalogue'>(
  { id, sources }: GameRecord,
  name: Name,
): Promise<Extract<ToldRecord, { name: Name }>['value'][]> {
  const database = await db();
  const records = await Promise.all(sources.map((source) => database.get('told', [id, source.id, name])));
  return records.flatMap((record) => (record?.name === name ? [record.value as never] : []));
}

/** What each source of a game said of its mods last, in the order of the sources. */
export async function saidCatalogues(
  gameId: string,
): Promise<readonly { readonly source: GameSource; readonly catalogue: Catalogue }[]> {
  const [{ sources }, database] = await Promise.all([getGame(gameId), db()]);
  const records = await Promise.all(sources.map((source) => database.get('told', [gameId, source.id, 'catalogue'])));
  return records.flatMap((record, i) =>
    record?.name === 'catalogue' ? [{ source: sources[i]!, catalogue: record.value }] : [],
  );
}

/**
 * What all sources of a game have told of its builds, under the game's own rules. The same object until one of them says
 * something new; telling that reads the stamps alone.
 * @throws Failure `store/failed` where there is no such game
 */
export async function getIndex(gameId: string): Promise<DepotIndex> {
  const game = await getGame(gameId);
  const of = await stampOf(game, 'index');
  const known = indexes.get(gameId);
  if (known?.of === of) return known.value;
  const { id, title, rules } = game;
  const [said, { index: rested }] = await Promise.all([saidBy(game, 'index'), restedOf(gameId)]);
  const value = mergeIndexes({ id, title, rules }, rested ? [...said, rested] : said);
  indexes.set(gameId, { of, value });
  return value;
}

async function serviceCatalogue(gameId: string): Promise<Catalogue> {
  const game = await getGame(gameId);
  const of = await stampOf(game, 'catalogue');
  const known = catalogues.get(gameId);
  if (known?.of === of) return known.value;
  const value = mergeCatalogues(await saidBy(game, 'catalogue'));
  catalogues.set(gameId, { of, value });
  return value;
}

/** The sources' mods, with what a person brought in laid over them or beside them. */
function withOwn(catalogue: Catalogue, own: readonly OwnMod[]): Catalogue {
  if (own.length === 0) return catalogue;
  const left = new Map(own.map((mod) => [mod.id, mod]));
  const known = catalogue.mods.map((mod) => {
    const mine = left.get(mod.id);
    left.delete(mod.id);
    return mine ? mergeMod(mod, mine) : mod;
  });
  return { ...catalogue, mods: [...known, ...left.values()] };
}

const NOTHING_RESTED: Rested = { mods: [] };

/** What no source of a game tells any more, and folders rest on. */
export async function restedOf(game: string): Promise<Rested> {
  const record = await (await db()).get('told', [game, '', 'rested']);
  return record?.name === 'rested' ? record.rested : NOTHING_RESTED;
}

/**
 * What the sources of a game would tell together if one of them told something else.
 * @param told instead of what it told last; undefined where it tells nothing any more
 */
export async function offeredIf(
  gameId: string,
  source: string,
  told: Told | undefined,
): Promise<{ readonly index: DepotIndex; readonly catalogue: Catalogue }> {
  const { id, title, rules, sources } = await getGame(gameId);
  const database = await db();
  const indexes: DepotIndex[] = [];
  const catalogues: Catalogue[] = [];
  for (const one of sources) {
    if (one.id === source && !told) continue;
    const [index, catalogue] = await Promise.all([
      database.get('told', [id, one.id, 'index']),
      database.get('told', [id, one.id, 'catalogue']),
    ]);
    const anew = one.id === source ? told : undefined;
    if (anew?.index) indexes.push(anew.index.value);
    else if (index?.name === 'index') indexes.push(index.value);
    if (anew?.catalogue) catalogues.push(anew.catalogue.value);
    else if (catalogue?.name === 'catalogue') catalogues.push(catalogue.value);
  }
  return {
    index: mergeIndexes({ id, title, rules }, indexes),
    catalogue: withOwn(mergeCatalogues(catalogues), await listOwnMods(gameId)),
  };
}

/** Keeps what folders of a game rest on, beside what is kept already. */
export async function addRested(game: string, mods: readonly Mod[], index?: DepotIndex): Promise<void> {
  const transaction = (await db()).transaction('told', 'readwrite');
  const record = await transaction.store.get([game, '', 'rested']);
  const before = record?.name === 'rested' ? record.rested : NOTHING_RESTED;
  const rested: Rested = {
    mods: addReleases(before.mods, mods),
    ...(before.index && { index: before.index }),
    ...(index && { index: addManifests(before.index, index) }),
  };
  await transaction.store.put({ game, source: '', name: 'rested', rested });
  await stamp(transaction.store, game, { index: index !== undefined, catalogue: true });
  await transaction.done;
}

const withShelved = new Map<string, { offered: Catalogue; of: string; catalogue: Catalogue }>();

/**
 * All mods of a game that are known, with the releases of the shelf, and of folders, that no catalogue has any more. The same
 * object until something is new, so that what was worked out of it counts on.
 * @throws Failure `store/failed` where there is no such game
 */
export async function getCatalogue(game: string): Promise<Catalogue> {
  const [offered, of] = await Promise.all([getOffered(game), shelvedStamp(game)]);
  const known = withShelved.get(game);
  if (known?.offered === offered && known.of === of) return known.catalogue;
  const [shelved, { mods }] = await Promise.all([listShelved(game), restedOf(game)]);
  const kept = [...mods, ...shelved.map(({ entry }) => entry)];
  const catalogue = kept.length === 0 ? offered : withReleases(offered, kept);
  withShelved.set(game, { offered, of, catalogue });
  return catalogue;
}

/** As {@link getCatalogue}, of what the sources have now and the person brought in. */
export async function getOffered(game: string): Promise<Catalogue> {
  const [service, own] = await Promise.all([serviceCatalogue(game), listOwnMods(game)]);
  const of = own.map(({ id, at }) => `${id} ${at}`).join();
  const known = withOwnMods.get(game);
  if (known?.service === service && known.of === of) return known.catalogue;
  const catalogue = withOwn(service, own);
  withOwnMods.set(game, { service, of, catalogue });
  return catalogue;
}

/** What a source said, with the SHA-256 of its text. */
export interface Said<Value> {
  readonly value: Value;
  readonly digest?: string;
}

/** The SHA-256 of what a source said last; undefined where it was never reached. */
export async function saidDigest(
  game: string,
  source: string,
  name: 'index' | 'catalogue',
): Promise<string | undefined> {
  const record = await (await db()).get('told', [game, source, name]);
  return record && 'digest' in record ? record.digest : undefined;
}

/** What a source said anew: what is left out is as it was. */
export interface Told {
  readonly index?: Said<DepotIndex> | undefined;
  readonly catalogue?: Said<Catalogue> | undefined;
}

/** Keeps what a source said, all of it or nothing. What is left out stays, and so does what was worked out of it. */
export async function putTold(game: string, source: string, { index, catalogue }: Told): Promise<void> {
  if (!index && !catalogue) return;
  const transaction = (await db()).transaction('told', 'readwrite');
  const at = Date.now();
  if (index) await transaction.store.put({ game, source, name: 'index', ...index, at });
  if (catalogue) await transaction.store.put({ game, source, name: 'catalogue', ...catalogue, at });
  await stamp(transaction.store, game, { index: index !== undefined, catalogue: catalogue !== undefined });
  await transaction.done;
}

type ToldStore = IDBPObjectStore<RegressumDb, ['told'], 'told', 'readwrite'>;

/** Notes that something was told anew. */
async function stamp(store: ToldStore, game: string, isNew: Record<'index' | 'catalogue', boolean>): Promise<void> {
  const before = await store.get([game, '', 'stamps']);
  const stamps = before?.name === 'stamps' ? before : { name: 'stamps' as const, index: 0, catalogue: 0 };
  // Two that come within a millisecond must differ.
  const later = (than: number): number => Math.max(Date.now(), than + 1);
  await store.put({
    ...stamps,
    game,
    source: '',
    ...(isNew.index && { index: later(stamps.index) }),
    ...(isNew.catalogue && { catalogue: later(stamps.catalogue) }),
  });
}

/** Has another game be told of by the same sources what they told of this one; a sign-in stays where it was made. */
export async function copyTold(from: string, to: string): Promise<void> {
  const transaction = (await db()).transaction('told', 'readwrite');
  for (const record of await transaction.store.getAll(IDBKeyRange.bound([from], [from, []])))
    if (record.name !== 'session') await transaction.store.put({ ...record, game: to });
  await transaction.done;
}

const SESSION_SOURCE = 'service';

export async function getSession(game: string): Promise<StoredSession | undefined> {
  const record = await (await db()).get('told', [game, SESSION_SOURCE, 'session']);
  return record?.name === 'session' ? stored(StoredSessionSchema, record.value, 'sign-in') : undefined;
}

export async function putSession(game: string, session: StoredSession | undefined): Promise<void> {
  const database = await db();
  const key = [game, SESSION_SOURCE, 'session'] as [string, string, 'session'];
  if (session)
    await database.put('told', { game, source: SESSION_SOURCE, name: 'session', value: session, at: Date.now() });
  else await database.delete('told', key);
}

export async function getManifest(sha256: string): Promise<Manifest | undefined> {
  return (await db()).get('manifests', sha256);
}

export async function putManifest(sha256: string, manifest: Manifest): Promise<void> {
  await (await db()).put('manifests', manifest, sha256);
}

export async function knownManifests(): Promise<Set<string>> {
  return new Set(await (await db()).getAllKeys('manifests'));
}

/** @returns the text of a bundle's index; undefined where it is not here */
export async function getBundleIndex(name: string): Promise<string | undefined> {
  return (await db()).get('bundles', name);
}

export async function putBundleIndex(name: string, text: string): Promise<void> {
  await (await db()).put('bundles', text, name);
}

export async function knownBundleIndexes(): Promise<Set<string>> {
  return new Set(await (await db()).getAllKeys('bundles'));
}

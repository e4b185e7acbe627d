import { type Game, GameIdSchema } from '#core/builds';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';
import { type GameFile, gameFile, GameFileSchema, type OfferedSource, sourceAddress } from '#core/sources';
import { jobs } from '~/jobs';
import { canChange } from '~/places';
import { query } from '~/queries';
import {
  addGame,
  broadcast,
  copyTold,
  type GameSource,
  getGame,
  type Install,
  listGames,
  listInstalls,
  removeGame,
  updateGame,
} from '~/store';
import { unlessDefect } from './unless-defect';

/* Games as records: added, changed, imported and exported, with the sources that tell of them. */

/** An id that no game has yet, made of a title. */
function freeId(title: string, taken: ReadonlySet<string>): string {
  const plain = title
    .normalize('NFKD')
    .replaceAll(/\p{M}+/gu, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, 50);
  const base = plain === '' ? 'game' : plain;
  for (let n = 1; ; n++) {
    const id = n === 1 ? base : `${base}-${n}`;
    if (!taken.has(id)) return GameIdSchema.parse(id);
  }
}

const newSourceId = (): string => crypto.randomUUID().slice(0, 8);

export interface GameForm {
  readonly title: string;
  readonly rules: Game['rules'];
}

/** Adds a game that a person describes. @returns its id */
export async function addGameOf({ title, rules }: GameForm): Promise<string> {
  const id = freeId(title, new Set((await listGames()).map((game) => game.id)));
  await addGame({ id, title, rules, sources: [] });
  broadcast({ type: 'changed' });
  return id;
}

/** Changes how a game is called and where it keeps what; folders that were surveyed are held against that from then on. */
export async function changeRules(id: string, { title, rules }: GameForm): Promise<void> {
  await updateGame(id, (game) => ({ ...game, title, rules }));
  broadcast({ type: 'changed' });
}

/**
 * Adds an address that tells of a game's builds or mods, once it has been asked and what it says fits.
 * @param text the address of an index or a catalogue, as it was typed
 * @throws Failure `source/*`, `service/*`, `json/*`; nothing is added then
 */
export async function addAddress(
  id: string,
  of: OfferedSource['of'],
  text: string,
  trust: 'typed' | 'told' = 'typed',
): Promise<void> {
  const { href } = sourceAddress(text);
  const { sources } = await getGame(id);
  if (sources.some((source) => source.kind === 'address' && source.href === href))
    throw new Failure('source/exists', { found: href });
  const source: GameSource = { kind: 'address', id: newSourceId(), of, href, trust };
  await query('askFirst', id, source);
  await withSource(id, source);
  broadcast({ type: 'changed' });
}

const withSource = (id: string, source: GameSource): Promise<void> =>
  updateGame(id, (game) => ({ ...game, sources: [...game.sources, source] }));

/** A file that was handed over. */
export interface HandedFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/**
 * Takes what is handed over as sources of a game: indexes of builds, catalogues of mods, and manifests. A manifest that an
 * index lists belongs to it; any other becomes a build that is called as its file.
 * @throws Failure `json/*`, `metalink/*`, `list/encoding`, `source/exists`; what came before in the list is taken in then
 */
export async function handFiles(id: string, files: readonly HandedFile[]): Promise<void> {
  const manifests: HandedFile[] = [];
  const others: HandedFile[] = [];
  // One after another: each goes to the worker as a copy, and manifests are large.
  for (const file of files)
    ((await query('kindOfFile', file.bytes, file.name)) === 'metalink' ? manifests : others).push(file);
  try {
    // Indexes first: manifests may be theirs.
    for (const { name, bytes } of others) {
      const source = newSourceId();
      const of = await query('takeHanded', id, source, bytes, name);
      await withSource(id, { kind: 'handed', id: source, of, title: name });
    }
    for (const { name, bytes } of manifests) {
      const source = newSourceId();
      const build = name.replace(/\.[^.]+$/, '');
      if (await query('takeManifest', id, source, bytes, name, build))
        await withSource(id, { kind: 'handed', id: source, of: 'builds', title: name });
    }
  } finally {
    broadcast({ type: 'changed' });
  }
}

/** Asks all sources of a game what is new. @throws Failure of the first that fails, when all were asked */
export async function askSourcesAgain(id: string): Promise<void> {
  try {
    await query('refreshSources', id);
    // New builds are known by their manifests to who chooses among them.
    for (const install of await listInstalls()) {
      if (install.game !== id) continue;
      await query('learn', install.id).catch(unlessDefect);
      await shelveWithdrawn(install).catch(unlessDefect);
    }
  } finally {
    broadcast({ type: 'changed' });
  }
}

/** Puts the mods of a folder that nobody offers any more on the shelf: their files may not be had again. */
async function shelveWithdrawn({ id, place }: Install): Promise<void> {
  if (!(await canChange(place))) return;
  const releases = await query('withdrawnHere', id);
  if (releases.length > 0) await jobs.start('shelve', id, { archives: [], releases, add: [] });
}

/** Asks a source no more. What only it told of is not known any longer, but for what folders rest on; files on the disk stay. */
export async function removeSource(id: string, source: string): Promise<void> {
  await query('beforeRemoval', id, source);
  await updateGame(id, (game) => ({ ...game, sources: game.sources.filter((one) => one.id !== source) }));
  broadcast({ type: 'changed' });
}

/** Adds a game with the rules and sources of another one, and what they told. @returns its id */
export async function duplicateGame(id: string): Promise<string> {
  const { title, rules, sources } = await getGame(id);
  const copy = await addGameOf({ title: `${title.slice(0, 70)}, copy`, rules });
  await copyTold(id, copy);
  await updateGame(copy, (game) => ({ ...game, sources }));
  broadcast({ type: 'changed' });
  return copy;
}

/** The game as a file, with the addresses of its sources. */
export async function exportGame(id: string): Promise<GameFile> {
  const game = await getGame(id);
  return gameFile(
    game,
    game.sources.flatMap((source) => (source.kind === 'address' ? [{ of: source.of, href: source.href }] : [])),
  );
}

/**
 * Takes over a game's file. Its addresses are not asked: each is offered to be confirmed.
 * @returns the game's id here, and what the file offers
 * @throws Failure `json/*`; nothing is added then
 */
export async function importGame(
  text: string,
  file: string,
): Promise<{ id: string; offered: readonly OfferedSource[] }> {
  const { title, rules, sources } = parseJson(text, GameFileSchema, file);
  const { patternFaults } = await import('#core/patterns');
  const [fault] = patternFaults(rules);
  if (fault)
    throw new Failure('json/does-not-fit', {
      ...{ file, line: 1, field: ['rules', ...fault.path].join('.'), problem: fault.problem },
    });
  return { id: await addGameOf({ title, rules }), offered: sources };
}

/** The page of a game that was imported, on which its addresses are confirmed. */
export function pageOfImported({ id, offered }: Awaited<ReturnType<typeof importGame>>): string {
  const query = new URLSearchParams(offered.map(({ of, href }): [string, string] => [of, href])).toString();
  return `/games/${id}${query === '' ? '' : `?${query}`}`;
}

/**
 * Removes a game that has no folders any more, with what its sources told and what was recorded of it.
 * @throws Failure `job/busy` while a folder of it is here
 */
export async function forgetGame(id: string): Promise<void> {
  if ((await listInstalls()).some((install) => install.game === id)) throw new Failure('job/busy');
  await removeGame(id);
  broadcast({ type: 'changed' });
}

import { asDepot, type BuildLabel, BuildLabelSchema, type DepotIndex, DepotIndexSchema } from '#core/builds';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';
import { manifestBytes, parseMetalink } from '#core/manifest';
import { CatalogueSchema } from '#core/mods';
import { kindOfText } from '#core/recognise';
import { placeCatalogue, placeIndex, WHOLE_BUILD } from '#core/sources';
import { askSource, platformSha256 } from '~/remote';
import { type GameSource, getGame, getIndex, putManifest, putTold, saidDigest, type Told } from '~/store';
import { type Given, textOf } from './reading';
import { keepRested } from './resting';

/*
 * What sources tell of games, taken into the store: indexes and manifests of any size, which is why nothing of it runs on the
 * page's own thread.
 */

/** What a source told when nothing was known of it. */
const NOTHING = { index: undefined, catalogue: undefined };

/**
 * Brings what the sources of a game tell up to date; what was known before stays where one cannot be reached or what it says
 * does not fit.
 * @throws Failure `service/*`, `source/*`, `json/*` with line and field, of the first that fails, when all were asked
 */
export async function refreshSources(gameId: string): Promise<void> {
  const { id, sources } = await getGame(gameId);
  const outcomes = await Promise.allSettled(
    sources.map(async (source) => {
      const before = (name: 'index' | 'catalogue') => saidDigest(id, source.id, name);
      const [index, catalogue] = await Promise.all([before('index'), before('catalogue')]);
      await takeTold(id, source.id, await askSource(source, { index, catalogue }));
    }),
  );
  for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
}

/** Keeps what a source tells now, and before that what folders rest on of what it told until now. */
async function takeTold(gameId: string, source: string, told: Told): Promise<void> {
  if (told.index ?? told.catalogue) await keepRested(gameId, source, told);
  await putTold(gameId, source, told);
}

/** Keeps what folders of a game rest on of what a source told, before that is asked no more. */
export const beforeRemoval = (gameId: string, source: string): Promise<void> => keepRested(gameId, source, undefined);

/** Takes in what a source tells that the game does not have yet. @throws Failure as {@link refreshSources} */
export async function askFirst(gameId: string, source: GameSource): Promise<void> {
  await putTold(gameId, source.id, await askSource(source, NOTHING));
}

/** Of what was handed over nothing lies anywhere: it is known by its checksums. */
function readTold(text: string, name: string, digest: string): { of: 'builds' | 'mods'; told: Told } {
  if (kindOfText(text) === 'mod-catalogue') {
    const value = placeCatalogue(parseJson(text, CatalogueSchema, name), undefined);
    return { of: 'mods', told: { catalogue: { value, digest } } };
  }
  const value = placeIndex(parseJson(text, DepotIndexSchema, name), undefined);
  return { of: 'builds', told: { index: { value, digest } } };
}

/**
 * Takes in an index of builds, or a catalogue of mods, that was handed over.
 * @returns what it tells of
 * @throws Failure `json/*`, `list/encoding`; nothing is taken in then
 */
export async function takeHanded(
  gameId: string,
  sourceId: string,
  given: Given,
  name: string,
): Promise<'builds' | 'mods'> {
  const text = textOf(given, name);
  const { of, told } = readTold(text, name, await platformSha256(text));
  await takeTold(gameId, sourceId, told);
  return of;
}

/**
 * Takes in a manifest. One that an index of the game lists is that of its depot and build; any other is a build of its own,
 * which can be recognised on disk, chosen and laid down from what is there, and fetched from nowhere.
 * @param build the label that such a build gets
 * @returns whether it is a build of its own
 * @throws Failure `metalink/*`, `json/does-not-fit` for a label that is none, `source/exists` where the game has it already
 */
export async function takeManifest(
  gameId: string,
  sourceId: string,
  given: Given,
  name: string,
  build: string,
): Promise<boolean> {
  const text = textOf(given, name);
  const sha256 = await platformSha256(text);
  const known = await getIndex(gameId);
  const listed = known.manifests.find((entry) => entry.sha256 === sha256);
  if (listed) {
    await putManifest(sha256, parseMetalink(text, listed.build, listed.depot, name));
    return false;
  }
  const label = labelOf(build, name);
  if (known.builds.some((one) => one.label === label)) throw new Failure('source/exists', { found: build });
  const depot = asDepot('whole');
  const manifest = parseMetalink(text, label, depot, name);
  await putManifest(sha256, manifest);
  const index: DepotIndex = {
    ...{ format: 'regressum-depot-index', version: 1, game: known.game, branches: [] },
    builds: [{ label, date: new Date().toISOString().slice(0, 10) }],
    depots: [{ id: depot, title: WHOLE_BUILD, kind: 'core', order: 1, orderMatters: false }],
    manifests: [
      {
        ...{ build: label, depot, href: '', filesHref: '', sha256 },
        ...{ files: manifest.paths.length, bytes: manifestBytes(manifest) },
      },
    ],
  };
  await putTold(gameId, sourceId, { index: { value: index } });
  return true;
}

function labelOf(text: string, file: string): BuildLabel {
  const label = BuildLabelSchema.safeParse(text);
  if (!label.success) throw new Failure('json/does-not-fit', { file, line: 1, field: 'build', problem: 'is no label' });
  return label.data;
}

import { asBuild, asDepot, asMod, type ModId, type Ownership } from '#core/builds';
import type { Weight } from '#core/mods';
import { MODS, modFileBytes } from './mods';
import { BUILDS, DEPOTS } from './game';
import { seedFor, streamBytes } from './random';
import type { DemoWorld } from './world';

export const PLAYER_OWNERSHIP: Ownership = {
  language: 'en',
  addOns: [asDepot('winter-ice')],
  optional: [asDepot('fine-textures')],
};

const MUST = ['towline', 'bollard', 'gunwale', 'tidal-timetables', 'honest-fuel', 'night-pilotage', 'crew-rosters'];
const SPARE = ['free-camera', 'gull-calls', 'reed-banks', 'map-pins', 'bell-buoys'];
const NOT_INSTALLED = ['ice-season', 'harbour-pilots'];

const installedMods = MODS.filter(({ id }) => !NOT_INSTALLED.includes(id));

export const PLAYER_WEIGHTS: ReadonlyMap<ModId, Weight> = new Map(
  installedMods.map(({ id }) => [id, MUST.includes(id) ? 'must' : SPARE.includes(id) ? 'spare' : 'want']),
);

/** Mods that the player updated in the night of the patch; all others are at their release for 2.9.4. */
const UPDATED: Record<string, string> = {
  towline: '2.0',
  bollard: '5',
  gunwale: '3.0',
  'crew-rosters': '6.0',
  'tidal-timetables': '4.0b',
  'fair-tariffs': '2.0',
};
const LAST_GOOD = 3;

const DAY = 86_400_000;
/** The build came in the night after it was out; the evening before, the player still played 2.9.4. */
const THAT_NIGHT = Date.parse(`${BUILDS[7].date}T23:10:00Z`);
const LAST_EVENING = THAT_NIGHT - 5 * 3_600_000;

/** The release of each mod that lies in the player's folder at the start. */
export const INSTALLED_RELEASES: ReadonlyMap<ModId, string> = new Map(
  installedMods.map(({ id, releases }) => {
    const kept = releases.findLast(({ from, to }) => from <= LAST_GOOD && LAST_GOOD <= to)!;
    return [asMod(id), UPDATED[id] ?? kept.version];
  }),
);

export interface PlayerFile {
  readonly path: string;
  /** When the player last wrote it, in milliseconds since 1970. */
  readonly modified: number;
  readonly bytes: () => Uint8Array<ArrayBuffer>;
}

/**
 * Everything in the player's folder besides the vanilla files of the build on disk: mods (one unpacked a folder too
 * deep, one with two archives), the list of mods to load as the loader's update left it (empty), saves, settings (of a
 * mod as well) and own liveries from 2.9.4, and two files of an aborted attempt to go back by hand.
 * A path that the build has as well is to be written over it.
 */
export function playerFiles(seed: number, world: DemoWorld): PlayerFile[] {
  const files: PlayerFile[] = [];
  for (const [id, version] of INSTALLED_RELEASES) {
    const sketch = MODS.find((mod) => mod.id === id)!;
    const edited = (sketch.edits ?? []).map(({ path }) => `mods/${id}/${path}`);
    for (const path of [...modPaths(sketch.kind, id, version), ...(sketch.replaces ?? []), ...edited]) {
      const tooDeep = id === 'reed-banks' ? path.replace('mods/reed-banks/', 'mods/reed-banks/reed-banks/') : path;
      files.push({ path: tooDeep, modified: THAT_NIGHT, bytes: () => modFileBytes(seed, id, version, path) });
    }
  }
  const oldArchive = 'mods/bell-buoys/bell-buoys-1.0.fwm';
  files.push({
    path: oldArchive,
    modified: LAST_EVENING,
    bytes: () => modFileBytes(seed, 'bell-buoys', '1.0', oldArchive),
  });
  files.push({ path: 'mods/load-order.txt', modified: THAT_NIGHT, bytes: () => new Uint8Array(0) });
  for (let i = 1; i <= 6; i++) {
    const path = `saves/voyage-${i}.fws`;
    const bytes = (): Uint8Array<ArrayBuffer> => {
      const save = new Uint8Array(180_000 + 7_000 * i);
      streamBytes(seedFor(seed, path), 0, save);
      save.set(new TextEncoder().encode('FERRYWAKE SAVE 2.9.4\n'));
      return save;
    };
    files.push({ path, modified: LAST_EVENING - (6 - i) * DAY, bytes });
  }
  const settings = '[player]\nname = Ferryhand\nlanguage = en\nlantern_brightness = 70\n';
  files.push({ path: 'player/settings.ini', modified: LAST_EVENING, bytes: () => new TextEncoder().encode(settings) });
  const ofMods = '[panels]\nscale = 115\nclock = 24h\n';
  files.push({
    path: 'mods/gunwale/own-panels.ini',
    modified: LAST_EVENING,
    bytes: () => new TextEncoder().encode(ofMods),
  });
  for (const name of ['heron-blue', 'old-lamplighter']) {
    const path = `player/liveries/${name}.fwl`;
    const bytes = (): Uint8Array<ArrayBuffer> => {
      const livery = new Uint8Array(24_000);
      streamBytes(seedFor(seed, path), 0, livery);
      return livery;
    };
    files.push({ path, modified: LAST_EVENING - 30 * DAY, bytes });
  }
  return [...files, ...abortedAttempt(world)];
}

function modPaths(kind: string, id: string, version: string): string[] {
  const paths = [`mods/${id}/mod.json`, `mods/${id}/${id}-${version}.fwm`];
  if (kind === 'loader') paths.push('bin/towline.lib');
  if (kind === 'native') paths.push(`mods/${id}/${id}.lib`);
  if (kind === 'texture' || kind === 'sound') paths.push(`mods/${id}/more-${version}.fwm`);
  return paths;
}

/** The old table laid over the new one, and one old sound in the folder that 3.0.0 renamed. */
function abortedAttempt(world: DemoWorld): PlayerFile[] {
  const old = asBuild(BUILDS[LAST_GOOD].label);
  const core = DEPOTS[0]!.id;
  const now = BUILDS[7].label;
  const laidOver = new Set(DEPOTS.slice(1).flatMap(({ id }) => world.files(now, id).map(({ path }) => path)));
  const contentNow = new Map(world.files(now, core).map(({ path, contentId }) => [path, contentId]));
  const oldFiles = world.files(old, core);
  const table = oldFiles.find(
    ({ path, contentId }) =>
      path.startsWith('tables/') && !laidOver.has(path) && contentNow.has(path) && contentNow.get(path) !== contentId,
  );
  const sound = oldFiles.find(({ path }) => path.startsWith('sounds/'));
  return [table, sound].flatMap((file) =>
    file ? [{ path: file.path, modified: THAT_NIGHT, bytes: () => world.read(old, core, file.path) }] : [],
  );
}

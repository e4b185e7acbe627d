import { asMod, type BuildLabel, type ModId } from '#core/builds';
import { type Catalogue, CatalogueSchema, type Mod } from '#core/mods';
import { Failure } from '#core/failure';
import { editedText } from './edited';
import { BUILDS } from './game';
import { between, seedFor, streamBytes } from './random';

/** A release in short: version, first and last build that it supports (places in the order), what it requires. */
interface ReleaseSketch {
  readonly version: string;
  readonly from: number;
  readonly to: number;
  readonly requires?: readonly string[];
  readonly conflicts?: readonly string[];
  readonly optional?: readonly string[];
  /** Shown only after the next patch has come out. */
  readonly afterPatch?: boolean;
  readonly note?: string;
}

export interface ModSketch {
  readonly id: ModId;
  readonly name: string;
  readonly author: string;
  readonly kind: Mod['kind'];
  readonly summary: string;
  readonly touches: readonly string[];
  readonly releases: readonly ReleaseSketch[];
  readonly lookedAfter: boolean;
  /** Files of the game that it puts its own in place of. */
  readonly replaces?: readonly string[];
  /** Files of the game that it has copies of, changed in places; `conflicts`: places that the game changes later as well. */
  readonly edits?: readonly { readonly path: string; readonly conflicts: number; readonly added?: string }[];
  /** Breaks on this build, though its author says otherwise, when the other mod is loaded as well. */
  readonly breaksWith?: { readonly mod: ModId; readonly build: BuildLabel };
}

const PROGRAM = ['bin/ferrywake.prog'];
const texture = (...numbers: number[]): string[] => numbers.map((n) => `textures/tx-${String(n).padStart(3, '0')}.tex`);
const panels = (...numbers: number[]): string[] => numbers.map((n) => `ui/panel-${String(n).padStart(3, '0')}.xml`);

/** `"1.14 3"`, `"2.0 5-6"`, `"2.2 8 patch"`: version, builds, and whether it comes out with the next patch. */
function release(text: string, requires: readonly string[] = [], conflicts: readonly string[] = []): ReleaseSketch {
  const [version, range, patch] = text.split(' ') as [string, string, string | undefined];
  const [from, to] = range.split('-').map(Number) as [number, number | undefined];
  return { version, from, to: to ?? from, requires, conflicts, afterPatch: patch === 'patch' };
}

function mod(
  id: string,
  name: string,
  kind: Mod['kind'],
  author: string,
  summary: string,
  touches: readonly string[],
  releases: readonly ReleaseSketch[],
  more: Partial<ModSketch> = {},
): ModSketch {
  return { id: asMod(id), name, kind, author, summary, touches, releases, lookedAfter: true, ...more };
}

const r = release;

/** Requirements are written `mod`, `mod from..`, `mod ..to` or `mod from..to`. */
export const MODS: readonly ModSketch[] = [
  mod(
    'towline',
    'Towline',
    'loader',
    'Marit Quell',
    'Loads mods and runs their scripts; each release fits exact programs.',
    PROGRAM,
    [r('1.12 0-2'), r('1.14 3'), r('2.0 5-6'), r('2.2 8 patch')],
  ),
  mod(
    'bollard',
    'Bollard address table',
    'library',
    'Marit Quell',
    'Tells native mods where things lie in the program.',
    PROGRAM,
    [
      r('3 1-2', ['towline']),
      r('4 3', ['towline 1.14..']),
      r('5 5', ['towline 2.0..']),
      r('6 8 patch', ['towline 2.2..']),
    ],
  ),
  mod('gunwale', 'Gunwale menu kit', 'library', 'Tove Arn', 'Panels and settings pages for other mods.', panels(1, 2), [
    r('2.5 0-1', ['towline']),
    r('2.7 2-3', ['towline']),
    r('3.0 4-6', ['towline 2.0..']),
    r('3.1 8 patch', ['towline 2.2..']),
  ]),
  mod(
    'sextant',
    'Sextant',
    'library',
    'Ibo Lanner',
    'Distances, bearings and timing for scripts.',
    [],
    [r('1.1 0-3', ['towline']), r('2.0 5-6', ['towline 2.0..']), r('2.1 8 patch', ['towline 2.2..'])],
  ),
  mod(
    'lockhouse-common',
    'Lockhouse common data',
    'library',
    'Petra Sill',
    'Shared names and numbers for data mods.',
    [],
    [r('1.0 0-7')],
  ),
  mod(
    'tidal-timetables',
    'Tidal timetables',
    'script',
    'Ibo Lanner',
    'Ferries keep to the tide.',
    ['tables/tides.csv'],
    [r('3.2 1-3', ['towline']), r('4.0b 6', ['towline 2.0..']), r('4.1 8 patch', ['towline 2.2..'])],
  ),
  mod(
    'honest-fuel',
    'Honest fuel',
    'native',
    'Wren Aldous',
    'Engines burn what they should.',
    [...PROGRAM, 'tables/fuel.csv'],
    [r('1.9 2-3', ['towline 1.12..1.14', 'bollard 3..4'])],
  ),
  mod(
    'night-pilotage',
    'Night pilotage',
    'native',
    'Sunniva Roe',
    'Lights, pilots and a reason to use them.',
    PROGRAM,
    [r('0.8 3', ['chart-table']), r('0.9 5', ['chart-table 2.0..', 'bollard 5..'])],
  ),
  mod(
    'crew-rosters',
    'Crew rosters',
    'script',
    'Tove Arn',
    'Shifts, rest and wages for every hand.',
    ['tables/crews.csv'],
    [
      r('5.1 0-3', ['towline']),
      r('6.0 4-6', ['towline 2.0..', 'gunwale 3.0..']),
      r('6.1 8 patch', ['towline 2.2..', 'gunwale 3.1..']),
    ],
  ),
  mod('deck-physics', 'Deck physics', 'native', 'Wren Aldous', 'Cargo slides, ropes hold.', PROGRAM, [
    r('1.0 1-2', ['bollard 3..']),
    r('1.2 3', ['bollard 4..']),
    r('2.0 5', ['bollard 5..']),
    r('2.1 8 patch', ['bollard 6..']),
  ]),
  mod(
    'free-camera',
    'Free camera',
    'native',
    'Old Halyard',
    'Look anywhere.',
    PROGRAM,
    [
      r('0.8 2', ['bollard 3..']),
      { ...r('0.9 3', ['bollard 4..']), note: 'The author has left. A reader attached a fix to a note of 2026-08-02.' },
    ],
    { lookedAfter: false },
  ),
  mod('chart-table', 'Chart table', 'script', 'Sunniva Roe', 'Draw on the map, measure, plan.', panels(3, 9), [
    r('1.3 2-3', ['gunwale']),
    r('2.0 5-6', ['gunwale 3.0..']),
    r('2.1 8 patch', ['gunwale 3.1..']),
  ]),
  mod(
    'wharf-ledger',
    'Wharf ledger',
    'data',
    'Petra Sill',
    'Who owes whom, quay by quay.',
    ['tables/wages.csv'],
    [r('0.6 3')],
    { edits: [{ path: 'config/part-008.json', conflicts: 0 }] },
  ),
  mod(
    'harbour-radio',
    'Harbour radio',
    'script',
    'Dario Fenn',
    'Chatter, warnings and the shipping news.',
    [],
    [r('1.0 1-3', ['towline']), r('1.1 5-6', ['towline 2.0..'])],
  ),
  mod(
    'lockkeeper-routes',
    'Lockkeeper routes',
    'data',
    'Petra Sill',
    'Lockkeepers walk their rounds.',
    ['tables/locks.csv'],
    [r('2.4 1-3')],
    {
      edits: [
        { path: 'tables/locks.csv', conflicts: 2, added: 'x001,Lockkeeper hut,120,40,1,24' },
        { path: 'settings/defaults-004.ini', conflicts: 0 },
      ],
    },
  ),
  mod(
    'passenger-moods',
    'Passenger moods',
    'script',
    'Dario Fenn',
    'Late ferries have consequences.',
    ['tables/passengers.csv'],
    [r('1.5 2-3', ['towline']), r('2.0 6', ['towline 2.0..'])],
  ),
  mod(
    'contract-board',
    'Contract board',
    'script',
    'Petra Sill',
    'Bid for work at every landing.',
    ['tables/contracts.csv'],
    [r('3.1 3', ['gunwale', 'wharf-ledger'])],
  ),
  mod('brass-menu', 'Brass menu', 'menu', 'Tove Arn', 'A main menu of polished brass.', panels(5), [
    r('1.2 2-3', ['gunwale']),
    r('1.3 5-6', ['gunwale 3.0..']),
    r('1.4 8 patch', ['gunwale 3.1..']),
  ]),
  mod(
    'ledger-screens',
    'Ledger screens',
    'menu',
    'Petra Sill',
    'The contract board, on paper.',
    panels(11, 12),
    [r('0.9 3', ['gunwale', 'contract-board'])],
    { edits: [{ path: 'ui/panel-006.xml', conflicts: 0 }] },
  ),
  mod('map-pins', 'Map pins', 'menu', 'Sunniva Roe', 'Pins in five colours.', panels(3), [
    r('2.0 1-3', ['gunwale']),
    r('2.2 5-6', ['gunwale 3.0..']),
  ]),
  mod(
    'fair-tariffs',
    'Fair tariffs',
    'data',
    'Edda Kolk',
    'Lock dues that a small firm can pay.',
    ['tables/tariffs.csv'],
    [r('1.4 2-3'), r('2.0 4-7'), r('2.1 8 patch')],
  ),
  mod(
    'longer-locks',
    'Longer locks',
    'data',
    'Edda Kolk',
    'Room for two barges in every chamber.',
    ['tables/locks.csv', 'tables/depths.csv'],
    [
      { ...r('1.1 3-7'), optional: ['fog-over-the-reach'] },
      { ...r('1.2 8 patch'), optional: ['fog-over-the-reach'] },
    ],
  ),
  mod(
    'slow-canals',
    'Slow canals',
    'data',
    'Nils Overby',
    'A speed limit, kept.',
    ['tables/routes.csv'],
    [r('0.7 1-7')],
  ),
  mod(
    'old-ferry-liveries',
    'Old ferry liveries',
    'texture',
    'Greta Pohl',
    'Paint schemes of forgotten lines.',
    texture(14, 15),
    [r('1.6 1-7', ['lockhouse-common'])],
  ),
  mod(
    'cargo-names',
    'Cargo names',
    'data',
    'Edda Kolk',
    'Every crate says what is in it.',
    ['tables/cargo.csv'],
    [r('3.0 2-7', ['lockhouse-common'])],
  ),
  mod('painted-hulls', 'Painted hulls', 'texture', 'Greta Pohl', 'Hulls with brush strokes.', texture(20, 21, 22), [
    r('4.4 0-8'),
  ]),
  mod(
    'fog-over-the-reach',
    'Fog over the Reach',
    'texture',
    'Ansel Brandt',
    'Mornings that you can lean on.',
    texture(31),
    [r('2.2 1-7')],
  ),
  mod(
    'signal-lamps',
    'Signal lamps',
    'texture',
    'Ansel Brandt',
    'Lamps with a colour of their own.',
    texture(32, 33),
    [r('1.1 0-7')],
    {
      breaksWith: { mod: asMod('fog-over-the-reach'), build: BUILDS[7].label },
    },
  ),
  mod('wet-stone', 'Wet stone', 'texture', 'Greta Pohl', 'Quays after rain.', texture(40, 41), [r('1.0 2-8')]),
  mod(
    'brick-wharves',
    'Brick wharves',
    'texture',
    'Ansel Brandt',
    'Warehouses in four kinds of brick.',
    texture(44, 45, 46),
    [r('2.1 3-7')],
  ),
  mod('night-sky', 'Night sky', 'texture', 'Ibo Lanner', 'Stars where they belong.', texture(50), [r('1.8 0-8')], {
    replaces: texture(50),
  }),
  mod('rust-and-rivets', 'Rust and rivets', 'texture', 'Greta Pohl', 'Age for every hull.', texture(53, 54), [
    r('0.5 3-7'),
  ]),
  mod('reed-banks', 'Reed banks', 'texture', 'Nils Overby', 'Thicker reeds, more herons.', texture(57), [r('1.2 2-7')]),
  mod('gull-calls', 'Gull calls', 'sound', 'Dario Fenn', 'Eleven gulls, recorded separately.', [], [r('1.3 0-8')]),
  mod('lockkeeper-voices', 'Lockkeeper voices', 'sound', 'Dario Fenn', 'Each keeper has a voice.', [], [r('1.0 2-7')]),
  mod(
    'boiler-whistles',
    'Boiler whistles',
    'sound',
    'Wren Aldous',
    'One whistle for every boiler.',
    [],
    [r('2.0 1-7')],
  ),
  mod(
    'rain-on-decks',
    'Rain on decks',
    'sound',
    'Nils Overby',
    'Wood, iron and canvas sound different.',
    [],
    [r('1.0 3-7')],
  ),
  mod(
    'bell-buoys',
    'Bell buoys',
    'sound',
    'Nils Overby',
    'Buoys that ring with the swell.',
    [],
    [r('1.0 0-3'), r('1.1 3-7')],
  ),
  mod(
    'ice-season',
    'Ice season',
    'data',
    'Edda Kolk',
    'Winters that close the upper canal.',
    ['tables/routes.csv', 'tables/weather.csv'],
    [r('2.0 4-7', [], ['slow-canals'])],
  ),
  mod(
    'harbour-pilots',
    'Harbour pilots',
    'script',
    'Ibo Lanner',
    'Hire a pilot, or be one.',
    [],
    [r('1.0 3', ['towline'], ['night-pilotage']), r('1.1 5-6', ['towline 2.0..'], ['night-pilotage'])],
  ),
];

function requirement(text: string): { mod: string; from?: string; to?: string } {
  const [id, range = ''] = text.split(' ') as [string, string | undefined];
  const [from, to] = range.split('..');
  return { mod: id, ...(from ? { from } : {}), ...(to ? { to } : {}) };
}

export interface ModFile {
  readonly path: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

function describe(sketch: ModSketch, { version, from, to, requires = [] }: ReleaseSketch): string {
  const builds = BUILDS.slice(from, to + 1).map(({ label }) => label);
  return `${JSON.stringify({ id: sketch.id, name: sketch.name, version, builds, requires }, null, 2)}\n`;
}

/** Files of the game that mods touch or replace. */
export const SPOKEN_OF: ReadonlySet<string> = new Set(
  MODS.flatMap(({ touches, replaces = [], edits = [] }) => [...touches, ...replaces, ...edits.map(({ path }) => path)]),
);

/** A file of a release, its size between two. */
export function modFile(seed: number, release: string, path: string, low: number, high: number): ModFile {
  const name = `${release} ${path}`;
  const bytes = new Uint8Array(between(seed, `${name} size`, low, high));
  streamBytes(seedFor(seed, name), 0, bytes);
  return { path, bytes };
}

/** The files of one release, with their bytes. Each is at most one piece. */
function filesOf(seed: number, sketch: ModSketch, sketchRelease: ReleaseSketch): ModFile[] {
  const { id, kind, replaces = [], edits = [] } = sketch;
  const { version, to: made } = sketchRelease;
  const binary = (path: string, low: number, high: number): ModFile =>
    modFile(seed, `${id} ${version}`, path, low, high);
  const files = [
    { path: `mods/${id}/mod.json`, bytes: new TextEncoder().encode(describe(sketch, sketchRelease)) },
    binary(`mods/${id}/${id}-${version}.fwm`, 4e3, kind === 'texture' ? 160e3 : 40e3),
  ];
  if (kind === 'loader') files.push(binary('bin/towline.lib', 90e3, 120e3));
  if (kind === 'native') files.push(binary(`mods/${id}/${id}.lib`, 20e3, 60e3));
  if (kind === 'texture' || kind === 'sound') files.push(binary(`mods/${id}/more-${version}.fwm`, 20e3, 90e3));
  for (const { path, ...more } of edits) {
    const text = editedText(seed, id, path, { made, ...more });
    files.push({ path: `mods/${id}/${path}`, bytes: new TextEncoder().encode(text) });
  }
  return [...files, ...replaces.map((path) => binary(path, 20e3, 90e3))];
}

/** What users reported of releases on builds that their authors say nothing of: place of the build, for, against. */
const REPORTS: readonly (readonly [mod: string, release: string, build: number, ran: number, against: number])[] = [
  ['fair-tariffs', '2.0', 8, 4, 19],
  ['signal-lamps', '1.1', 8, 62, 3],
  ['painted-hulls', '4.4', 8, 180, 10],
  ['fog-over-the-reach', '2.2', 8, 3, 0],
  ['lockkeeper-voices', '1.0', 8, 27, 2],
  ['wharf-ledger', '0.6', 4, 1, 33],
  ['map-pins', '2.0', 4, 3, 0],
  ['brass-menu', '1.2', 4, 2, 11],
  ['chart-table', '1.3', 1, 24, 1],
  ['bell-buoys', '1.1', 8, 9, 1],
];

/** The programs that a release fits, by their digests. */
const programsOf = (
  { from, to }: ReleaseSketch,
  programOf: (build: BuildLabel) => string | undefined,
): readonly string[] => BUILDS.slice(from, to + 1).flatMap(({ label }) => programOf(label) ?? []);

/**
 * The catalogue of all mods.
 * @param digest SHA-256 of bytes, as hexadecimal digits
 * @param programOf SHA-256 of the program at a build: loaders say by it what they fit
 * @param afterPatch whether the next patch is out, and with it the releases that its authors made for it
 */
export function demoCatalogue(
  seed: number,
  digest: (bytes: Uint8Array) => string,
  afterPatch: boolean,
  programOf?: (build: BuildLabel) => string | undefined,
): Catalogue {
  const mods = MODS.map((sketch) => ({
    id: sketch.id,
    name: sketch.name,
    author: sketch.author,
    kind: sketch.kind,
    lookedAfter: sketch.lookedAfter,
    summary: sketch.summary,
    releases: sketch.releases
      .filter((sketchRelease) => afterPatch || !sketchRelease.afterPatch)
      .map((sketchRelease) => ({
        version: sketchRelease.version,
        date: BUILDS[sketchRelease.from]!.date,
        builds: BUILDS.slice(sketchRelease.from, sketchRelease.to + 1).map(({ label }) => label),
        ...(sketch.kind === 'loader' && programOf && { programs: programsOf(sketchRelease, programOf) }),
        requires: (sketchRelease.requires ?? []).map(requirement),
        conflicts: (sketchRelease.conflicts ?? []).map(requirement),
        optional: (sketchRelease.optional ?? []).map(requirement),
        reports: REPORTS.filter(([id, version]) => id === sketch.id && version === sketchRelease.version).map(
          ([, , build, ran, against]) => ({ build: BUILDS[build]!.label, for: ran, against }),
        ),
        touches: sketch.touches,
        ...(sketchRelease.note ? { note: sketchRelease.note } : {}),
        files: filesOf(seed, sketch, sketchRelease).map(({ path, bytes }) => ({
          path,
          size: bytes.length,
          sha256: digest(bytes),
          href: `/stand-ins/catalogue/files/${sketch.id}/${sketchRelease.version}/${path}`,
        })),
      })),
  }));
  return CatalogueSchema.parse({ format: 'regressum-mod-catalogue', version: 1, mods });
}

/** @throws Failure `demo/unknown-file` */
export function modFileBytes(seed: number, id: string, version: string, path: string): Uint8Array<ArrayBuffer> {
  const sketch = MODS.find((m) => m.id === id);
  const sketchRelease = sketch?.releases.find((s) => s.version === version);
  const file = sketch && sketchRelease && filesOf(seed, sketch, sketchRelease).find((f) => f.path === path);
  if (!file) throw new Failure('demo/unknown-file', { path, mod: id, release: version });
  return file.bytes;
}

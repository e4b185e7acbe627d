import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { keyOf } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import {
  readArchives,
  toldByText,
  type ArchiveEntry,
  archiveKind,
  EntryGuard,
  type Ground,
  isPartOfArchive,
  namedRelease,
  placeFiles,
  placeOf,
  spellingOf,
} from '.';
import { cases } from '../testing/cases';

const entry = (path: string, more: Partial<ArchiveEntry> = {}): ArchiveEntry => ({
  ...{ path, size: 1, is: 'file', isEncrypted: false, modified: 0 },
  ...more,
});

describe('the entries of an archive', () => {
  const guard = (size = 1000) => new EntryGuard('fog.zip', size);

  it('are files by their paths, however folders are parted, without what systems leave there', () => {
    const one = guard();
    const paths = ['a\\b.txt', './c', '__MACOSX/a/._b.txt', 'd/.DS_Store', 'Thumbs.db'].map((path) =>
      one.path(entry(path)),
    );
    expect(paths).toEqual(['a/b.txt', 'c', undefined, undefined, undefined]);
    expect(one.path(entry('../e', { is: 'folder' }))).toBeUndefined();
  });

  it.each<[string, ArchiveEntry[], string]>([
    ['a path that climbs', [entry('../../a')], 'path/climbs'],
    ['one with the folders parted by \\ that does', [entry('a\\..\\..\\b')], 'path/climbs'],
    ['an absolute path', [entry('/etc/x')], 'path/absolute'],
    ['a drive', [entry('C:\\x')], 'path/absolute'],
    ['a link', [entry('a', { is: 'link' })], 'archive/not-a-file'],
    ['a device', [entry('a', { is: 'other' })], 'archive/not-a-file'],
    ['two names for one file', [entry('A/b'), entry('a/B')], 'path/collides'],
    ['a name twice', [entry('a'), entry('a')], 'path/collides'],
    ['a file as a folder', [entry('a'), entry('a/b')], 'path/collides'],
    ['what is encrypted', [entry('a', { isEncrypted: true })], 'archive/encrypted'],
    ['a claim of gigabytes', [entry('a', { size: 2e9 })], 'archive/too-large'],
    [
      'many claims that come to them',
      Array.from({ length: 20 }, (_, i) => entry(`${i}`, { size: 1e8 })),
      'archive/too-large',
    ],
  ])('are refused by name: %s', (_, entries, code) => {
    const one = guard();
    expect(() => entries.forEach((each) => one.path(each))).toThrow(expect.objectContaining({ code }));
  });

  it('are not more than a hundred thousand', () => {
    const one = guard();
    const add = () => {
      for (let i = 0; i <= 100_000; i++) one.path(entry(`f/${i}`));
    };
    expect(add).toThrow(
      expect.objectContaining({ code: 'archive/too-many', facts: { file: 'fog.zip', limit: 100_000 } }),
    );
  });

  it('may come to what a large archive can have', () => {
    const one = guard(5e9);
    expect(one.path(entry('a', { size: 60e9 }))).toBe('a');
  });
});

describe('an archive', () => {
  const head = (text: string): Uint8Array => Uint8Array.from(text, (sign) => sign.charCodeAt(0));
  it.each<[string, string | undefined]>([
    ['PK\u0003\u0004', 'zip'],
    ['PK\u0005\u0006', 'zip'],
    ['7z\u00bc\u00af\u0027\u001c', '7z'],
    ['Rar!\u001a\u0007\u0000', 'rar'],
    ['\u001f\u008b\u0008', 'tar.gz'],
    ['BZh9', 'packed'],
    ['PK', undefined],
    ['', undefined],
  ])('that begins with %j is %s', (text, kind) => expect(archiveKind(head(text))).toBe(kind));

  it('is a tar by its checksum, whatever its magic says', () => {
    const tar = new Uint8Array(512);
    tar.set(head('a.txt'));
    tar.fill(0x20, 148, 156);
    const sum = tar.reduce((all, byte) => all + byte, 0);
    tar.set(head(`${sum.toString(8).padStart(6, '0')}\u0000 `), 148);
    expect(archiveKind(tar)).toBe('tar');
    tar[0] = 0x62;
    expect(archiveKind(tar)).toBeUndefined();
    expect(archiveKind(new Uint8Array(512))).toBeUndefined();
  });

  it.each(['a.7z.001', 'a.part2.rar', 'a.z01', 'a.zip.003', 'b.r00'])('is one of several files: %s', (name) =>
    expect(isPartOfArchive(name)).toBe(true),
  );

  it.each<[string, string, string]>([
    ['Better_Fog-v1.2.zip', 'Better Fog', '1.2'],
    ['Better Fog 1.2.3-8812-1-2-3-1700000000.7z', 'Better Fog', '1.2.3'],
    ['fog (v2).rar', 'fog', '2'],
    ['1.4 Fog.zip', 'Fog', '1.4'],
    ['Fog2.tar.gz', 'Fog2', ''],
    ['Fog 2.zip', 'Fog 2', ''],
    ['v1.zip', 'v1', '1'],
    ['fog.v1.2b.zip', 'fog.v1.2b', ''],
  ])('called %s has %s %s', (name, mod, version) => expect(namedRelease(name)).toEqual({ name: mod, version }));
});

const VANILLA = [
  'game.prog',
  'data/routes.tab',
  'data/names.tab',
  'Textures/deck.tex',
  'Textures/sea/foam.tex',
  'docs/manual.pdf',
];
const RULES = { modsFolder: 'mods', own: [{ folder: 'player', kind: 'settings' as const }] };
const KNOWN = ['fog', 'rain', 'lamps'].flatMap((mod) => [
  { path: `mods/${mod}/${mod}.graft`, mod },
  { path: `mods/${mod}/art.tex`, mod },
]);
const bare: Ground = { rules: RULES, vanilla: VANILLA, mods: [] };
const learned: Ground = { ...bare, mods: KNOWN };
const ruled: Ground = {
  ...bare,
  rules: {
    ...RULES,
    layout: [
      { files: '*.graft', folder: 'mods', ownFolder: true },
      { files: '*.pak', folder: 'data/paks' },
    ],
  },
};
const byId: Ground = {
  ...bare,
  mods: ['fog', 'rain', 'lamps'].map((mod) => ({ path: `mods/${mod}/mod.json`, mod })),
};

/** What goes where; with a mark where it is asked. */
function placed(paths: readonly string[], ground: Ground, idIn?: (folder: string) => string | undefined): string[] {
  const { parts, aside } = placeFiles(paths, ground, idIn);
  const spelled = spellingOf(ground);
  return [
    ...parts.flatMap((part) =>
      part.paths.map((path) => {
        const place = placeOf(part, path);
        return `${path} > ${place === undefined ? '?' : spelled(place)}${part.isSure ? '' : ' ?'}`;
      }),
    ),
    ...aside.map((path) => `${path} > aside`),
  ].sort();
}

describe('files of an archive', () => {
  it.each<[string, Ground, string[], string[]]>([
    ['as the game has them', bare, ['data/routes.tab'], ['data/routes.tab > data/routes.tab']],
    [
      'as the game has them, in wrappers, with a note',
      bare,
      ['Fog 1.2/game/data/routes.tab', 'Fog 1.2/game/data/more.tab', 'Fog 1.2/readme.txt'],
      [
        'Fog 1.2/game/data/more.tab > data/more.tab',
        'Fog 1.2/game/data/routes.tab > data/routes.tab',
        'Fog 1.2/readme.txt > aside',
      ],
    ],
    ['in the folder of mods', bare, ['mods/fog/x.bin'], ['mods/fog/x.bin > mods/fog/x.bin']],
    [
      'spelled otherwise',
      bare,
      ['MODS/fog/x.bin', 'textures/DECK.tex'],
      ['MODS/fog/x.bin > mods/fog/x.bin', 'textures/DECK.tex > Textures/deck.tex'],
    ],
    ['that may be anything', bare, ['fog/x.bin', 'fog/y.bin'], ['fog/x.bin > ? ?', 'fog/y.bin > ? ?']],
    ['like those of a folder', bare, ['Textures/new.tex'], ['Textures/new.tex > Textures/new.tex ?']],
    ['in a folder twice', bare, ['mods/fog/fog/x.bin'], ['mods/fog/fog/x.bin > mods/fog/fog/x.bin ?']],
    [
      'at two places like the game’s',
      bare,
      ['a/data/routes.tab', 'b/data/routes.tab'],
      ['a/data/routes.tab > data/routes.tab ?', 'b/data/routes.tab > data/routes.tab ?'],
    ],
    ['known by a name alone', bare, ['fog/game.prog'], ['fog/game.prog > ? ?']],
    [
      'with the mark that mods have',
      learned,
      ['Fog 1.2/mist.graft', 'Fog 1.2/deep/x.bin'],
      ['Fog 1.2/deep/x.bin > mods/mist/deep/x.bin', 'Fog 1.2/mist.graft > mods/mist/mist.graft'],
    ],
    [
      'without a folder',
      learned,
      ['mist.graft', 'x.bin', 'readme.md'],
      ['mist.graft > mods/mist/mist.graft', 'readme.md > mods/mist/readme.md', 'x.bin > mods/mist/x.bin'],
    ],
    [
      'a folder too deep',
      learned,
      ['mods/mist/mist/mist.graft', 'mods/mist/mist/x.bin'],
      ['mods/mist/mist/mist.graft > mods/mist/mist.graft', 'mods/mist/mist/x.bin > mods/mist/x.bin'],
    ],
    [
      'of two mods',
      learned,
      ['a/mist.graft', 'b/snow.graft'],
      ['a/mist.graft > mods/mist/mist.graft', 'b/snow.graft > mods/snow/snow.graft'],
    ],
    [
      'to choose from',
      learned,
      ['low/mist.graft', 'low/x', 'high/mist.graft', 'high/x'],
      [
        'high/mist.graft > mods/mist/mist.graft ?',
        'high/x > mods/mist/x ?',
        'low/mist.graft > mods/mist/mist.graft ?',
        'low/x > mods/mist/x ?',
      ],
    ],
    [
      'of two mods in one folder',
      learned,
      ['mist.graft', 'snow.graft'],
      ['mist.graft > mods/mist/mist.graft ?', 'snow.graft > mods/mist/snow.graft ?'],
    ],
    [
      'of a mod and of the game',
      learned,
      ['mist/mist.graft', 'data/routes.tab'],
      ['data/routes.tab > data/routes.tab', 'mist/mist.graft > mods/mist/mist.graft'],
    ],
    [
      'of a mod with a tree like the game’s in it',
      learned,
      ['mist/mist.graft', 'mist/data/routes.tab'],
      ['mist/data/routes.tab > mods/mist/data/routes.tab ?', 'mist/mist.graft > mods/mist/mist.graft ?'],
    ],
    [
      'of such a mod where mods are like that',
      { ...learned, mods: [...KNOWN, { path: 'mods/fog/data/names.tab', mod: 'fog' }] },
      ['mist/mist.graft', 'mist/data/routes.tab'],
      ['mist/data/routes.tab > mods/mist/data/routes.tab', 'mist/mist.graft > mods/mist/mist.graft'],
    ],
    [
      'by the game’s rules',
      ruled,
      ['Mist/a.graft', 'Mist/x'],
      ['Mist/a.graft > mods/Mist/a.graft', 'Mist/x > mods/Mist/x'],
    ],
    ['by the game’s rules, in no folder', ruled, ['a.graft'], ['a.graft > ? ?']],
    ['by the game’s rules, in a folder that is hardly meant', ruled, ['Option B/a.graft'], ['Option B/a.graft > ? ?']],
    [
      'by the game’s rules, one by one',
      ruled,
      ['x/y/big.pak', 'notes.txt'],
      ['notes.txt > aside', 'x/y/big.pak > data/paks/big.pak'],
    ],
    [
      'by the game’s rules, of one name',
      ruled,
      ['a/big.pak', 'b/big.pak'],
      ['a/big.pak > data/paks/big.pak ?', 'b/big.pak > data/paks/big.pak ?'],
    ],
    [
      'by the game’s rules, of several folders',
      ruled,
      ['a/one.pak', 'b/two.pak'],
      ['a/one.pak > data/paks/one.pak ?', 'b/two.pak > data/paks/two.pak ?'],
    ],
    ['by the game’s rules, of an option', ruled, ['Optional/one.pak'], ['Optional/one.pak > data/paks/one.pak ?']],
    [
      'of two mods, one of them an option',
      learned,
      ['Main/fog/fog.graft', 'Optional/mist/mist.graft'],
      ['Main/fog/fog.graft > mods/fog/fog.graft ?', 'Optional/mist/mist.graft > mods/mist/mist.graft ?'],
    ],
    ['where the player’s own lie', bare, ['player/keys.ini'], ['player/keys.ini > player/keys.ini ?']],
    [
      'with the mod’s own picture and text',
      bare,
      ['mods/fog/x.bin', 'mods/fog/icon.png', 'mods/readme.txt'],
      ['mods/fog/icon.png > mods/fog/icon.png', 'mods/fog/x.bin > mods/fog/x.bin', 'mods/readme.txt > aside'],
    ],
    [
      'with a new picture among the game’s',
      { ...bare, vanilla: [...VANILLA, 'art/logo.png'] },
      ['art/logo.png', 'art/new.png', 'shot.png'],
      ['art/logo.png > art/logo.png', 'art/new.png > art/new.png', 'shot.png > aside'],
    ],
    [
      'with pictures beside what may be anything',
      bare,
      ['fog/x.bin', 'fog/a.png', 'shot.png'],
      ['fog/a.png > ? ?', 'fog/x.bin > ? ?', 'shot.png > aside'],
    ],
    [
      'that are pictures in a folder alone',
      bare,
      ['decks/a.png', 'readme.txt'],
      ['decks/a.png > ? ?', 'readme.txt > aside'],
    ],
    [
      'that are notes and pictures alone',
      learned,
      ['readme.txt', 'shot.png'],
      ['readme.txt > aside', 'shot.png > aside'],
    ],
    [
      'with a picture that the game has',
      { ...bare, vanilla: [...VANILLA, 'art/logo.png'] },
      ['x/art/logo.png'],
      ['x/art/logo.png > art/logo.png'],
    ],
  ])('%s', (_, ground, paths, expected) => expect(placed(paths, ground)).toEqual([...expected].sort()));

  it('of a mod whose folder is called by its id go where their own text says', () => {
    const files = ['Better Fog/mod.json', 'Better Fog/x'];
    expect(placed(files, byId, () => 'mist')).toEqual([
      'Better Fog/mod.json > mods/mist/mod.json',
      'Better Fog/x > mods/mist/x',
    ]);
    expect(placed(files, byId)).toEqual(['Better Fog/mod.json > ? ?', 'Better Fog/x > ? ?']);
  });

  const name = fc.stringMatching(/^[a-z]{1,3}$/);
  const path = fc
    .array(fc.oneof(name, fc.constantFrom('mods', 'data', 'Textures', 'fog', 'deck.tex', 'routes.tab')), {
      minLength: 1,
      maxLength: 4,
    })
    .chain((parts) => fc.constantFrom('', '.graft', '.tab', '.tex').map((end) => `${parts.join('/')}${end}`));

  const grounds = fc.constantFrom(bare, learned, ruled);
  const archive = fc.uniqueArray(path, { minLength: 1, maxLength: 8 });
  /** Where the files go that are placed without asking, by their paths. */
  const sure = (paths: readonly string[], ground: Ground): Map<string, string> =>
    new Map(
      placeFiles(paths, ground).parts.flatMap((part) =>
        part.isSure ? part.paths.map((one) => [one, placeOf(part, one)!] as const) : [],
      ),
    );

  it('are each in one part, or aside', () => {
    fc.assert(
      fc.property(archive, grounds, (paths, ground) => {
        const { parts, aside } = placeFiles(paths, ground);
        expect([...parts.flatMap((part) => part.paths), ...aside].sort()).toEqual([...paths].sort());
      }),
    );
  });

  it('go where they would without a folder around them, where that is sure', () => {
    fc.assert(
      fc.property(archive, grounds, (paths, ground) => {
        const wrapped = sure(
          paths.map((one) => `Wrapper 1.0/${one}`),
          ground,
        );
        for (const [one, place] of sure(paths, ground))
          expect([undefined, place]).toContain(wrapped.get(`Wrapper 1.0/${one}`));
      }),
      { numRuns: cases(100) },
    );
  });

  it('never go to one place where that is sure', () => {
    fc.assert(
      fc.property(archive, grounds, (paths, ground) => {
        const places = [...sure(paths, ground).values()].map((place) => place.toLowerCase());
        expect(new Set(places).size).toBe(places.length);
      }),
    );
  });
});

describe('what a text tells of a mod', () => {
  it.each<[string, object]>([
    ['{"id":"mist","name":"Mist","version":2,"other":{"id":"no"}}', { id: 'mist', name: 'Mist', version: '2' }],
    ['{ // made by hand\n  "name": "Mist",\n  "version": "1.2" }', { name: 'Mist', version: '1.2' }],
    ['[mod]\nName = Mist\nversion=1.2\n', { name: 'Mist', version: '1.2' }],
    ['name: "Mist"\nid: mist', { name: 'Mist', id: 'mist' }],
    ['<?xml version="1.0"?>\n<mod id="mist"><name>Mist</name></mod>', { id: 'mist', name: 'Mist' }],
    ['{"name":""}', {}],
    ['words about a name', {}],
    ['', {}],
  ])('%j', (text, told) => expect(toldByText(text)).toEqual(told));
});

describe('archives that come together', () => {
  const catalogue = catalogueOf({ haze: [{ version: '1' }, { version: '2' }] });
  const archive = (name: string, files: Record<string, string>) => ({
    name,
    files: Object.entries(files).map(([path, text]) => ({ path, key: keyOf(text), modified: 0 })),
    texts: Object.entries(files).filter(([path]) => path.endsWith('.json')),
  });
  const withFiles = (files: Record<string, string>): typeof catalogue => ({
    ...catalogue,
    mods: catalogue.mods.map((mod) => ({
      ...mod,
      releases: mod.releases.map((release) => ({
        ...release,
        files: Object.entries(files).map(([path, text]) => ({
          ...{ path, size: text.length, sha256: keyOf(`${text}`).split(':')[1]!, href: '' },
        })),
      })),
    })),
  });

  it('have a release that is known by its bytes, wherever they lie, in several of them', () => {
    const known = withFiles({ 'mods/haze/haze.graft': 'graft', 'mods/haze/art.tex': 'art', 'mods/haze/empty': '' });
    const [one, two] = [
      archive('a.zip', { 'x/renamed.graft': 'graft', 'readme.txt': 'words' }),
      archive('art.zip', { 'art.tex': 'art' }),
    ];
    const both = readArchives([one, two], known, learned);
    expect(both.known).toEqual([
      {
        ...{ mod: 'haze', name: catalogue.mods[0]!.name, release: '2', missing: [] },
        files: [
          { archive: 0, path: 'x/renamed.graft', place: 'mods/haze/haze.graft' },
          { archive: 1, path: 'art.tex', place: 'mods/haze/art.tex' },
        ],
      },
    ]);
    expect(both.drafts).toEqual([]);
    expect(both.aside).toEqual([{ archive: 0, path: 'readme.txt' }]);
    // One of two is no more than half: it may be of another release.
    expect(readArchives([two], known, learned).known).toEqual([]);
  });

  it('that have most of a known release are told what is missing', () => {
    const known = withFiles({ a: '1', b: '2', c: '3' });
    const { known: found } = readArchives([archive('x.zip', { a: '1', b: '2' })], known, learned);
    expect(found[0]).toMatchObject({ mod: 'haze', missing: ['c'] });
  });

  it('with several releases of a mod, known or not, are told which of them are older', () => {
    const known = {
      ...catalogue,
      mods: catalogue.mods.map((mod) => ({
        ...mod,
        name: 'Haze',
        releases: mod.releases.map((release) => ({
          ...release,
          files: ['a', 'b'].map((path) => ({
            ...{ path, size: 2, sha256: keyOf(`${path}${release.version}`).split(':')[1]!, href: '' },
          })),
        })),
      })),
    };
    const { known: found, drafts } = readArchives(
      [
        archive('1.zip', { 'x/a': 'a1', 'x/b': 'b1' }),
        archive('2.zip', { 'x/a': 'a2', 'x/b': 'b2' }),
        archive('Haze-v1.9.zip', { 'Haze/haze.graft': 'older' }),
        archive('Mist-v1.10.zip', { 'Mist/mist.graft': 'new' }),
        archive('Mist-v1.9.zip', { 'Mist/mist.graft': 'old' }),
      ],
      known,
      learned,
    );
    expect(found.map(({ release, newer }) => [release, newer]).toSorted()).toEqual([
      ['1', '2'],
      ['2', undefined],
    ]);
    expect(drafts.map(({ name, version, newer }) => [name, version, newer])).toEqual([
      ['Haze', '1.9', '2'],
      ['Mist', '1.10', undefined],
      ['Mist', '1.9', '1.10'],
    ]);
  });

  it('with mods that nobody knows are named by what they say, by their archive, and by their folder where there are several', () => {
    const { drafts } = readArchives(
      [
        archive('Mist-v1.2.zip', { 'Mist/mist.graft': '1' }),
        archive('pack.zip', { 'a/snow.graft': '2', 'b/sleet.graft': '3' }),
        archive('thing.zip', { 'x/y.graft': '4', 'x/mod.json': '{"name":"Haze","version":"9"}' }),
      ],
      { ...catalogue, mods: catalogue.mods.map((mod) => ({ ...mod, name: 'Haze' })) },
      learned,
    );
    expect(drafts.map(({ archive: of, name, version, mod }) => [of, name, version, mod?.id])).toEqual([
      [0, 'Mist', '1.2', undefined],
      [1, 'snow', '', undefined],
      [1, 'sleet', '', undefined],
      [2, 'Haze', '9', 'haze'],
    ]);
  });
});

describe('mods as people wrap them', () => {
  const rulesOf = (rules: Partial<Ground['rules']>): Ground['rules'] => ({ own: [], ...rules });
  const vanilla = ['art/hull.tex', 'art/sky.tex', 'data/ports/east.csv', 'data/ports/west.csv', 'game.prog'];
  const others = ['ash', 'birch', 'cedar', 'elm'];

  /** Games by how their mods lie; each says where the files of a mod with some contents belong. */
  const GAMES: Readonly<Record<string, { ground: Ground; at: (id: string, file: string) => string }>> = {
    'a folder a mod, called by its id': {
      ground: {
        rules: rulesOf({ modsFolder: 'mods' }),
        vanilla,
        mods: others.flatMap((id) => [
          { path: `mods/${id}/about.json`, mod: id },
          { path: `mods/${id}/${id}.dat`, mod: id },
        ]),
      },
      at: (id, file) => `mods/${id}/${file}`,
    },
    'a folder a mod, by the game’s rules': {
      ground: {
        rules: rulesOf({ modsFolder: 'mods', layout: [{ files: 'about.json', folder: 'mods', ownFolder: true }] }),
        vanilla,
        mods: [],
      },
      at: (id, file) => `mods/${id}/${file}`,
    },
    'packs side by side': {
      ground: {
        rules: rulesOf({ modsFolder: 'packs', layout: [{ files: '*.pack', folder: 'packs' }] }),
        vanilla,
        mods: [],
      },
      at: (_, file) => `packs/${file}`,
    },
  };

  /** What people do to the folders of a mod before they pack it; the last part of its path never changes. */
  const WRAPS: Readonly<Record<string, (path: string, id: string) => string>> = {
    'as it lies': (path) => path,
    'in a folder': (path, id) => `${id} final/${path}`,
    'in two folders': (path, id) => `New folder/${id}_v2/${path}`,
    'in other letters': (path) => path.replace(/^(mods|packs|art|data)/, (top) => top.toUpperCase()),
    'without the folder of mods': (path) => path.replace(/^(?:mods|packs)\//, ''),
    'its own folder twice': (path, id) => path.replace(`mods/${id}/`, `mods/${id}/${id}/`),
    'its files alone': (path, id) => path.replace(new RegExp(`^(?:mods/${id}|packs)/`), ''),
  };

  const shapes = fc.record({
    game: fc.constantFrom(...Object.keys(GAMES)),
    wrap: fc.constantFrom(...Object.keys(WRAPS)),
    id: fc.constantFrom('fir', 'oak', 'pine', 'rowan', 'yew'),
    own: fc.uniqueArray(fc.constantFrom('look.tex', 'sub/deep.bin', 'sub/more/far.csv', 'words.xml'), { maxLength: 3 }),
    over: fc.subarray(['art/hull.tex', 'art/sky.tex', 'data/ports/east.csv']),
    added: fc.subarray(['art/new.tex', 'data/ports/north.csv']),
    notes: fc.subarray(['readme.txt', 'before and after.png', 'LICENSE']),
    says: fc.boolean(),
  });

  it('go where they belong, or are asked about: not one of 200 shapes is placed wrongly', () => {
    let [sure, all] = [0, 0];
    fc.assert(
      fc.property(shapes, ({ game, wrap, id, own, over, added, notes, says }) => {
        const { ground, at } = GAMES[game]!;
        const isPacks = game.startsWith('packs');
        const files = isPacks ? [`${id}.pack`, `${id}-art.pack`] : ['about.json', `${id}.dat`, ...own];
        const truth = [...files.map((file) => at(id, file)), ...over, ...(over.length > 0 ? added : [])];
        const wrapped = new Map(truth.map((path) => [WRAPS[wrap]!(path, id), path]));
        // Two files that fell together are nobody's archive.
        fc.pre(wrapped.size === truth.length);
        const paths = [...wrapped.keys(), ...notes];
        const texts = [...wrapped].flatMap(([path, belongs]): [string, string][] =>
          belongs.endsWith('about.json') && says ? [[path, JSON.stringify({ id, version: '1.0' })]] : [],
        );
        const archive = {
          ...{ name: `${id}.zip`, texts },
          files: paths.map((path) => ({ path, key: keyOf(path), modified: 0 })),
        };
        const spelled = spellingOf(ground);
        const { drafts, aside } = readArchives([archive], catalogueOf({}), ground);
        const placed = drafts.flatMap(({ parts }) =>
          parts.flatMap((part) => (part.isSure ? part.paths.map((path) => [path, placeOf(part, path)] as const) : [])),
        );
        for (const [path, place] of placed) {
          // A note that goes along with the mod it lies beside does no harm; elsewhere it has no place.
          if (notes.includes(path)) expect(place, path).toBe(at(id, path));
          else expect(place === undefined ? place : spelled(place), path).toBe(wrapped.get(path));
        }
        for (const { path } of aside) expect(notes).toContain(path);
        sure += placed.length === wrapped.size ? 1 : 0;
        all += 1;
      }),
      { numRuns: cases(100), seed: 1 },
    );
    // To ask about everything would be no recognition.
    expect(sure / all).toBeGreaterThan(0.5);
  });
});

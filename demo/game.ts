import { asBuild, asDepot, type Depot, type DepotIndex } from '#core/builds';

/** The made-up game of the demo, by the made-up studio Oxbow Lantern. */
export const GAME: DepotIndex['game'] = {
  id: 'ferrywake',
  title: 'Ferrywake',
  rules: {
    program: 'bin/ferrywake.prog',
    loader: 'bin/towline.lib',
    modsFolder: 'mods',
    loadOrder: 'mods/load-order.txt',
    record: {
      ...{ file: 'record.json', form: 'json', at: 'updates', stops: 'when-asked', goes: 'by-itself' },
      ...{ build: 'build', branch: 'branch', branchCode: 'branchCode' },
    },
    own: [
      { folder: 'saves', kind: 'saves', buildAfter: 'FERRYWAKE SAVE ' },
      { folder: 'player/liveries', kind: 'content' },
      { folder: 'player', kind: 'settings' },
      { folder: 'mods/*/own-*.ini', kind: 'presets' },
    ],
  },
};

/**
 * The builds from old to new. `churn` is the share of the files that changed since the build before; the hotfix 3.1.1
 * changes little but the program.
 */
export const BUILDS = [
  { label: asBuild('2.6.0'), date: '2025-02-12', churn: 0 },
  { label: asBuild('2.7.3'), date: '2025-05-03', churn: 0.05 },
  { label: asBuild('2.8.1'), date: '2025-08-21', churn: 0.05 },
  { label: asBuild('2.9.4'), date: '2025-11-30', churn: 0.06 },
  { label: asBuild('3.0.0'), date: '2026-03-18', churn: 0.14 },
  { label: asBuild('3.0.2'), date: '2026-04-02', churn: 0.02 },
  { label: asBuild('3.1.0'), date: '2026-06-10', churn: 0.06 },
  { label: asBuild('3.1.1'), date: '2026-06-24', churn: 0.004 },
  { label: asBuild('3.2.0'), date: '2026-07-15', churn: 0.05 },
] as const;

/** Place of the "Deep Locks" update, which brought files that must not stay in an older folder and renamed `sounds`. */
export const DEEP_LOCKS = 4;

export const BRANCHES: DepotIndex['branches'] = [
  { name: 'main', build: asBuild('3.1.1'), needsCode: false },
  { name: 'steady', build: asBuild('2.9.4'), needsCode: false },
  { name: 'trial', build: asBuild('3.2.0'), needsCode: true },
];

const depot = (
  order: number,
  id: string,
  title: string,
  kind: Depot['kind'],
  orderMatters = false,
  language?: string,
): Depot => ({ id: asDepot(id), title, kind, order, orderMatters, ...(language ? { language } : {}) });

export const DEPOTS: readonly Depot[] = [
  depot(1, 'core', 'Core', 'core', true),
  depot(2, 'core-fixes', 'Core fixes', 'core', true),
  depot(3, 'program', 'Program', 'program', true),
  depot(4, 'world-east', 'World east', 'world'),
  depot(5, 'world-west', 'World west', 'world'),
  depot(6, 'fine-textures', 'Fine textures', 'optional'),
  depot(7, 'voices-en', 'Voices, English', 'language', false, 'en'),
  depot(8, 'voices-de', 'Voices, German', 'language', false, 'de'),
  depot(9, 'voices-ja', 'Voices, Japanese', 'language', false, 'ja'),
  depot(10, 'winter-ice', 'Winter Ice', 'add-on'),
  depot(11, 'salt-coast', 'Salt Coast', 'add-on'),
];

import { asDepot, type DepotId } from '#core/builds';
import { BUILDS, DEEP_LOCKS } from './game';
import { between, fraction } from './random';

export type FileKind = 'table' | 'json' | 'ini' | 'xml' | 'plain' | 'archive' | 'program' | 'build-mark';

/** The life of one file of one depot over all builds. */
export interface FileLife {
  readonly depot: DepotId;
  readonly kind: FileKind;
  /** Seeds the content; two depots with a file at one path have different contents. */
  readonly name: string;
  /** Bytes of a binary file, rows or entries of a text. */
  readonly amount: number;
  /** First build that has it, and the first that no longer does. */
  readonly born: number;
  readonly gone: number;
  /** Its path from a build onward; the last entry that has begun counts. */
  readonly paths: readonly { readonly since: number; readonly path: string }[];
  /** Builds at which its content changed. */
  readonly changes: readonly number[];
}

interface Group {
  depot: string;
  kind: FileKind;
  /** Makes the path of file `i`. */
  path: (i: number) => string;
  count: number;
  amount: [number, number];
  born?: number;
  /** Path from 3.0.0 onward. */
  renamed?: (i: number) => string;
}

const number = (i: number): string => String(i + 1).padStart(3, '0');
const TABLES = [
  ...[
    'vessels',
    'locks',
    'tariffs',
    'crews',
    'harbours',
    'routes',
    'cargo',
    'weather',
    'wages',
    'fuel',
    'tides',
    'bells',
  ],
  ...[
    'contracts',
    'passengers',
    'repairs',
    'upgrades',
    'bridges',
    'depths',
    'winds',
    'ranks',
    'loans',
    'towns',
    'guilds',
    'taxes',
  ],
];

const GROUPS: readonly Group[] = [
  {
    depot: 'core',
    kind: 'table',
    path: (i) => `tables/${TABLES[i % 24]}${i < 24 ? '' : i}.csv`,
    count: 24,
    amount: [60, 500],
  },
  { depot: 'core', kind: 'json', path: (i) => `config/part-${number(i)}.json`, count: 40, amount: [20, 160] },
  { depot: 'core', kind: 'json', path: () => 'config/engine.json', count: 1, amount: [60, 60] },
  { depot: 'core', kind: 'build-mark', path: () => 'config/build.json', count: 1, amount: [1, 1] },
  { depot: 'core', kind: 'ini', path: (i) => `settings/defaults-${number(i)}.ini`, count: 6, amount: [20, 60] },
  { depot: 'core', kind: 'xml', path: (i) => `ui/panel-${number(i)}.xml`, count: 60, amount: [20, 120] },
  { depot: 'core', kind: 'plain', path: (i) => `textures/tx-${number(i)}.tex`, count: 150, amount: [20e3, 90e3] },
  {
    depot: 'core',
    kind: 'plain',
    path: (i) => `sounds/sd-${number(i)}.snd`,
    renamed: (i) => `audio/sd-${number(i)}.snd`,
    count: 90,
    amount: [20e3, 70e3],
  },
  { depot: 'core', kind: 'archive', path: (i) => `archives/part-${number(i)}.fwa`, count: 9, amount: [1.6e6, 4.2e6] },
  {
    depot: 'core',
    kind: 'archive',
    path: () => 'archives/deep-locks.fwa',
    count: 1,
    amount: [2.4e6, 2.4e6],
    born: DEEP_LOCKS,
  },
  { depot: 'core', kind: 'table', path: () => 'tables/deep_gates.csv', count: 1, amount: [120, 120], born: DEEP_LOCKS },
  { depot: 'core-fixes', kind: 'table', path: (i) => `tables/${TABLES[i * 3]}.csv`, count: 8, amount: [60, 500] },
  { depot: 'core-fixes', kind: 'json', path: (i) => `config/part-${number(i * 4)}.json`, count: 10, amount: [20, 160] },
  { depot: 'core-fixes', kind: 'json', path: () => 'config/engine.json', count: 1, amount: [60, 60] },
  { depot: 'core-fixes', kind: 'xml', path: (i) => `ui/panel-${number(i * 7)}.xml`, count: 7, amount: [20, 120] },
  {
    depot: 'core-fixes',
    kind: 'plain',
    path: (i) => `textures/tx-${number(i * 9)}.tex`,
    count: 14,
    amount: [20e3, 90e3],
  },
  { depot: 'core-fixes', kind: 'archive', path: () => 'archives/part-003.fwa', count: 1, amount: [2e6, 2e6] },
  { depot: 'program', kind: 'program', path: () => 'bin/ferrywake.prog', count: 1, amount: [3.2e6, 3.2e6] },
  { depot: 'program', kind: 'plain', path: (i) => `bin/wake-${number(i)}.lib`, count: 6, amount: [200e3, 700e3] },
  { depot: 'program', kind: 'json', path: () => 'config/engine.json', count: 1, amount: [60, 60] },
  {
    depot: 'world-east',
    kind: 'plain',
    path: (i) => `world/east/tile-${number(i)}.map`,
    count: 180,
    amount: [20e3, 60e3],
  },
  {
    depot: 'world-east',
    kind: 'plain',
    path: (i) => `world/east/deep-${number(i)}.map`,
    count: 20,
    amount: [20e3, 60e3],
    born: DEEP_LOCKS,
  },
  {
    depot: 'world-west',
    kind: 'plain',
    path: (i) => `world/west/tile-${number(i)}.map`,
    count: 170,
    amount: [20e3, 60e3],
  },
  {
    depot: 'fine-textures',
    kind: 'plain',
    path: (i) => `textures/tx-${number(i * 3 + 1)}.tex`,
    count: 40,
    amount: [60e3, 160e3],
  },
  {
    depot: 'fine-textures',
    kind: 'plain',
    path: (i) => `textures/fine/fx-${number(i)}.tex`,
    count: 50,
    amount: [60e3, 160e3],
  },
  ...['en', 'de', 'ja'].flatMap((language): Group[] => [
    {
      depot: `voices-${language}`,
      kind: 'plain',
      path: (i) => `voices/line-${number(i)}.snd`,
      count: 140,
      amount: [15e3, 45e3],
    },
    {
      depot: `voices-${language}`,
      kind: 'json',
      path: (i) => `texts/page-${number(i)}.json`,
      count: 20,
      amount: [20, 120],
    },
  ]),
  { depot: 'winter-ice', kind: 'plain', path: (i) => `winter/floe-${number(i)}.map`, count: 88, amount: [20e3, 60e3] },
  { depot: 'winter-ice', kind: 'table', path: () => 'tables/vessels.csv', count: 1, amount: [200, 200] },
  { depot: 'winter-ice', kind: 'table', path: () => 'tables/ice.csv', count: 1, amount: [200, 200] },
  { depot: 'salt-coast', kind: 'plain', path: (i) => `salt/pan-${number(i)}.map`, count: 80, amount: [20e3, 60e3] },
];

function changesOf(seed: number, name: string, kind: FileKind, born: number): number[] {
  const eachBuild = kind === 'program' || kind === 'build-mark';
  return BUILDS.flatMap(({ label, churn }, i) =>
    i > born && (eachBuild || fraction(seed, `${name} at ${label}`) < churn * (kind === 'archive' ? 3 : 1)) ? [i] : [],
  );
}

/** One texture in twenty-five moves into a shared folder at 3.1.0, with its bytes as they are. */
function movesOf(seed: number, path: string): { since: number; path: string }[] {
  const moves = path.startsWith('textures/tx-') && fraction(seed, `${path} moves`) < 0.04;
  return moves ? [{ since: 6, path: path.replace('textures/', 'textures/shared/') }] : [];
}

/**
 * The lives of all files of all depots.
 * @param files multiplies the number of files in each large group
 * @param bytes multiplies the bytes of each binary file
 * @param spokenOf paths that are there whatever their number
 */
export function fileLives(seed: number, files: number, bytes: number, spokenOf: ReadonlySet<string>): FileLife[] {
  return GROUPS.flatMap((group) => {
    const count = group.count > 20 ? Math.max(1, Math.round(group.count * files)) : group.count;
    const isBinary = ['plain', 'archive', 'program'].includes(group.kind);
    // With fewer files as well, mods find those that they are about.
    const numbers = Array.from({ length: Math.max(count, group.count) }, (_, i) => i).filter(
      (i) => i < count || spokenOf.has(group.path(i)),
    );
    return numbers.map((i): FileLife => {
      const path = group.path(i);
      const name = `${group.depot}/${path}`;
      const born = group.born ?? 0;
      const amount = between(seed, `${name} amount`, ...group.amount);
      return {
        depot: asDepot(group.depot),
        kind: group.kind,
        name,
        amount: isBinary ? Math.max(1, Math.round(amount * bytes)) : amount,
        born,
        // One file in a hundred is dropped at 3.0.0, so that going back needs files that are nowhere on disk.
        gone: isBinary && group.kind === 'plain' && fraction(seed, `${name} gone`) < 0.01 ? DEEP_LOCKS : BUILDS.length,
        paths: [
          { since: 0, path },
          ...(group.renamed ? [{ since: DEEP_LOCKS, path: group.renamed(i) }] : []),
          ...movesOf(seed, path),
        ],
        changes: changesOf(seed, name, group.kind, born),
      };
    });
  });
}

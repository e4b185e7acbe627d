import type { Sha256 } from '#core/digest';

/** A file in a bag, with the SHA-256 of its bytes. */
export interface BagEntry {
  /** Below the payload's folder. */
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  readonly sha256: string;
}

/** Lines of a metadata file may not have a line break in them. */
const oneLine = (text: string): string => text.replaceAll(/\s+/g, ' ').trim();

/** What a keepsake says of itself; reserved names of RFC 8493, section 2.2.2, where there is one. */
export interface KeepsakeInfo {
  readonly what: 'keepsake';
  /** ISO date. */
  readonly date: string;
  readonly game: string;
  readonly folder: string;
  /** The build that lay there, as far as it was known. */
  readonly build: string | undefined;
  /** Undefined where nobody knows. */
  readonly mods: number | undefined;
}

/** What a backup of all that a browser keeps says of itself. */
export interface BackupInfo {
  readonly what: 'backup';
  /** ISO date. */
  readonly date: string;
  /** Titles of the folders in it. */
  readonly folders: readonly string[];
}

/** What a hold sheet with what belongs to it says of itself. */
export interface SheetInfo {
  readonly what: 'hold-sheet';
  /** ISO date. */
  readonly date: string;
  readonly game: string;
  readonly build: string;
}

export type BagInfo = KeepsakeInfo | BackupInfo | SheetInfo;

const keepsakeLines = ({ game, folder, build, mods }: KeepsakeInfo): string[] => [
  `External-Description: Saves, settings and own content of ${oneLine(game)}`,
  `Regressum-Folder: ${oneLine(folder)}`,
  ...(build === undefined ? [] : [`Regressum-Build: ${oneLine(build)}`]),
  ...(mods === undefined ? [] : [`Regressum-Mods: ${mods}`]),
];

const backupLines = ({ folders }: BackupInfo): string[] => [
  'External-Description: What Regressum keeps in a browser',
  ...folders.map((folder) => `Regressum-Folder: ${oneLine(folder)}`),
];

const sheetLines = ({ game, build }: SheetInfo): string[] => [
  `External-Description: What is held of ${oneLine(game)}`,
  `Regressum-Build: ${oneLine(build)}`,
];

function linesOf(info: BagInfo): string[] {
  switch (info.what) {
    case 'keepsake':
      return keepsakeLines(info);
    case 'backup':
      return backupLines(info);
    case 'hold-sheet':
      return sheetLines(info);
  }
}

/** The folder of a bag with what it is for. */
export const BAG_PAYLOAD = 'data';

/** A safe name for a bag and its archive; RFC 8493 wants the archive's only folder to be named as the archive is. */
export function bagName(of: string, date: string, what: BagInfo['what'] = 'keepsake'): string {
  return `${of}-${what}-${date.slice(0, 19).replace(/[^0-9T]/g, '')}`;
}

/** Manifests write CR, LF and the percent sign of a path in percent-encoding (RFC 8493, section 2.1.3). */
const encoded = (path: string): string => path.replaceAll('%', '%25').replaceAll('\n', '%0A').replaceAll('\r', '%0D');

const checksums = (files: readonly { path: string; sha256: string }[]): string =>
  files.map(({ path, sha256 }) => `${sha256}  ${encoded(path)}\n`).join('');

/**
 * The files of a bag besides its payload, in BagIt form (RFC 8493), version 1.0 with SHA-256 manifests.
 * @param tags further texts that a program may leave there (section 2.2.4)
 * @returns text by path, in the order in which they are best written
 */
export async function bagFiles(
  info: BagInfo,
  payload: readonly BagEntry[],
  sha256: Sha256,
  tags: readonly (readonly [path: string, text: string])[] = [],
): Promise<ReadonlyMap<string, string>> {
  const bytes = payload.reduce((sum, { size }) => sum + size, 0);
  const files = new Map([
    ['bagit.txt', 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n'],
    [
      'bag-info.txt',
      [
        `Bagging-Date: ${info.date.slice(0, 10)}`,
        `Payload-Oxum: ${bytes}.${payload.length}`,
        ...linesOf(info),
        '',
      ].join('\n'),
    ],
    [
      'manifest-sha256.txt',
      checksums(payload.map(({ path, sha256: hex }) => ({ path: `${BAG_PAYLOAD}/${path}`, sha256: hex }))),
    ],
    ...tags,
  ]);
  const sums = await Promise.all([...files].map(async ([path, text]) => ({ path, sha256: await sha256(text) })));
  return files.set('tagmanifest-sha256.txt', checksums(sums));
}

/**
 * Reads a bag's payload manifest; inverse of what {@link bagFiles} writes there.
 * @returns SHA-256 by path below the bag
 */
export function bagChecksums(text: string): Map<string, string> {
  const decoded = (path: string): string =>
    path.replace(/%(25|0A|0D)/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)));
  return new Map(
    text
      .split(/\r?\n|\r/)
      .map((line) => /^([0-9a-f]{32,128})\s+\*?(.+)$/i.exec(line))
      .flatMap((match) => (match ? [[decoded(match[2]!), match[1]!.toLowerCase()] as const] : [])),
  );
}

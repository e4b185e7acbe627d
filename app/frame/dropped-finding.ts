import { archiveKind, type ArchiveKind, HEAD_BYTES } from '#core/archives';
import { leastOwnership } from '#core/builds';
import { isFailure } from '#core/failure';
import { SHEET_FILES } from '#core/hold';
import { BAG_PAYLOAD } from '#core/keepsakes';
import { counted } from '~/parts/format';
import { query } from '~/queries';
import {
  addGameOf,
  bringDepotsOf,
  bringInOffer,
  bytesOf,
  type FolderOffer,
  type HandedFile,
  handArchiveOver,
  handFiles,
  handModsOver,
  handSheetOver,
  handTextOver,
  importGame,
  listFile,
  type NewFolder,
  noteStart,
  pageOfImported,
} from '~/commands';
import { getIndex, getInstall, type Install, listInstalls } from '~/store';

/** What was dropped turned out to be, and what can be done with it. */
export interface Finding {
  readonly title: string;
  readonly says: string;
  readonly act?: string;
  /** @returns the page to open then */
  readonly run?: () => Promise<string>;
  /** What else can be done with it. */
  readonly other?: { readonly act: string; readonly run: () => Promise<string> };
}

/** Where something was dropped: on a folder’s pages, on those of a game, or on neither. */
export type Open = Install | { readonly game: string } | undefined;

const installOf = (open: Open): Install | undefined => (open && 'id' in open ? open : undefined);

/** What is owned of a game: as its first folder has it, or the least. */
async function usualOf(game: string): Promise<Pick<NewFolder, 'ownership' | 'weights'>> {
  const install = (await listInstalls()).find((one) => one.game === game);
  if (install) return install;
  return { ownership: leastOwnership(await getIndex(game)), weights: [] };
}

function folderFinding(offer: FolderOffer, open: Open, title: string, says: string): Finding {
  if (!open) return { title, says: `${says} ${OPEN_GAME}` };
  const { game } = open;
  return {
    title,
    says,
    act: 'Add it',
    run: async () => {
      const { ownership, weights } = installOf(open) ?? (await usualOf(game));
      const folder = { game, title: offer.name, folder: offer.name, ownership, weights };
      return `/${await bringInOffer(offer, folder)}/survey`;
    },
  };
}

const OPEN_GAME = 'Open the game that it belongs to, and drop it there.';
const OPEN_FOLDER = 'Open the folder that it is for, and drop it there.';

const textOf = (bytes: Uint8Array): string => new TextDecoder('utf-8', { fatal: true }).decode(bytes);

/** Whether a text says, by the rules of the game, how a start went, and if so, whether that was since the folder was changed last. */
async function tellsOfStart(install: Install, bytes: Uint8Array, file: File): Promise<'since' | 'before' | undefined> {
  try {
    await query('startAnswer', install.id, bytes, file.name, file.lastModified);
    return 'since';
  } catch (error) {
    if (isFailure(error, 'log/too-old')) return 'before';
    if (isFailure(error, 'log/says-neither')) return undefined;
    throw error;
  }
}

/** To read a text on a page of the folder; where none is open, that one is needed. */
function readingOn(
  install: Install | undefined,
  page: string,
  text: { readonly name: string; readonly bytes: Uint8Array },
  { title, says, act }: { readonly title: string; readonly says: string; readonly act: string },
): Finding {
  if (!install) return { title, says: `${says} ${OPEN_FOLDER}` };
  const run = async (): Promise<string> => {
    handTextOver(text);
    return `/${install.id}/${page}`;
  };
  return { title, says, act, run };
}

/** What tells of builds or mods, as a source of the game that is open; an index tells of its game too. */
function sourceFinding(open: Open, kind: 'depot-index' | 'mod-catalogue', text: HandedFile): Finding {
  const title = `${text.name} tells of builds or mods`;
  if (open) {
    return {
      title,
      says: 'Added as a source, what it tells counts beside the other sources of this game.',
      act: 'Add it as a source',
      run: async () => {
        await handFiles(open.game, [text]);
        return `/games/${open.game}`;
      },
    };
  }
  if (kind === 'mod-catalogue') return { title, says: OPEN_GAME };
  return {
    title,
    says: 'It tells of a game and its builds. The game is added with it as the first source.',
    act: 'Add its game',
    run: async () => {
      const game = await addGameOf(await query('gameOfIndex', text.bytes, text.name));
      await handFiles(game, [text]);
      return `/games/${game}`;
    },
  };
}

const kindOf = async (file: File): Promise<ArchiveKind | undefined> =>
  archiveKind(new Uint8Array(await file.slice(0, HEAD_BYTES).arrayBuffer()));

/** What an archive in BagIt form has, by its list of files alone; undefined for any other. */
async function bagWith(file: File): Promise<'sheet' | 'files' | undefined> {
  const { BlobReader, ZipReader } = await import('@zip.js/zip.js');
  const entries = await new ZipReader(new BlobReader(file)).getEntries().catch(() => []);
  const names = entries.map(({ filename }) => filename);
  if (names.some((name) => name.endsWith(`/${BAG_PAYLOAD}/${SHEET_FILES.sheet}`))) return 'sheet';
  return names.some((name) => /(?:^|\/)bagit\.txt$/.test(name)) ? 'files' : undefined;
}

/** Archives of mods, to be looked through on the shelf. */
function modsFinding(files: readonly File[], install: Install | undefined): Finding {
  const [first] = files;
  const title = files.length === 1 ? `${first!.name} is an archive` : `${files.length} archives`;
  const says =
    'The mods are recognised, and each file gets its place by the rules of the game, before anything is written.';
  if (!install) return { title, says: `${says} ${OPEN_FOLDER}` };
  return {
    ...{ title, says, act: files.length === 1 ? 'Look for mods in it' : 'Look for mods in them' },
    run: async () => {
      handModsOver(files);
      return `/${install.id}/shelf`;
    },
  };
}

/** An archive is looked into on the page that it is for: by the names of its files that of hold or of keepsakes, else the shelf. */
async function archiveFinding(file: File, open: Open, kind: ArchiveKind): Promise<Finding> {
  const install = installOf(open);
  const bag = kind === 'zip' ? await bagWith(file) : undefined;
  if (bag === undefined) return modsFinding([file], install);
  if (bag === 'sheet') {
    const title = `${file.name} has a hold sheet in it`;
    const says =
      'The sheet names what somebody holds; manifests and files of mods may lie beside it. Each is checked first.';
    if (!install) return { title, says: `${says} ${OPEN_FOLDER}` };
    return {
      ...{ title, says, act: 'Look into it' },
      run: async () => {
        handSheetOver(file);
        return `/${install.id}/hold`;
      },
    };
  }
  const title = `${file.name} is an archive`;
  if (!install) return { title, says: `With saves in it, it is opened in the folder that they are of. ${OPEN_FOLDER}` };
  return {
    title,
    says: 'If it has saves, settings or own content in BagIt form, each file is checked, and taken in as a keepsake once you say so.',
    act: 'Look into it',
    run: async () => {
      handArchiveOver(file);
      return `/${install.id}/keepsakes`;
    },
  };
}

async function fileFinding(file: File, open: Open): Promise<Finding> {
  const { name } = file;
  const archive = await kindOf(file);
  if (archive) return archiveFinding(file, open, archive);
  const bytes = await bytesOf(file);
  const text = { name, bytes };
  const install = installOf(open);
  const kind = await query('kindOfFile', bytes, name);
  const start =
    (kind === 'log' || kind === 'unknown') && install ? await tellsOfStart(install, bytes, file) : undefined;
  if (start === 'since') {
    return {
      title: `${name} is a log of a start`,
      says: 'By the rules of the game it says whether the game came up, and with which mods.',
      act: 'Take it as a test start',
      run: async () => {
        await noteStart(install!.id, bytes, name, file.lastModified);
        return `/${install!.id}/hold`;
      },
    };
  }
  if (start === 'before')
    return {
      title: `${name} is a log from before the last change`,
      says: 'It tells of a start of the folder as it was then, so it is no test of what is in it now. Start the game, then drop its log again.',
    };
  switch (kind) {
    case 'metalink': {
      const says =
        'It lists files with their checksums. As a build it can be chosen, and recognised on disk; as a folder it is compared with the builds you own.';
      const build = name.replace(/\.[^.]+$/, '');
      const finding = folderFinding(await listFile(file), open, `${name} is a manifest`, says);
      if (!open) return finding;
      return {
        ...finding,
        other: {
          act: `Add it as build ${build}`,
          run: async () => {
            await handFiles(open.game, [text]);
            return install ? `/${install.id}/survey` : `/games/${open.game}`;
          },
        },
      };
    }
    case 'checksum-list': {
      const says = `It lists the files of a folder. Added here, it is compared with the builds you own.`;
      return folderFinding(await listFile(file), open, `${name} is a checksum list`, says);
    }
    case 'depot-index':
    case 'mod-catalogue':
      return sourceFinding(open, kind, text);
    case 'game':
      return {
        title: `${name} describes a game`,
        says: 'It is added beside your other games. Addresses that it names are asked only once you confirm them.',
        act: 'Add the game',
        run: async () => pageOfImported(await importGame(textOf(bytes), name)),
      };
    case 'profile':
      return readingOn(install, 'profiles', text, {
        title: `${name} is a profile`,
        says: 'It names a build, mods and their releases. It is added beside the other profiles; no file is changed.',
        act: 'Add the profile',
      });
    case 'hold-sheet': {
      const whose = install?.title ?? 'the folder';
      return readingOn(install, 'hold', text, {
        title: `${name} is a hold sheet`,
        says: `It names the build, depots and releases that somebody holds. Imported, they become the target of ${whose}. No file is changed.`,
        act: `Import it as the target of ${whose}`,
      });
    }
    case 'log':
      return readingOn(install, 'log', text, {
        title: `${name} contains checksums`,
        says: 'Each is compared with everything known; unknown ones can be recorded under a label.',
        act: 'Compare checksums',
      });
    case 'mod-table':
      return readingOn(install, 'mods', text, {
        title: `${name} is a table of mods`,
        says: 'You review its columns and any cells that do not fit before anything is imported.',
        act: 'Review the table',
      });
    case 'unknown':
      return {
        title: `${name} is not a known kind of file`,
        says: 'Known are game folders, checksum lists, Metalink documents, indexes of builds, catalogues and tables of mods, hold sheets, games, and texts with checksums.',
      };
  }
}

/**
 * Finds out what was dropped.
 * @param open the folder or the game that is open when it is dropped, and that it is for
 * @throws Failure `list/encoding` for a file that is no text
 */
export async function findingOf(what: FolderOffer | File | readonly File[] | undefined, open: Open): Promise<Finding> {
  if (what === undefined) return { title: 'Nothing readable was dropped', says: 'Drop a folder or a file.' };
  if (what instanceof Array) {
    const archives = await Promise.all(what.map(kindOf));
    return archives.every((kind) => kind) ? modsFinding(what, installOf(open)) : fileFinding(what[0]!, open);
  }
  if (what instanceof File) return fileFinding(what, open);
  const install = installOf(open);
  const files = what.kind === 'handed' ? `${counted(what.files.size, 'file')}. ` : '';
  const owned = install ? `, with the depots that ${install.title} owns` : '';
  const says = `${files}It is added as a folder of its own${owned}. Nothing in it is changed.`;
  const finding = folderFinding(what, open, `${what.name} is a folder`, says);
  const target = install && (await getInstall(install.id)).target;
  // A list is told by a file, and was looked at above.
  if (!target || what.kind === 'list') return finding;
  return {
    ...finding,
    other: {
      act: `Look for depots of ${target.build} in it`,
      run: async () => {
        await bringDepotsOf(install.id, what);
        return `/${install.id}/fetch`;
      },
    },
  };
}

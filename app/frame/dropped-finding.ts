import { isFailure } from '#core/failure';
import { counted } from '~/parts/format';
import { query } from '~/queries';
import {
  bringDepotsOf,
  bringInOffer,
  bytesOf,
  type FolderOffer,
  handFiles,
  handTextOver,
  importGame,
  listFile,
  noteStart,
  pageOfImported,
} from '~/commands';
import { getInstall, type Install } from '~/store';

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

function folderFinding(offer: FolderOffer, install: Install, title: string, says: string): Finding {
  const { game, ownership, weights } = install;
  return {
    title,
    says,
    act: 'Add it',
    run: async () =>
      `/${await bringInOffer(offer, { game, title: offer.name, folder: offer.name, ownership, weights })}/survey`,
  };
}

const textOf = (bytes: Uint8Array): string => new TextDecoder('utf-8', { fatal: true }).decode(bytes);

/** Whether a text says, by the rules of the game, how a start went. */
async function tellsOfStart(install: Install, bytes: Uint8Array, name: string): Promise<boolean> {
  try {
    await query('startAnswer', install.id, bytes, name);
    return true;
  } catch (error) {
    if (isFailure(error, 'log/says-neither')) return false;
    throw error;
  }
}

async function fileFinding(file: File, install: Install): Promise<Finding> {
  const { name } = file;
  const bytes = await bytesOf(file);
  const readOn = (page: string) => async (): Promise<string> => {
    handTextOver({ name, bytes });
    return `/${install.id}/${page}`;
  };
  const kind = await query('kindOfFile', bytes, name);
  if ((kind === 'log' || kind === 'unknown') && (await tellsOfStart(install, bytes, name))) {
    return {
      title: `${name} is a log of a start`,
      says: 'By the rules of the game it says whether the game came up, and with which mods.',
      act: 'Take it as a test start',
      run: async () => {
        await noteStart(install.id, bytes, name);
        return `/${install.id}/hold`;
      },
    };
  }
  switch (kind) {
    case 'metalink': {
      const says =
        'It lists files with their checksums. As a build it can be chosen, and recognised on disk; as a folder it is compared with the builds you own.';
      const build = name.replace(/\.[^.]+$/, '');
      return {
        ...folderFinding(await listFile(file), install, `${name} is a manifest`, says),
        other: {
          act: `Add it as build ${build}`,
          run: async () => {
            await handFiles(install.game, [{ name, bytes }]);
            return `/${install.id}/survey`;
          },
        },
      };
    }
    case 'checksum-list': {
      const says = `It lists the files of a folder. Added here, it is compared with the builds you own.`;
      return folderFinding(await listFile(file), install, `${name} is a checksum list`, says);
    }
    case 'depot-index':
    case 'mod-catalogue':
      return {
        title: `${name} tells of builds or mods`,
        says: 'Added as a source, what it tells counts beside the other sources of this game.',
        act: 'Add it as a source',
        run: async () => {
          await handFiles(install.game, [{ name, bytes }]);
          return `/games/${install.game}`;
        },
      };
    case 'game':
      return {
        title: `${name} describes a game`,
        says: 'It is added beside your other games. Addresses that it names are asked only once you confirm them.',
        act: 'Add the game',
        run: async () => pageOfImported(await importGame(textOf(bytes), name)),
      };
    case 'hold-sheet':
      return {
        title: `${name} is a hold sheet`,
        says: `It names the build, depots and releases that somebody holds. Imported, they become the target of ${install.title}. No file is changed.`,
        act: `Import it as the target of ${install.title}`,
        run: readOn('hold'),
      };
    case 'log':
      return {
        title: `${name} contains checksums`,
        says: 'Each is compared with everything known; unknown ones can be recorded under a label.',
        act: 'Compare checksums',
        run: readOn('log'),
      };
    case 'mod-table':
      return {
        title: `${name} is a table of mods`,
        says: 'You review its columns and any cells that do not fit before anything is imported.',
        act: 'Review the table',
        run: readOn('mods'),
      };
    case 'unknown':
      return {
        title: `${name} is not a known kind of file`,
        says: 'Known are game folders, checksum lists, Metalink documents, indexes of builds, catalogues and tables of mods, hold sheets, games, and texts with checksums.',
      };
  }
}

/**
 * Finds out what was dropped.
 * @param install the folder that is open when it is dropped, and that it is for
 * @throws Failure `list/encoding` for a file that is no text
 */
export async function findingOf(what: FolderOffer | File | undefined, install: Install): Promise<Finding> {
  if (what === undefined) return { title: 'Nothing readable was dropped', says: 'Drop a folder or a file.' };
  if (what instanceof File) return fileFinding(what, install);
  const files = what.kind === 'handed' ? `${counted(what.files.size, 'file')}. ` : '';
  const says = `${files}It is added as a folder of its own, with the depots that ${install.title} owns. Nothing in it is changed.`;
  const finding = folderFinding(what, install, `${what.name} is a folder`, says);
  const { target } = await getInstall(install.id);
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

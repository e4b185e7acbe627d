import { counted } from '~/parts/format';
import { query } from '~/queries';
import { bringInOffer, bytesOf, type FolderOffer, handTextOver, listFile } from '~/commands';
import type { Install } from '~/store';

/** What was dropped turned out to be, and what can be done with it. */
export interface Finding {
  readonly title: string;
  readonly says: string;
  readonly act?: string;
  /** @returns the page to open then */
  readonly run?: () => Promise<string>;
}

function folderFinding(offer: FolderOffer, install: Install, title: string, says: string): Finding {
  const { ownership, weights } = install;
  return {
    title,
    says,
    act: 'Add it',
    run: async () =>
      `/${await bringInOffer(offer, { title: offer.name, folder: offer.name, ownership, weights })}/survey`,
  };
}

async function fileFinding(file: File, install: Install): Promise<Finding> {
  const { name } = file;
  const bytes = await bytesOf(file);
  const readOn = (page: string) => async (): Promise<string> => {
    handTextOver({ name, bytes });
    return `/${install.id}/${page}`;
  };
  switch (await query('kindOfFile', bytes, name)) {
    case 'metalink':
    case 'checksum-list': {
      const says = `It lists the files of a folder. Added here, it is compared with the builds you own.`;
      return folderFinding(await listFile(file), install, `${name} is a checksum list`, says);
    }
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
        says: 'Known are game folders, checksum lists, Metalink documents, hold sheets, tables of mods, and texts with checksums.',
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
  return folderFinding(what, install, `${what.name} is a folder`, says);
}

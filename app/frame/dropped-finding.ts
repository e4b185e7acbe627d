import { counted } from '~/parts/format';
import { reckon } from '~/reckoning/client';
import { bringInOffer } from '~/services/bring-in';
import { handTextOver } from '~/services/handed';
import { bytesOf, type FolderOffer, listFile } from '~/services/offers';
import type { Install } from '~/store/records';

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
    act: 'Bring it in',
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
  switch (await reckon('kindOfFile', bytes, name)) {
    case 'metalink':
    case 'checksum-list': {
      const says = `It stands for a folder, and becomes one of its own here, with the depots that ${install.title} owns.`;
      return folderFinding(await listFile(file), install, `${name} lists the files of a folder`, says);
    }
    case 'hold-sheet':
      return {
        title: `${name} is a hold sheet`,
        says: `It says which build, depots and releases somebody holds. Taken over, they become the target of ${install.title}; its files stay as they are.`,
        act: `Make it the target of ${install.title}`,
        run: readOn('hold'),
      };
    case 'log':
      return {
        title: `${name} has checksums in it`,
        says: 'Each can be compared with all that is known, and unknown ones put under a label.',
        act: 'Compare them',
        run: readOn('log'),
      };
    case 'mod-table':
      return {
        title: `${name} is a table of mods`,
        says: 'You see what its columns are taken for, and which cells do not fit, before anything is taken over.',
        act: 'Look it over',
        run: readOn('mods'),
      };
    case 'unknown':
      return {
        title: `${name} is nothing that Regressum knows`,
        says: 'It knows game folders, checksum lists, Metalink documents, hold sheets, tables of mods, and texts with checksums in them.',
      };
  }
}

/**
 * Finds out what was dropped.
 * @param install the folder that is open when it is dropped, and that it is for
 * @throws Failure `list/encoding` for a file that is no text
 */
export async function findingOf(what: FolderOffer | File | undefined, install: Install): Promise<Finding> {
  if (what === undefined) return { title: 'Nothing that can be read was dropped', says: 'Drop a folder or a file.' };
  if (what instanceof File) return fileFinding(what, install);
  const files = what.kind === 'handed' ? counted(what.files.size, 'file') : '';
  const says = `${files}. It becomes a folder of its own here, with the depots that ${install.title} owns. Nothing in it is changed.`;
  return folderFinding(what, install, `${what.name} is a folder`, says);
}

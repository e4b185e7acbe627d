import type { ContentKey } from '#core/digest';
import { type DiskContents, diskContents } from '#core/fetch';
import { besidePath } from '~/folders';
import { otherFolders } from '~/places';
import { platformSha256 } from '~/remote';
import { getSurvey, type Install, type StoredSurvey } from '~/store';
import { foundFiles } from './install-context';
import { keepLast } from './keep-last';

/** What another folder of the same game has, by paths of the disk beside which it lies. */
export interface BesideFolder extends Pick<DiskContents, 'pieceAt'> {
  readonly name: string;
  readonly pathOf: (key: ContentKey) => string | undefined;
}

/** Other folders that are remembered. */
const MOST_KEPT = 6;

const keptContents = keepLast((name: string, root: string, survey: StoredSurvey): BesideFolder => {
  const { pathOf, pieceAt } = diskContents(foundFiles(survey));
  const at = (path: string): string => besidePath(name, [root, path].filter((part) => part !== '').join('/'));
  return {
    name,
    pathOf(key) {
      const path = pathOf.get(key);
      return path === undefined ? undefined : at(path);
    },
    pieceAt(piece, size) {
      const found = pieceAt(piece, size);
      return found && { ...found, path: at(found.path) };
    },
  };
}, MOST_KEPT);

const keptAll = keepLast((...all: readonly BesideFolder[]): readonly BesideFolder[] => all);

/** What other folders of the same game had when they were last checked. */
export async function besideOf(install: Install): Promise<readonly BesideFolder[]> {
  const folders: BesideFolder[] = [];
  for (const { name, install: other, source } of await otherFolders(install, platformSha256)) {
    const survey = await getSurvey(other);
    if (survey) folders.push(keptContents(name, source.root, survey));
  }
  return keptAll(...folders);
}

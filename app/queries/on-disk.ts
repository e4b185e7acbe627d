import type { DiskContents, OnDisk } from '#core/fetch';
import { besideOf } from './beside';
import { contentsOf, type InstallContext } from './install-context';
import { keepLast } from './keep-last';
import { partlyFetched, storedOf } from './stored';

const keptDisk = keepLast(
  (
    contents: DiskContents,
    stored: OnDisk['stored'],
    arrived: NonNullable<OnDisk['arrived']>,
    beside: NonNullable<OnDisk['beside']>,
  ): OnDisk => ({ contents, stored, arrived, beside }),
);

/** All that is at hand of contents: in the folder, in its store, come in part, and in other folders. The same object while that is. */
export const onDiskOf = async ({ install, found }: InstallContext): Promise<OnDisk> =>
  keptDisk(contentsOf(found), await storedOf(install), await partlyFetched(install), await besideOf(install));

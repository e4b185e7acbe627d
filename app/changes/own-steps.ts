import { type Disk, stagedPath, type Step } from '#core/changes';
import { contentName, contentPath } from '#core/contents';
import { Failure } from '#core/failure';
import type { KeptRow, OwnFile } from '#core/keepsakes';
import { platformSha256 } from '~/remote';
import type { OwnPlace } from '~/places';

/** What becomes of files of the player's. */
export interface OwnChange {
  /** Files that are put in place, over what the row says lies there now. */
  readonly put: readonly Pick<KeptRow, 'place' | 'path' | 'key' | 'now'>[];
  readonly take: readonly OwnFile[];
}

/**
 * Steps that change files of the player's, whose contents lie in the store. Files that are read-only are so afterwards too.
 * @throws Failure `folder/gone` for a place that the install has not any more
 */
export async function ownSteps(
  set: string,
  disk: Pick<Disk, 'isReadOnly'>,
  places: readonly OwnPlace[],
  { put, take }: OwnChange,
): Promise<Step[]> {
  const onDisk = ({ place, path }: Pick<OwnFile, 'place' | 'path'>): string => {
    const known = places.find(({ name }) => name === place);
    if (!known) throw new Failure('folder/gone', { path });
    return known.onDisk(path);
  };
  const [ready, unlock, change, lock]: Step[][] = [[], [], [], []];
  /** Lifts a flag for as long as the file is changed. @returns the file's place on the disk */
  const opened = async (
    file: Pick<OwnFile, 'place' | 'path'>,
  ): Promise<readonly [path: string, isReadOnly: boolean]> => {
    const path = onDisk(file);
    const isReadOnly = await disk.isReadOnly(path);
    if (isReadOnly) unlock!.push({ do: 'flag', path, readOnly: false, before: true });
    return [path, isReadOnly];
  };
  // First what goes: a folder may come to lie where a file was.
  for (const file of take) {
    const [path] = await opened(file);
    change!.push({ do: 'take', path, key: file.key });
  }
  for (const [i, file] of put.entries()) {
    const { key, now } = file;
    const to = stagedPath(set, `own-${i}`);
    ready!.push({ do: 'copy', from: contentPath(await contentName(key, platformSha256)), to, key });
    const [path, isReadOnly] = now === null ? [onDisk(file), false] : await opened(file);
    change!.push({ do: 'place', from: to, to: path, key, before: now });
    if (isReadOnly) lock!.push({ do: 'flag', path, readOnly: true, before: false });
  }
  return [...ready!, ...unlock!, ...change!, ...lock!];
}

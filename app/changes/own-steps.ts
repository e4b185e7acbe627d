import { stagedPath, type Step } from '#core/changes';
import { contentName, contentPath } from '#core/contents';
import { Failure } from '#core/failure';
import type { KeptRow, OwnFile } from '#core/keepsakes';
import { platformSha256 } from '~/remote';
import type { OwnPlace } from '~/places';

/** What becomes of files of the player's. */
export interface OwnChange {
  /** Files that are put in place, over what the row says lies there now. */
  readonly put: readonly Pick<KeptRow, 'place' | 'path' | 'key' | 'modified' | 'now'>[];
  readonly take: readonly OwnFile[];
}

/**
 * Steps that change files of the player's, whose contents lie in the store.
 * @throws Failure `folder/gone` for a place that the install has not any more
 */
export async function ownSteps(set: string, places: readonly OwnPlace[], { put, take }: OwnChange): Promise<Step[]> {
  const onDisk = ({ place, path }: Pick<OwnFile, 'place' | 'path'>): string => {
    const known = places.find(({ name }) => name === place);
    if (!known) throw new Failure('folder/gone', { path });
    return known.onDisk(path);
  };
  const [ready, change]: [Step[], Step[]] = [[], []];
  // First what goes: a folder may come to lie where a file was.
  for (const file of take) change.push({ do: 'take', path: onDisk(file), key: file.key });
  for (const [i, file] of put.entries()) {
    const { key, modified, now } = file;
    const to = stagedPath(set, `own-${i}`);
    const from = contentPath(await contentName(key, platformSha256));
    ready.push({ do: 'copy', from, to, key, ...(modified !== null && { modified }) });
    change.push({ do: 'place', from: to, to: onDisk(file), key, before: now });
  }
  return [...ready, ...change];
}

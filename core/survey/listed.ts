import { type ContentKey } from '#core/digest';
import type { ChecksumList } from '#core/lists';
import type { FoundFile } from './compare';

/** A content of which the checksum of the list's kind is known. */
export interface KnownContent {
  readonly digest: string;
  readonly size: number;
  readonly key: ContentKey;
}

/** Stands for a content that is known by its checksum alone; it is the key of no content that Regressum has read. */
export const listedKey = (digest: string): ContentKey => `listed:${digest}` as ContentKey;

/**
 * The files that a checksum list names, as if they had been read: the list tells the content of each file that is known
 * from elsewhere. A content that is not known has no size (0): a list does not tell it.
 * @returns sorted by path
 */
export function foundFromList(list: ChecksumList, known: Iterable<KnownContent>): FoundFile[] {
  const contents = new Map<string, KnownContent>();
  for (const content of known) contents.set(content.digest, content);
  return list.files
    .map(({ path, digest }) => {
      const content = contents.get(digest);
      return { path, size: content?.size ?? 0, key: content?.key ?? listedKey(digest) };
    })
    .toSorted((a, b) => (a.path < b.path ? -1 : 1));
}

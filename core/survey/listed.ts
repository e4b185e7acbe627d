import { type ContentKey } from '#core/digest';
import type { ChecksumList } from '#core/lists';
import type { FoundFile } from './compare';

interface Known {
  readonly sha256: string;
  readonly size: number;
  readonly key: ContentKey;
}

/** Stands for a content that is known by its checksum alone; it is the key of no content that Regressum has read. */
const unknownContent = (digest: string): ContentKey => `listed:${digest}` as ContentKey;

/**
 * The files that a checksum list names, as if they had been read: a list of SHA-256 tells the content of each file
 * that is known from elsewhere. A content that is not known has no size (0): a list does not tell it.
 * @returns sorted by path
 */
export function foundFromList(list: ChecksumList, known: Iterable<Known>): FoundFile[] {
  const contents = new Map<string, Known>();
  for (const content of known) contents.set(content.sha256, content);
  return list.files
    .map(({ path, digest }) => {
      const content = contents.get(digest);
      return { path, size: content?.size ?? 0, key: content?.key ?? unknownContent(digest) };
    })
    .toSorted((a, b) => (a.path < b.path ? -1 : 1));
}

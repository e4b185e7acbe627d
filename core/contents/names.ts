import type { ContentKey, Sha256 } from '#core/digest';
import { PLACES } from '#core/changes';
import { fileName } from '#core/paths';

/** The name of a content in the store: the SHA-256 of its key, since a key grows with the file. */
export const contentName = (key: ContentKey, sha256: Sha256): Promise<string> => sha256(key);

/** Where the content of a name lies: some hundred folders, so that none has a hundred thousand entries. */
export const contentPath = (name: string): string => `${PLACES.contents}/${name.slice(0, 2)}/${name}.dat`;

/** The name that a content lies under. */
export const contentNameOf = (path: string): string => fileName(path).slice(0, -'.dat'.length);

/** Where it lies until its bytes are there and right; each game's own, so that two never write into one file. */
export const arrivingPath = (name: string): string => `${PLACES.arriving}/${name}`;

/** Characters of what a browser knows of an install, at the most. Here, so that a page that knows it loads no schema of an act. */
export const MOST_MIRRORED = 16 << 20;

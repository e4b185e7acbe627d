import { fileName } from '#core/paths';

/** What the name of an archive, or of a folder, says of what is in it. */
export interface NamedRelease {
  readonly name: string;
  /** Empty where it tells none. */
  readonly version: string;
}

/** Endings of archives, the longer ones first. */
const ENDING = /\.(?:tar\.(?:gz|bz2|xz|zst)|tgz|txz|zip|7z|rar|tar)$/i;

/** A version: parted by dots, or after a `v`; what follows it, such as the number of an upload, is no part of it. */
const VERSION = /(?:^|[\s_(\[-])(?:v(?:ersion)?[\s_.]?(\d+(?:[._]\d+)*[a-z]?)|(\d+(?:\.\d+)+[a-z]?))(?=$|[\s_)\]-])/i;

/**
 * The name and version that an archive's name tells, as in `Better_Fog-v1.2.zip`. A version wants a `v`, or a dot: a number alone may
 * be anything.
 */
export function namedRelease(written: string): NamedRelease {
  const bare = fileName(written).replace(ENDING, '');
  const found = VERSION.exec(bare);
  const version = (found?.[1] ?? found?.[2] ?? '').replaceAll('_', '.');
  const before = found && found.index > 0 ? bare.slice(0, found.index) : found ? bare.slice(found[0].length) : bare;
  const name = before
    .replaceAll(/[_]+/g, ' ')
    .replaceAll(/\s+/g, ' ')
    .replaceAll(/^[\s.()[\]-]+|[\s.()[\]-]+$/g, '');
  return { name: name === '' ? bare : name, version };
}

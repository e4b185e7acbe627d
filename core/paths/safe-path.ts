import { z } from 'zod';
import { Failure, isFailure } from '#core/failure';
import { utf8Length } from '#core/text';

/**
 * Names that some systems give to devices, whatever the ending, and blanks before it (Microsoft, "Naming Files, Paths, and
 * Namespaces").
 */
const DEVICE_NAME = /^(con|prn|aux|nul|conin\$|conout\$|(com|lpt)[0-9¹²³]) *(\.|$)/i;
/** What no common file system, or no common program, takes in a name: C0 and C1 controls, signs with a meaning, halves. */
const FORBIDDEN =
  /[\u0000-\u001f\u007f-\u009f<>:"|?*\\\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;
/**
 * What cannot be seen and makes a name look like another one: marks that turn the direction of writing, signs without
 * width (Unicode's `Default_Ignorable_Code_Point`). Variation selectors are let through: they belong to emoji.
 */
const INVISIBLE = /(?![\ufe00-\ufe0f\u{e0100}-\u{e01ef}])[\p{Default_Ignorable_Code_Point}\p{Bidi_Control}]/u;

const ASCII = /^[\u0000-\u007f]*$/;
/** Bytes of UTF-8, the least of what common file systems hold in one name. */
const MAX_SEGMENT = 255;
/** UTF-16 code units of a whole path. */
const MAX_PATH = 1024;

/** Facts that name the place of a path, such as the line of the list it stands in. */
interface Where {
  readonly file?: string;
  readonly line?: number;
}

/**
 * Accepts a relative path with `/` between its parts that every common file system can hold.
 * @throws Failure `path/*` with the path and `where`
 */
export function assertSafePath(path: string, where: Where = {}): void {
  safeParts(path, where);
}

/** The parts of a path. @throws Failure as {@link assertSafePath} */
function safeParts(path: string, where: Where): string[] {
  if (path === '') throw new Failure('path/empty', { path, ...where });
  if (/^([/\\]|[A-Za-z]:)/.test(path)) throw new Failure('path/absolute', { path, ...where });
  if (path.length > MAX_PATH) throw new Failure('path/too-long', { path, ...where, limit: MAX_PATH });
  const parts = path.split('/');
  for (const part of parts) {
    if (part === '') throw new Failure('path/empty', { path, ...where });
    if (part === '.' || /(^|\\)\.\.(\\|$)/.test(part)) throw new Failure('path/climbs', { path, ...where });
  }
  if (FORBIDDEN.test(path) || (!ASCII.test(path) && INVISIBLE.test(path))) {
    throw new Failure('path/forbidden-character', { path, ...where });
  }
  for (const part of parts) {
    if (/[. ]$/.test(part)) throw new Failure('path/trailing-dot-or-space', { path, ...where });
    if (DEVICE_NAME.test(part)) throw new Failure('path/reserved-name', { path, ...where, name: part });
    if (utf8Length(part) > MAX_SEGMENT) throw new Failure('path/too-long', { path, ...where, limit: MAX_SEGMENT });
  }
  return parts;
}

/** Why a path is not accepted; undefined for one that is. */
function whyUnsafe(path: string): string | undefined {
  try {
    assertSafePath(path);
    return undefined;
  } catch (error) {
    if (isFailure(error)) return error.code.slice('path/'.length).replaceAll('-', ' ');
    throw error;
  }
}

/** A relative path from outside, as {@link assertSafePath} accepts it. */
export const SafePathSchema = z.string().superRefine((path, context) => {
  const why = whyUnsafe(path);
  if (why !== undefined) context.addIssue({ code: 'custom', message: `is not a safe path (${why})` });
});

/** Two spellings of a name with the same fold are one file on a system that ignores case or Unicode form. */
function fold(name: string): string {
  if (ASCII.test(name)) return name.toLowerCase();
  // Down, up and down again is full case folding: ẞ and ß both become ss, as some systems have it.
  const folded = name.normalize('NFC').toLowerCase().toUpperCase().toLowerCase();
  return folded.replace(/[\ufe00-\ufe0f]/g, '').normalize('NFC');
}

/** Folders that one tree may have: more than any game, and no more than fit into memory beside everything else. */
const MAX_FOLDERS = 500_000;

interface Claim {
  /** The name as it was spelled first. */
  readonly name: string;
  /** Of a folder; a file has none. */
  readonly folder?: number;
}

/**
 * Paths that can all stand in one tree. Grows by {@link PathSet.add}, which refuses a path that is unsafe, stands there
 * already, differs from another (or from one of its folders) only in case or Unicode form, or needs a folder where a file is.
 * Adding takes time by the length of the path alone.
 */
export class PathSet {
  /** By the number of the folder above and the folded name, so that no part of a path is folded twice. */
  readonly #claims = new Map<string, Claim>();
  #folders = 0;

  /** @throws Failure `path/*`; `path/collides` names the other path as `other` */
  add(path: string, where: Where = {}): void {
    const names = safeParts(path, where);
    const file = names.pop()!;
    let above = 0;
    names.forEach((name, depth) => {
      const key = `${above}/${fold(name)}`;
      const earlier = this.#claims.get(key);
      if (earlier?.folder !== undefined && earlier.name === name) above = earlier.folder;
      else if (earlier) throw this.#collision(path, depth, earlier, where);
      else {
        above = ++this.#folders;
        if (above > MAX_FOLDERS) throw new Failure('path/too-many-folders', { path, limit: MAX_FOLDERS, ...where });
        this.#claims.set(key, { name, folder: above });
      }
    });
    const key = `${above}/${fold(file)}`;
    const earlier = this.#claims.get(key);
    if (earlier) throw this.#collision(path, names.length, earlier, where);
    this.#claims.set(key, { name: file });
  }

  #collision(path: string, depth: number, { name }: Claim, where: Where): Failure {
    const other = [...path.split('/').slice(0, depth), name].join('/');
    return new Failure('path/collides', { path, other, ...where });
  }
}

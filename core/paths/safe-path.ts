import { Failure } from '#core/failure';

/** Names that some systems give to devices, whatever the ending (Microsoft, "Naming Files, Paths, and Namespaces"). */
const DEVICE_NAME = /^(con|prn|aux|nul|conin\$|conout\$|(com|lpt)[1-9¹²³])(\.|$)/i;
const FORBIDDEN =
  /[\u0000-\u001f\u007f<>:"|?*\\\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;
const MAX_SEGMENT = 255;
const MAX_PATH = 1024;

/**
 * Accepts a relative path with `/` between its parts that every common file system can hold.
 * @param where facts that name the place of the path, such as the line of the list it stands in
 * @throws Failure `path/*` with the path and `where`
 */
export function assertSafePath(path: string, where: { file?: string; line?: number } = {}): void {
  const facts = { path, ...where };
  if (path === '') throw new Failure('path/empty', facts);
  if (/^([/\\]|[A-Za-z]:)/.test(path)) throw new Failure('path/absolute', facts);
  if (path.length > MAX_PATH) throw new Failure('path/too-long', { ...facts, limit: MAX_PATH });
  for (const part of path.split('/')) {
    if (part === '') throw new Failure('path/empty', facts);
    if (part === '.' || part === '..' || part.split('\\').includes('..')) throw new Failure('path/climbs', facts);
    if (FORBIDDEN.test(part)) throw new Failure('path/forbidden-character', facts);
    if (/[. ]$/.test(part)) throw new Failure('path/trailing-dot-or-space', facts);
    if (DEVICE_NAME.test(part)) throw new Failure('path/reserved-name', { ...facts, name: part });
    if (part.length > MAX_SEGMENT) throw new Failure('path/too-long', { ...facts, limit: MAX_SEGMENT });
  }
}

/** Two spellings with the same fold are one file on a system that ignores case or Unicode form. */
function fold(path: string): string {
  return path.normalize('NFC').toUpperCase().toLowerCase().normalize('NFC');
}

/**
 * Paths that can all stand in one tree. Grows by {@link PathSet.add}, which refuses a path that is unsafe,
 * stands there already, differs from another (or from one of its folders) only in case or Unicode form,
 * or needs a folder where a file is.
 */
export class PathSet {
  readonly #spelling = new Map<string, { path: string; isFile: boolean }>();

  /** @throws Failure `path/*`; `path/collides` names the other path as `other` */
  add(path: string, where: { file?: string; line?: number } = {}): void {
    assertSafePath(path, where);
    for (let end = path.indexOf('/'); end >= 0; end = path.indexOf('/', end + 1)) {
      this.#claim(path.slice(0, end), false, path, where);
    }
    this.#claim(path, true, path, where);
  }

  #claim(part: string, isFile: boolean, path: string, where: { file?: string; line?: number }): void {
    const key = fold(part);
    const earlier = this.#spelling.get(key);
    if (!earlier) {
      this.#spelling.set(key, { path: part, isFile });
    } else if (earlier.path !== part || earlier.isFile || isFile) {
      throw new Failure('path/collides', { path, other: earlier.path, ...where });
    }
  }
}

/** Names of more characters are nobody's; runs of more are no names. */
const LONGEST_PATH = 1024;
const LONGEST_NAME = 255;

const SPLITS_RUNS = /[\s"'(),;]/;
/** A name with an ending of letters, such as `towline.lib`, that no other sign of a name stands before. */
const NAME = /(?<![\w.])[A-Za-z_][\w-]*\.[A-Za-z]\w{0,7}\b/;
/** As long as any checksum is, and no word of prose. */
const DIGEST = /[0-9a-f]{32}/i;

/** Without what stands before a path or behind it and is none of it: a leading `./`, a full stop, a colon. */
function trimmed(path: string): string {
  let [start, end] = [0, path.length];
  while (path.startsWith('./', start)) start += 2;
  while (end > start && (path[end - 1] === '.' || path[end - 1] === ':')) end--;
  return path.slice(start, end);
}

/** What a run of signs without blanks or quotation marks holds of a path: it has a slash in it, or is a name with an ending. */
function inRun(run: string): string | undefined {
  const slash = run.search(/[/\\]/);
  if (slash < 0) return run.length > LONGEST_NAME ? undefined : NAME.exec(run)?.[0];
  const start = run.lastIndexOf('=', slash) + 1;
  return slash > start && slash < run.length - 1 ? run.slice(start) : undefined;
}

/** What stands between quotation marks is a path where it has an ending. */
function isQuotedPath(inner: string): boolean {
  const dot = inner.indexOf('.', 1);
  return dot > 0 && dot < inner.length - 1;
}

function acceptable(found: string): string | undefined {
  const path = trimmed(found.replaceAll('\\', '/'));
  return path === '' || path.length > LONGEST_PATH || DIGEST.test(path) ? undefined : path;
}

/**
 * The first path that a line speaks of: quoted, or with a slash in it, or a name with an ending of letters. What has a
 * checksum in it is none. Each sign of the line is looked at a fixed number of times.
 */
export function pathInLine(line: string): string | undefined {
  // A mark that nothing closes is looked for once.
  const last: Readonly<Record<string, number>> = { '"': line.lastIndexOf('"'), "'": line.lastIndexOf("'") };
  for (let at = 0; at < line.length;) {
    const sign = line[at]!;
    let found: string | undefined;
    if (at < (last[sign] ?? -1)) {
      const close = line.indexOf(sign, at + 1);
      const inner = line.slice(at + 1, close);
      if (isQuotedPath(inner)) found = inner;
      at = found === undefined ? at + 1 : close + 1;
    } else if (SPLITS_RUNS.test(sign)) {
      at += 1;
    } else {
      const start = at;
      while (at < line.length && !SPLITS_RUNS.test(line[at]!)) at++;
      found = inRun(line.slice(start, at));
    }
    const path = found && acceptable(found);
    if (path !== undefined) return path;
  }
  return undefined;
}

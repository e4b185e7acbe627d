import { mergeValues, pathKey, type StructuredMerge, unlessUnchanged, type ValueChange } from './keyed';
import { linesOf } from './text';

/*
 * Sections with names and values, a line each: `[section]`, `name = value`. Lines that begin with `;` or `#` are remarks. Of a name that
 * stands several times in its section each stands for itself, and a section that is written in parts is one.
 */

interface Entry {
  readonly path: readonly string[];
  /** What stands before the value, and behind it: name, sign, blanks, end of the line. */
  readonly before: string;
  readonly value: string;
  readonly behind: string;
}

interface Line {
  /** The section that it stands in; of a head the one that it begins. */
  readonly section: string;
  readonly entry?: Entry;
  /** A head, a remark, or nothing. */
  readonly other?: string;
}

const HEAD = /^\s*\[([^\]\r\n]*)\]/;
const ENTRY = /^(\s*([^=:;#[\s][^=:\r\n]*?)\s*[=:][ \t]*)([^\r\n]*?)([ \t]*(?:\r?\n)?)$/;

function linesOfIni(text: string): Line[] {
  let section = '';
  const times = new Map<string, number>();
  return linesOf(text).map((line): Line => {
    const head = HEAD.exec(line);
    if (head) section = head[1]!.trim();
    const [, before, name, value, behind] = (!head && ENTRY.exec(line)) || [];
    if (before === undefined) return { section, other: line };
    const first = pathKey([section, name!]);
    const time = (times.get(first) ?? 0) + 1;
    times.set(first, time);
    const path = time === 1 ? [section, name!] : [section, name!, String(time)];
    return { section, entry: { path, before, value: value!, behind: behind! } };
  });
}

const valuesOf = (lines: readonly Line[]): Map<string, string> =>
  new Map(lines.flatMap(({ entry }) => (entry ? [[pathKey(entry.path), entry.value]] : [])));

const keyOf = ({ entry }: Line): string | undefined => entry && pathKey(entry.path);

/** Puts a line that they added where it stands there: behind the one that it follows, else at the end of its section. */
function insert(lines: Line[], theirs: readonly Line[], { path }: ValueChange, end: string): void {
  const key = pathKey(path);
  const at = theirs.findIndex((line) => keyOf(line) === key);
  const { section, entry } = theirs[at]!;
  const own: Line = { section, entry: { ...entry!, behind: end } };
  for (let i = at - 1; i >= 0 && theirs[i]!.section === section; i--) {
    const before = keyOf(theirs[i]!);
    const place = before === undefined ? -1 : lines.findIndex((line) => keyOf(line) === before);
    if (place >= 0) return void lines.splice(place + 1, 0, own);
  }
  const head = lines.findIndex((line) => line.section === section);
  if (head >= 0) return void lines.splice(head + (lines[head]!.other === undefined ? 0 : 1), 0, own);
  if (section === '') return void lines.unshift(own);
  lines.push({ section, other: `[${section}]${end}` }, own);
}

/** The text of lines, each but the last with an end. */
function textOf(lines: readonly Line[], end: string, endsOpen: boolean): string {
  const all = lines.map(({ entry, other }) => (entry ? entry.before + entry.value + entry.behind : other!));
  const closed = all.map((line, i) => (i < all.length - 1 && !line.endsWith('\n') ? line + end : line));
  const text = closed.join('');
  return endsOpen ? text : text === '' || text.endsWith('\n') ? text : text + end;
}

/** Merges two files of names and values that were made from a third; what is ours keeps its form. */
export const mergeIni = (base: string, ours: string, theirs: string): StructuredMerge | undefined =>
  unlessUnchanged(base, ours, theirs, () => {
    const [lines, their] = [linesOfIni(ours), linesOfIni(theirs)];
    const { takes, conflicts } = mergeValues(valuesOf(linesOfIni(base)), valuesOf(lines), valuesOf(their));
    if (conflicts.length > 0) return { merged: undefined, conflicts };
    const end = /\r\n/.test(ours) ? '\r\n' : '\n';
    const changes = new Map(takes.map((change) => [pathKey(change.path), change]));
    const kept = lines.flatMap((line): Line[] => {
      const change = line.entry && changes.get(keyOf(line)!);
      if (!change) return [line];
      return change.theirs === undefined ? [] : [{ ...line, entry: { ...line.entry!, value: change.theirs } }];
    });
    for (const change of takes) if (change.ours === undefined) insert(kept, their, change, end);
    return { merged: textOf(kept, end, !/\n$/.test(ours)), conflicts };
  });

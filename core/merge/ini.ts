import { changedBy, type Decide, type Decision, Differences, type Merge, unchangedSide } from './difference';
import { linesOf } from './text';

/*
 * Sections with names and values, a line each: `[section]`, `name = value`. Lines that begin with `;` or `#` are remarks; a value goes on
 * in the next line where its line ends with a backslash, or where the next one begins with blanks and has no name. Of a name that stands
 * several times in its section each stands for itself, and a section that is written in parts is one.
 */

interface Entry {
  /** Section, name, and of one that stands there several times its number from the second on. */
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
const NAME = /^[ \t]*([^=:;#[\s][^=:\r\n]*)[=:][ \t]*/;
const CONTINUES = /^[ \t]+[^\s;#[]/;

const keyOf = (path: readonly string[]): string => JSON.stringify(path);

function linesOfIni(text: string): Line[] {
  let section = '';
  const times = new Map<string, number>();
  const all = linesOf(text);
  const lines: Line[] = [];
  for (let i = 0; i < all.length; i++) {
    let line = all[i]!;
    const head = HEAD.exec(line);
    if (head) section = head[1]!.trim();
    const named = head ? null : NAME.exec(line);
    if (!named) {
      lines.push({ section, other: line });
      continue;
    }
    const goesOn = (next: string | undefined): boolean =>
      next !== undefined && (/\\\r?\n$/.test(line) || (CONTINUES.test(next) && !NAME.test(next) && /\n$/.test(line)));
    while (goesOn(all[i + 1])) line += all[++i]!;
    const first = keyOf([section, named[1]!.trim()]);
    const time = (times.get(first) ?? 0) + 1;
    times.set(first, time);
    const rest = line.slice(named[0].length);
    const value = rest.trimEnd();
    const path = [section, named[1]!.trim(), ...(time === 1 ? [] : [String(time)])];
    lines.push({ section, entry: { path, before: named[0], value, behind: rest.slice(value.length) } });
  }
  return lines;
}

const entriesOf = (lines: readonly Line[]): Map<string, Entry> =>
  new Map(lines.flatMap(({ entry }) => (entry ? [[keyOf(entry.path), entry]] : [])));

/** Where lines that they added stand in ours: behind an entry of ours, behind the head of a section, or in a section of their own. */
class Additions {
  readonly behind = new Map<string, Line[]>();
  readonly inSection = new Map<string, Line[]>();

  constructor(lines: readonly Line[], theirs: readonly Line[], isAdded: (key: string) => boolean, end: string) {
    const own = entriesOf(lines);
    let [section, last]: [string | undefined, string | undefined] = [undefined, undefined];
    for (const line of theirs) {
      if (line.section !== section) [section, last] = [line.section, undefined];
      if (!line.entry) continue;
      const key = keyOf(line.entry.path);
      if (isAdded(key)) {
        const added = { section: line.section, entry: { ...line.entry, behind: end } };
        const [map, place] = last === undefined ? [this.inSection, line.section] : [this.behind, last];
        map.set(place, [...(map.get(place) ?? []), added]);
      } else if (own.has(key)) last = key;
    }
  }
}

/** The lines of ours with those that came in. */
function withAdditions(lines: readonly Line[], { behind, inSection }: Additions, end: string): Line[] {
  const all: Line[] = [];
  const left = new Map(inSection);
  const takeIn = (section: string): void => {
    all.push(...(left.get(section) ?? []));
    left.delete(section);
  };
  takeIn('');
  for (const line of lines) {
    all.push(line);
    if (line.entry) all.push(...(behind.get(keyOf(line.entry.path)) ?? []));
    else if (HEAD.test(line.other!)) takeIn(line.section);
  }
  for (const [section, added] of left) all.push({ section, other: `[${section}]${end}` }, ...added);
  return all;
}

/** The text of lines, each but the last with an end. */
function textOf(lines: readonly Line[], end: string, endsOpen: boolean): string {
  const all = lines.map(({ entry, other }) => (entry ? entry.before + entry.value + entry.behind : other!));
  const closed = all.map((line, i) => (i < all.length - 1 && !line.endsWith('\n') ? line + end : line));
  const text = closed.join('');
  return endsOpen ? text : text === '' || text.endsWith('\n') ? text : text + end;
}

/** Merges two files of names and values that were made from a third; what is ours keeps its form. */
export function mergeIni(base: string, ours: string, theirs: string, decide: Decide): Merge {
  const [lines, their] = [linesOfIni(ours), linesOfIni(theirs)];
  const [was, mine, other] = [entriesOf(linesOfIni(base)), entriesOf(lines), entriesOf(their)];
  const found = new Differences(decide);
  const counts = new Map<string, Decision>();
  // In the order of theirs, so that what they added follows what it follows there.
  for (const key of new Set([...other.keys(), ...mine.keys(), ...was.keys()])) {
    const [b, o, t] = [was.get(key), mine.get(key), other.get(key)];
    const by = changedBy(b?.value, o?.value, t?.value);
    if (!by) continue;
    const { path } = (o ?? t ?? b)!;
    counts.set(key, found.note({ path, what: 'value', base: b?.value, ours: o?.value, theirs: t?.value, by }));
  }
  const { all: differences, isOpen } = found;
  if (isOpen) return { differences, merged: undefined };
  const end = /\r\n/.test(ours) ? '\r\n' : '\n';
  const valueOf = (key: string): string | undefined => {
    const count = counts.get(key);
    if (typeof count === 'object') return count.value;
    return (count === 'theirs' ? other : mine).get(key)?.value;
  };
  const kept = lines.flatMap((line): Line[] => {
    if (!line.entry) return [line];
    const value = valueOf(keyOf(line.entry.path));
    return value === undefined ? [] : [{ ...line, entry: { ...line.entry, value } }];
  });
  const isAdded = (key: string): boolean => !mine.has(key) && valueOf(key) !== undefined;
  const all = withAdditions(kept, new Additions(kept, their, isAdded, end), end);
  const merged = unchangedSide(base, ours, theirs) ?? textOf(all, end, !/\n$/.test(ours));
  return { differences, merged };
}

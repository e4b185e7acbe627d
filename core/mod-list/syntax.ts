import { z } from 'zod';

/* How a game's list of mods to load is written, told by an example of an entry. */

const MOD = '{mod}';
const example = z
  .string()
  .max(500)
  .regex(/^[^\r\n]*$/, 'is more than one line')
  .refine((text) => text.split(MOD).length === 2, `does not have ${MOD} in it, once`);

export const ListSyntaxSchema = z.object({
  on: example.describe('The entry of a mod that is on, with {mod} for its id'),
  off: example.optional().describe('The entry of one that is off; it is not loaded'),
  between: z
    .string()
    .max(20)
    .regex(/\n/, 'does not end a line')
    .optional()
    .describe('What stands between two entries; a line’s end, where it is left out'),
  head: z.string().max(5000).optional().describe('What stands before the first entry'),
  tail: z.string().max(5000).optional().describe('What stands behind the last one; a line’s end, where it is left out'),
});
export type ListSyntax = z.infer<typeof ListSyntaxSchema>;

/** The id of a mod a line. */
const PLAIN: ListSyntax = { on: MOD };

/** Entries that are looked for; no list has as many. */
const MOST_ENTRIES = 10_000;

/** A line of a list, as it stands there, and the entry on it, if it is one. */
interface Line {
  /** Without its end, and without what separates it from the next entry. */
  readonly text: string;
  readonly entry?: { readonly id: string; readonly isOn: boolean };
}

interface Lines {
  readonly lines: readonly Line[];
  /** What ends a line of it. */
  readonly end: '\n' | '\r\n';
  /** Its last line is ended too. */
  readonly isEnded: boolean;
}

const around = (example: string): [string, string] => example.trim().split(MOD) as [string, string];

const idIn = (line: string, [before, after]: readonly [string, string]): string | undefined =>
  line.length > before.length + after.length && line.startsWith(before) && line.endsWith(after)
    ? line.slice(before.length, line.length - after.length).trim()
    : undefined;

/**
 * The lines of a list. An entry is told from anything else by what stands around its id in the example; blanks around entries,
 * and what separates them, do not count.
 */
function linesOf(text: string, { on, off, between = '\n' }: ListSyntax): Lines {
  const onAround = around(on);
  const offAround = off === undefined ? undefined : around(off);
  const separator = between.trim();
  const end = /\r\n/.test(text) ? '\r\n' : '\n';
  const all = text.split(/\r?\n/);
  const isEnded = all.length > 1 && all.at(-1) === '';
  let entries = 0;
  const lines = (isEnded ? all.slice(0, -1) : all).map((whole): Line => {
    let line = whole.trimEnd();
    if (separator !== '' && line.endsWith(separator)) line = line.slice(0, -separator.length).trimEnd();
    const [onId, offId] = [idIn(line.trim(), onAround), offAround && idIn(line.trim(), offAround)];
    // Of two that fit, the one counts that has more of the line.
    const isOn = onId !== undefined && (offId === undefined || onId.length <= offId.length);
    const id = isOn ? onId : offId;
    if (id === undefined || id === '' || ++entries > MOST_ENTRIES) return { text: whole };
    return { text: line, entry: { id, isOn } };
  });
  return { lines, end, isEnded };
}

/** The ids of the mods that a list has on, in its order. */
export const readModList = (text: string, syntax: ListSyntax = PLAIN): string[] =>
  linesOf(text, syntax).lines.flatMap(({ entry }) => (entry?.isOn ? [entry.id] : []));

/** A list with these mods on. {@link readModList} reads the same ids back. */
export function writeModList(
  ids: readonly string[],
  { on, between = '\n', head = '', tail = '\n' }: ListSyntax = PLAIN,
): string {
  if (ids.length === 0) return head + (head === '' ? '' : tail);
  return head + ids.map((id) => on.replace(MOD, () => id)).join(between) + tail;
}

/** Where entries begin in a list that has none: behind its head, or before its tail; undefined where it has neither. */
function startOf(lines: readonly Line[], { head = '', tail = '' }: ListSyntax): number | undefined {
  const partsOf = (text: string): string[] =>
    text
      .split('\n')
      .map((line) => line.trim())
      .filter((line) => line !== '');
  const [lastOfHead, firstOfTail] = [partsOf(head).at(-1), partsOf(tail)[0]];
  if (lastOfHead === undefined && firstOfTail === undefined) return lines.length;
  const behind = lines.findIndex(({ text }) => text.trim() === lastOfHead);
  if (behind >= 0) return behind + 1;
  const before = lines.findLastIndex(({ text }) => text.trim() === firstOfTail);
  return before >= 0 ? before : undefined;
}

/** Of these numbers the longest run that only grows, as places in them: the entries that may stay where they are. */
function longestGrowing(numbers: readonly number[]): Set<number> {
  const ends: number[] = [];
  const before: number[] = [];
  numbers.forEach((number, at) => {
    let [low, high] = [0, ends.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (numbers[ends[middle]!]! < number) low = middle + 1;
      else high = middle;
    }
    before[at] = low > 0 ? ends[low - 1]! : -1;
    ends[low] = at;
  });
  const run = new Set<number>();
  for (let at = ends.at(-1) ?? -1; at >= 0; at = before[at]!) run.add(at);
  return run;
}

/**
 * A list changed line by line until it has just these of the mods that are known on, in this order. All else stays as it stands:
 * comments, entries of mods that are not known, what is off, the ends of lines. As few entries are moved as can be; one that is
 * new stands behind the one that comes before it. A text that is no list in this syntax is written anew.
 */
export function mergeModList(
  text: string,
  ids: readonly string[],
  isKnown: (id: string) => boolean,
  syntax: ListSyntax = PLAIN,
): string {
  const { lines, end, isEnded } = linesOf(text, syntax);
  const wanted = new Map(ids.map((id, place) => [id, place]));
  const isOurs = ({ entry }: Line): boolean => entry !== undefined && (wanted.has(entry.id) || isKnown(entry.id));
  const start = startOf(lines, syntax);
  const hasEntries = lines.some(({ entry }) => entry);
  if (text.trim() === '' || (!hasEntries && start === undefined)) return writeModList(ids, syntax);

  const written = new Map<string, Line>();
  for (const line of lines) {
    const { entry } = line;
    if (entry?.isOn && wanted.has(entry.id) && !written.has(entry.id)) written.set(entry.id, line);
  }
  const once = [...written.values()];
  const run = longestGrowing(once.map(({ entry }) => wanted.get(entry!.id)!));
  const staying = new Set(once.filter((_, i) => run.has(i)));
  const lineOf = (id: string): Line =>
    written.get(id) ?? { text: syntax.on.replace(MOD, () => id), entry: { id, isOn: true } };

  const kept = lines.filter((line) => {
    if (staying.has(line) || !isOurs(line)) return true;
    // One that is off and not wanted stays off.
    return !line.entry!.isOn && !wanted.has(line.entry!.id);
  });
  const stays = new Set([...staying].map(({ entry }) => entry!.id));
  const result: Line[] = [];
  let next = 0;
  const putUntil = (place: number): void => {
    for (; next < place; next++) if (!stays.has(ids[next]!)) result.push(lineOf(ids[next]!));
  };
  const firstStaying = kept.findIndex((line) => staying.has(line));
  // Where none stays, new ones come behind the entries that are there, or where entries begin.
  const lastEntry = kept.findLastIndex(({ entry }) => entry);
  const gap = firstStaying >= 0 ? -1 : lastEntry >= 0 ? lastEntry + 1 : startOf(kept, syntax)!;
  kept.forEach((line, i) => {
    if (i === gap) putUntil(ids.length);
    if (!staying.has(line)) return void result.push(line);
    putUntil(wanted.get(line.entry!.id)!);
    result.push(line);
    next = wanted.get(line.entry!.id)! + 1;
    // What follows it and does not stay comes right behind it.
    while (next < ids.length && !stays.has(ids[next]!)) result.push(lineOf(ids[next++]!));
  });
  if (gap >= kept.length) putUntil(ids.length);

  const separator = (syntax.between ?? '\n').replace(/\s+$/, '');
  const last = result.findLastIndex(({ entry }) => entry);
  const texts = result.map(({ text: line, entry }, i) => (entry && i !== last ? line + separator : line));
  if (texts.length === 0) return '';
  return texts.join(end) + (isEnded || gap >= kept.length ? end : '');
}

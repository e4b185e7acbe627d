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

/**
 * The ids of the mods that a list has on, in its order. An entry is told from anything else by what stands around its id in the
 * example; blanks around entries, and what separates them, do not count.
 */
export function readModList(text: string, { on, off, between = '\n' }: ListSyntax = PLAIN): string[] {
  const [before, after] = on.trim().split(MOD) as [string, string];
  const [offBefore, offAfter] = (off?.trim().split(MOD) ?? []) as [string?, string?];
  const separator = between.trim();
  const ids: string[] = [];
  for (const whole of text.split('\n', MOST_ENTRIES)) {
    let line = whole.trim();
    if (separator !== '' && line.endsWith(separator)) line = line.slice(0, -separator.length).trim();
    const isOff =
      offBefore !== undefined &&
      line.startsWith(offBefore) &&
      line.endsWith(offAfter!) &&
      !isEntry(line, before, after);
    if (!isOff && isEntry(line, before, after)) ids.push(line.slice(before.length, line.length - after.length).trim());
  }
  return ids;
}

const isEntry = (line: string, before: string, after: string): boolean =>
  line.length > before.length + after.length && line.startsWith(before) && line.endsWith(after);

/** A list with these mods on. {@link readModList} reads the same ids back. */
export function writeModList(
  ids: readonly string[],
  { on, between = '\n', head = '', tail = '\n' }: ListSyntax = PLAIN,
): string {
  if (ids.length === 0) return head + (head === '' ? '' : tail);
  return head + ids.map((id) => on.replace(MOD, id)).join(between) + tail;
}

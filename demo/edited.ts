import { readContent } from './content';
import { BUILDS } from './game';
import { contentAt } from './lives';
import { between, fraction } from './random';
import { type FileLife, fileLives } from './tree';

/* Files of mods that are made from the game's own: a table with other fees, a panel with other widths, settings of their own. */

/** The build that mods are carried to in the demo. */
const CARRIED_TO = 7;

/** Depots that lie over others for some people only: nobody makes a mod from their files. */
const ADDED = /^(winter-ice|salt-coast|voices-)/;

const lives = new Map<number, readonly FileLife[]>();

function vanilla(seed: number, path: string, build: number): string {
  let all = lives.get(seed);
  if (!all) lives.set(seed, (all = fileLives(seed, 1, 1, new Set([path]))));
  const life = all.findLast(
    ({ depot, paths }) => !ADDED.test(depot) && paths.findLast(({ since }) => since <= build)?.path === path,
  )!;
  const content = contentAt(seed, life, build);
  return new TextDecoder().decode(readContent(content, 0, content.size));
}

/** A line that holds a value by a name: a row of a table with its fee, a setting, an item of a panel. */
const VALUE =
  /^(?<before>(?<row>r\d+),[^,]*,\d+,|\s*"(?<key>\w+)": |(?<name>\w+) = |\s*<item id="(?<id>\w+)" width=")(?<value>\d+)(?<behind>.*)$/;

const valuesOf = (text: string): Map<string, string> =>
  new Map(
    text.split('\n').flatMap((line) => {
      const found = VALUE.exec(line)?.groups;
      return found ? [[(found['row'] ?? found['key'] ?? found['name'] ?? found['id'])!, found['value']!] as const] : [];
    }),
  );

/**
 * A file of the game at a build, as a mod has it.
 * @param conflicts of the places that the game changes later too, so many are the mod's as well
 * @param added a row that the mod adds to a table
 */
export function editedText(
  seed: number,
  mod: string,
  path: string,
  { made, conflicts, added }: { readonly made: number; readonly conflicts: number; readonly added?: string },
): string {
  const before = vanilla(seed, path, made);
  const later = valuesOf(vanilla(seed, path, Math.min(CARRIED_TO, BUILDS.length - 1)));
  let left = conflicts;
  const lines = before.split('\n').map((line) => {
    const found = VALUE.exec(line)?.groups;
    if (!found) return line;
    const { before: head = '', value = '', behind = '' } = found;
    const name = (found['row'] ?? found['key'] ?? found['name'] ?? found['id'])!;
    const isContested = later.get(name) !== value;
    const isEdited = isContested
      ? left-- > 0
      : fraction(seed, `${mod} edits ${path} ${name}`) < (path.endsWith('.csv') ? 0.06 : 0.16);
    return isEdited
      ? head + String(Number(value) + between(seed, `${mod} raises ${path} ${name}`, 5, 90)) + behind
      : line;
  });
  if (added !== undefined) lines.splice(-1, 0, added);
  return lines.join('\n');
}

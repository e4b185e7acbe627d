import { ownRule } from './own';
import type { GameRules } from './rules';
import { type BuildLabel, BuildLabelSchema } from './schema';

/** Bytes at the head of a save within which it says which build wrote it. */
export const SAVE_HEAD = 4096;

/** What parts a label from what stands behind it: blanks, controls, quotation marks. */

const LABEL_END = /[\s"'\u0000-\u001f\u007f-\u009f<>,;)\]}]/;

/** Whether the game's rules can tell which build wrote a save. */
export const tellsBuild = (rules: GameRules, path: string): boolean => ownRule(rules, path)?.buildAfter !== undefined;

/**
 * The build that wrote a save, as it says itself; undefined where it says nothing.
 * @param head its first {@link SAVE_HEAD} bytes, each as one character
 */
export function buildOfSave(rules: GameRules, path: string, head: string): BuildLabel | undefined {
  const after = ownRule(rules, path)?.buildAfter;
  const start = after === undefined ? -1 : head.indexOf(after);
  if (after === undefined || start < 0) return undefined;
  const rest = head.slice(start + after.length, start + after.length + 64);
  const end = rest.search(LABEL_END);
  return BuildLabelSchema.safeParse(rest.slice(0, end < 0 ? undefined : end)).data;
}

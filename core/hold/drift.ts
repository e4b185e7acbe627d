import { type GameRules, ownKind } from '#core/builds';
import {
  compareTree,
  departures,
  type ExpectedFile,
  type FoundFile,
  type SurveyRow,
  withUnreadable,
} from '#core/survey';

/**
 * Every departure of a folder from what is held. The player's own files may come, change and go.
 * @param unreadable files and folders that could not be looked at
 */
export function drift(
  held: readonly ExpectedFile[],
  found: readonly FoundFile[],
  rules: GameRules,
  unreadable: readonly string[] = [],
): SurveyRow[] {
  const heldPaths = new Set(held.map(({ path }) => path));
  const isOwn = (path: string): boolean => !heldPaths.has(path) && ownKind(rules, path) !== undefined;
  return departures(withUnreadable(compareTree(held, found), unreadable)).filter(({ path }) => !isOwn(path));
}

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
 * @param along files that the person has come along, whatever lies in them
 */
export function drift(
  held: readonly ExpectedFile[],
  found: readonly FoundFile[],
  rules: GameRules,
  unreadable: readonly string[] = [],
  along: ReadonlySet<string> = new Set(),
): SurveyRow[] {
  const heldPaths = new Set(held.map(({ path }) => path));
  const isOwn = (path: string): boolean =>
    !heldPaths.has(path) && (along.has(path) || ownKind(rules, path) !== undefined);
  return departures(withUnreadable(compareTree(held, found), unreadable)).filter(({ path }) => !isOwn(path));
}

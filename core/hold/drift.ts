import { type GameRules, ownKind } from '#core/builds';
import { departures, type ExpectedFile, type FoundFile, type SurveyRow, withUnreadable } from '#core/survey';

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
  const isOwn = ({ path, expected }: SurveyRow): boolean =>
    expected === undefined && (along.has(path) || ownKind(rules, path) !== undefined);
  return withUnreadable(departures(held, found), unreadable).filter((row) => !isOwn(row));
}

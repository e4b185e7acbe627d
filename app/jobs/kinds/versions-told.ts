import { isFailure } from '#core/failure';
import type { VersionRule } from '#core/builds';
import type { Source } from '~/places';
import { getGame, type StoredSurvey } from '~/store';

/** Bytes of a text in which a version is looked for. */
const MOST_TEXT = 1 << 20;

async function versionOf({ reader, root }: Source, { file, pattern }: VersionRule): Promise<string | undefined> {
  const path = root === '' ? file : `${root}/${file}`;
  // Its engines are large, and no page needs them.
  const { programVersion, versionInText } = await import('#core/versions');
  if (pattern !== undefined)
    return versionInText(new TextDecoder().decode(await reader.read(path, 0, MOST_TEXT)), pattern);
  const open = await reader.open(path);
  try {
    return await programVersion((start, end) => open.read(start, Math.min(end, open.size)));
  } finally {
    open.close();
  }
}

/** What the game's own files say its version is, by the rules of the game. One that cannot be read says nothing. */
export async function versionsTold(source: Source, game: string): Promise<NonNullable<StoredSurvey['versions']>> {
  const { rules } = await getGame(game);
  const files = rules.versions ?? (rules.program === undefined ? [] : [{ file: rules.program }]);
  const told: [string, string][] = [];
  for (const rule of files) {
    try {
      const version = await versionOf(source, rule);
      if (version !== undefined) told.push([rule.file, version]);
    } catch (error) {
      if (!isFailure(error)) throw error;
    }
  }
  return told;
}

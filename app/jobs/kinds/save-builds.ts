import { buildOfSave, SAVE_HEAD, tellsBuild } from '#core/builds';
import { isFailure } from '#core/failure';
import { getGame, type StoredSurvey } from '~/store';
import type { Source } from '~/places';

/** Saves that are asked; a person has fewer, and the newest count. */
const MOST_SAVES = 200;

/** The builds that the saves of a folder say they were written by, where the game's rules can tell. */
export async function saveBuilds(
  { reader, root }: Source,
  { paths, modified }: Pick<StoredSurvey, 'paths' | 'modified'>,
  game: string,
): Promise<NonNullable<StoredSurvey['saveBuilds']>> {
  const { rules } = await getGame(game);
  const saves = [...paths.keys()]
    .filter((i) => tellsBuild(rules, paths[i]!))
    .sort((a, b) => modified[b]! - modified[a]!)
    .slice(0, MOST_SAVES);
  const told: NonNullable<StoredSurvey['saveBuilds']>[number][] = [];
  for (const i of saves) {
    const path = paths[i]!;
    try {
      const head = await reader.read(root === '' ? path : `${root}/${path}`, 0, SAVE_HEAD);
      const build = buildOfSave(rules, path, String.fromCharCode(...head));
      if (build) told.push([path, build]);
    } catch (error) {
      // One that cannot be read now says nothing; the survey has told of it already.
      if (!isFailure(error)) throw error;
    }
  }
  return told;
}

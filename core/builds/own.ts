import { isBelow } from '#core/paths';
import type { GameRules, OwnKind } from './schema';

/** What a file of the player's is, by where the game keeps such files; undefined for one that is not the player's. */
export function ownKind({ own }: GameRules, path: string): OwnKind | undefined {
  return own.find(({ folder }) => isBelow(path, folder))?.kind;
}

import type { HistoryEntry } from '#core/changes';
import { movesOfFacts } from '#core/mend';
import { counted, exactTime } from './format';
import { moveWords } from './mod-names';

/** What a lay-down within one build is called: it changed mods, or put right what had drifted. */
function repairTitle(build: string, facts: HistoryEntry['facts']): string {
  const moves = movesOfFacts(facts);
  const [first] = moves;
  if (!first) return `Repaired ${build}`;
  return moves.length === 1 ? moveWords(first, first.name) : `Changed ${counted(moves.length, 'mod')} on ${build}`;
}

/** What a change is called. */
export function changeTitle({ what, facts }: Pick<HistoryEntry, 'what' | 'facts'>): string {
  const { build, branch, from, part, without, at, profile, file, name } = facts;
  switch (what) {
    case 'lay-down':
      if (build !== undefined && build === from) return repairTitle(build, facts);
      return [
        `Laid down ${build ?? 'a folder'}${from === undefined ? '' : ` over ${from}`}`,
        part !== undefined && `part ${part}`,
        without !== undefined && `without ${counted(Number(without), 'file')}`,
      ]
        .filter(Boolean)
        .join(', ');
    case 'hold':
      return build === undefined ? 'Held' : `Held ${build}`;
    case 'release':
      return build === undefined ? 'Released the hold' : `Released the hold on ${build}`;
    case 'switch-branch':
      return `Switched to the ${branch ?? 'other'} branch${from === undefined ? '' : ` from ${from}`}`;
    case 'clean':
      return 'Cleaned up';
    case 'put-back':
      return at === undefined ? 'Put files back' : `Put files back from the keepsake of ${exactTime(Number(at))}`;
    case 'switch-profile':
      return `Switched to the profile ${profile ?? ''}${from === undefined ? '' : ` from ${from}`}`;
    case 'copy-folder':
      return from === undefined ? 'Copied a folder here' : `Copied here from ${from}`;
    case 'delete-files':
      return 'Deleted the game’s files';
    case 'move-files':
      return name === undefined ? 'Moved files of a mod' : `Moved files of ${name} to their place`;
    case 'bring-along':
      return 'Brought your files along';
    case 'edit':
      return file === undefined ? 'Changed files' : `Set the loader’s switch in ${file}`;
    case 'outside':
      return from !== build && from !== undefined && build !== undefined
        ? `Updated from ${from} to ${build} by others`
        : 'Changed by others';
  }
}

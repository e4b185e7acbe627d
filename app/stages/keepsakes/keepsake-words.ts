import type { KeepsakeHead, KeptRow } from '#core/keepsakes';
import { counted } from '~/parts/format';

const BEFORE: Readonly<Record<string, string>> = {
  'lay-down': 'Before laying down',
  clean: 'Before cleaning up',
  'put-back': 'Before putting files back',
  'take-back': 'Before a change was taken back',
  'let-go': 'Before files of the store were deleted',
  'switch-profile': 'Before switching profiles',
  'switch-branch': 'Before switching the branch',
  'delete-files': 'Before the files were deleted',
};

/** Why a keepsake was made. */
export function whyWords({ why, what }: Pick<KeepsakeHead, 'why' | 'what'>): string {
  switch (why) {
    case 'asked':
      return 'Kept by hand';
    case 'change':
      return BEFORE[what ?? ''] ?? 'Before a change';
    case 'archive':
      return `From ${what ?? 'an archive'}`;
    case 'folder':
      return `From the folder ${what ?? ''}`;
  }
}

/** With how many mods it was made; nothing where nobody knows. */
export function modsWords({ mods }: Pick<KeepsakeHead, 'mods'>): string | undefined {
  if (!mods) return undefined;
  return mods.length === 0 ? 'mod-free' : counted(mods.length, 'mod');
}

export const DOES_WORDS: Record<KeptRow['does'], string> = {
  nothing: 'as now',
  replaces: 'differs',
  returns: 'gone now',
  unknown: 'not readable',
};

import type { OwnKind } from '#core/builds';

/** What kinds of files of the player's are called. */
export const KIND_NAMES: Record<OwnKind, string> = {
  saves: 'Saves',
  settings: 'Settings',
  content: 'Own content',
  presets: 'Settings of mods',
};

import type { StoredTrial } from '~/store';

/** The last start of the game; what a person has noted of single mods is none. */
export const lastStart = (trials: readonly StoredTrial[]): StoredTrial | undefined =>
  trials.findLast(({ answer: { told, mods } }) => !told || mods.length === 0);

import type { Finding } from '#core/log-causes';

/** What a line of a log tells, in the words of the trade, and where the step is that mends it. */
export interface ToldCause {
  readonly words: string;
  readonly step: string;
  /** Below the folder's address. */
  readonly to: string;
}

const mend = (mod: string | undefined): string => (mod === undefined ? 'mend' : `mend?mod=${encodeURIComponent(mod)}`);

/** @param nameOf what a mod is called */
export function causeWords({ cause, mod, other, path }: Finding, nameOf: (id: string) => string): ToldCause {
  const who = mod === undefined ? 'A mod' : nameOf(mod);
  const what = other === undefined ? undefined : nameOf(other);
  switch (cause) {
    case 'requirement-missing':
      return {
        words: `${who} needs ${what ?? 'another mod'}, which is not there.`,
        ...{ step: what === undefined ? `See what ${who} needs` : `Add ${what}`, to: mend(other ?? mod) },
      };
    case 'wrong-version':
      return {
        words: `${who} is made for another ${what === undefined ? 'version' : `version of ${what}`}.`,
        ...{ step: `See the releases of ${who}`, to: mend(mod) },
      };
    case 'program-unknown':
      return {
        words: `${mod === undefined ? 'The loader' : who} does not know the program of this build.`,
        ...{ step: mod === undefined ? 'Open Mend' : `See the releases of ${who}`, to: mend(mod) },
      };
    case 'file-missing':
      return {
        words: `${path} ${mod === undefined ? 'of the game' : `of ${who}`} is missing or cannot be read.`,
        ...{ step: 'Check the folder, and put it back', to: 'survey' },
      };
    case 'file-twice':
      return {
        words: `${who} and ${what ?? 'another mod'} bring the same${path === undefined ? '' : ` (${path})`}.`,
        ...{ step: 'See whose counts in the load order', to: 'order' },
      };
    case 'error-in-mod':
      return {
        words: `${who} fails${path === undefined ? '' : ` in ${path}`}.`,
        ...{ step: `Mend ${who}`, to: mend(mod) },
      };
    case 'list-empty':
      return { words: 'The list of mods to load is empty.', step: 'Restore the load order', to: 'order' };
    case 'loader-absent':
      return {
        words: `${who} did not run at all: no line is from it.`,
        ...{ step: `See the releases of ${who}`, to: mend(mod) },
      };
  }
}

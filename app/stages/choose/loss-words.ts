import type { BuildLabel } from '#core/builds';
import type { Loss } from '#core/choose';
import { rangeOfMod } from '~/parts/mod-names';

/** Why a mod does not run at a build, down to the fact that decides it. */
export function lossWords(loss: Loss, build: BuildLabel, names: ReadonlyMap<string, string>): string {
  switch (loss.why) {
    case 'no-release':
      return loss.newestWith === undefined
        ? `has no release for ${build}`
        : `has no release for ${build}; the newest build with one is ${loss.newestWith}`;
    case 'requirement': {
      const name = names.get(loss.needs.mod) ?? loss.needs.mod;
      const cause = loss.cause ? `, and ${name} ${lossWords(loss.cause, build, names)}` : ', which does not run here';
      return `${loss.release} needs ${rangeOfMod(loss.needs, names)}${cause}`;
    }
    case 'pinned':
      return `is pinned to ${loss.release}, which does not run here`;
    case 'benched':
      return 'is on the bench';
    case 'conflict':
      return `${loss.release} cannot run beside ${names.get(loss.with) ?? loss.with}`;
    case 'outweighed':
      return 'gives way to mods with more weight';
  }
}

import type { BuildLabel, ModId } from '#core/builds';
import type { Fact } from '#core/choose';
import { rangeWords, type Requirement } from '#core/mods';
import { rangeOfMod } from '~/parts/mod-names';

/** A fact that stands against all must-haves running at a build, as a sentence. */
export function factWords(fact: Fact, build: BuildLabel, names: ReadonlyMap<string, string>): string {
  const nameOf = (id: ModId): string => names.get(id) ?? id;
  const words = (range: Requirement): string => rangeOfMod(range, names);
  const name = nameOf(fact.mod);
  switch (fact.kind) {
    case 'wanted':
      return `You must have ${name}.`;
    case 'pinned':
      return `You pinned ${name} to ${fact.release}.`;
    case 'benched':
      return `${name} is on the bench.`;
    case 'needs':
      return `${name} ${fact.releases.join(', ')} needs ${fact.oneOf.map(words).join(' or ')}.`;
    case 'conflict':
      return `${name} ${fact.releases.join(', ')} cannot run beside ${words(fact.with)}.`;
    case 'only-here':
      return `The only release for ${build} is ${name} ${fact.releases.join(', ')}.`;
    case 'none-here': {
      const ranges = fact.ranges.filter(({ from, to }) => from !== undefined || to !== undefined).map(rangeWords);
      const which = ranges.length === 0 ? `No release of ${name}` : `No ${name} ${ranges.join(' and ')}`;
      const newest = fact.newestWith === undefined ? '' : `; the newest build with one is ${fact.newestWith}`;
      return `${which} is for ${build}${newest}.`;
    }
  }
}

import type { OwnKind } from '#core/builds';
import type { LearnedFrom, StrayGroup, StrayName } from '#core/survey';

const OWN_WORDS: Record<OwnKind, string> = {
  saves: 'Your saves',
  settings: 'Your settings',
  content: 'Your own content',
  presets: 'What you set of mods',
};

/** Whose the files of a group are, in words. @param names the mods' names by id */
export function groupWords(group: StrayGroup, names: ReadonlyMap<string, string>): string {
  switch (group.kind) {
    case 'leftover':
      return `Left over from ${group.build}`;
    case 'mod':
    case 'loader':
      return `${names.get(group.mod) ?? group.mod} ${group.release}`;
    case 'learned':
      return `From your record ${group.label}`;
    case 'load-order':
      return 'Load order';
    case 'own':
      return OWN_WORDS[group.what];
    case 'unknown':
      return 'Unknown owner';
  }
}

/** Where a record of a build comes from. */
export const fromWords = ({ kind, name }: LearnedFrom): string =>
  kind === 'folder' ? `from the folder ${name}` : `from ${name}`;

/** Whose a file is, in words. */
export function strayWords(name: StrayName, names: ReadonlyMap<string, string>): string {
  switch (name.kind) {
    case 'leftover':
      return groupWords({ kind: 'leftover', build: name.builds.at(-1)! }, names);
    case 'learned':
      return `From your record ${name.label}, ${fromWords(name.from)}`;
    default:
      return groupWords(name, names);
  }
}

import type { StrayName } from '#core/survey';

/** Whose a file is, in words. @param names the mods' names by id */
export function strayWords(name: StrayName, names: ReadonlyMap<string, string>): string {
  switch (name.kind) {
    case 'leftover':
      return `Left over from ${name.builds.at(-1)}`;
    case 'mod':
    case 'loader':
      return `${names.get(name.mod) ?? name.mod} ${name.release}`;
    case 'load-order':
      return 'List of mods to load';
    case 'own':
      return 'Your own (saves, settings)';
    case 'unknown':
      return 'Nobody’s that is known';
  }
}

/**
 * Finds the file of the game that a file of a mod is made from: the one at its own path, else the one whose path its own ends with, with
 * as many folders as can be; a name alone counts only where the mod is said to be about that file.
 * @param vanilla paths of the game
 * @param touches files of the game that the mod is said to replace, edit or read
 */
export function vanillaFinder(
  vanilla: Iterable<string>,
  touches: readonly string[],
): (path: string) => string | undefined {
  const byPath = new Map([...vanilla].map((path) => [path.toLowerCase(), path]));
  const byName = new Map<string, string | undefined>();
  for (const path of touches) {
    const name = path.toLowerCase().split('/').at(-1)!;
    byName.set(name, byName.has(name) ? undefined : byPath.get(path.toLowerCase()));
  }
  return (path) => {
    const parts = path.toLowerCase().split('/');
    for (let from = 0; from < parts.length - 1; from++) {
      const known = byPath.get(parts.slice(from).join('/'));
      if (known !== undefined) return known;
    }
    // A file in the game's own folder is at its path, or is none of the game's.
    return parts.length === 1 ? byPath.get(parts[0]!) : byName.get(parts.at(-1)!);
  };
}

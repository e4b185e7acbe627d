/* What makes one JSON value of another (RFC 6902), by paths in RFC 6901. */

export type JsonPatchStep =
  | { readonly op: 'add' | 'replace'; readonly path: string; readonly value: unknown }
  | { readonly op: 'remove'; readonly path: string };

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const below = (path: string, name: string): string => `${path}/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`;

/** Deeper than that a value is replaced whole. */
const DEEPEST = 500;

/** The steps that make one value of another. Objects are gone into, lists of equal length too; others are replaced whole. */
export function jsonPatch(before: unknown, after: unknown, path = '', depth = 0): JsonPatchStep[] {
  if (Object.is(before, after)) return [];
  if (depth < DEEPEST && isObject(before) && isObject(after)) {
    const removed = Object.keys(before).filter((name) => !Object.hasOwn(after, name));
    return [
      ...removed.map((name): JsonPatchStep => ({ op: 'remove', path: below(path, name) })),
      ...Object.entries(after).flatMap(([name, value]): JsonPatchStep[] =>
        Object.hasOwn(before, name)
          ? jsonPatch(before[name], value, below(path, name), depth + 1)
          : [{ op: 'add', path: below(path, name), value }],
      ),
    ];
  }
  if (depth < DEEPEST && Array.isArray(before) && Array.isArray(after) && before.length === after.length)
    return after.flatMap((value, i) => jsonPatch(before[i], value, below(path, String(i)), depth + 1));
  return [{ op: 'replace', path, value: after }];
}

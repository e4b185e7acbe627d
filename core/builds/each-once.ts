import type { z } from 'zod';

/**
 * Notes every thing of a list that has the name of an earlier one.
 * @param where the list's field, and the field of its elements that has the name
 * @returns the names
 */
export function eachOnce<T>(
  context: Pick<z.core.$RefinementCtx, 'addIssue'>,
  [list, field]: readonly [list: string | readonly (string | number)[], field: string],
  things: readonly T[],
  nameOf: (thing: T) => string,
): ReadonlySet<string> {
  const names = new Set<string>();
  things.forEach((thing, i) => {
    const name = nameOf(thing);
    if (names.has(name)) {
      const path = [...(typeof list === 'string' ? [list] : list), i, field];
      context.addIssue({ code: 'custom', path, message: `"${name}" is listed twice` });
    }
    names.add(name);
  });
  return names;
}

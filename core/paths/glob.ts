import { z } from 'zod';
import { isFailure } from '#core/failure';
import { assertSafePath } from './safe-path';

/*
 * Patterns of paths: `*` is any part of a name, `?` one sign of it, `**` any folders. They come with games that are handed on, and
 * take time by the product of their length and the path's, whatever they say.
 */

/** Whether a text is a pattern, and no path: no path has these signs in it. */
export const isGlob = (text: string): boolean => /[*?]/.test(text);

/** Goes over two rows with one wildcard that stands for any number; the last one seen is the only one to go back to. */
function matches<P, T>(
  pattern: ArrayLike<P>,
  text: ArrayLike<T>,
  isMany: (one: P) => boolean,
  fits: (one: P, other: T) => boolean,
): boolean {
  let [p, t] = [0, 0];
  let [star, from] = [-1, 0];
  while (t < text.length) {
    if (p < pattern.length && isMany(pattern[p]!)) [star, from, p] = [p, t, p + 1];
    else if (p < pattern.length && fits(pattern[p]!, text[t]!)) [p, t] = [p + 1, t + 1];
    else if (star >= 0) [p, t] = [star + 1, ++from];
    else return false;
  }
  while (p < pattern.length && isMany(pattern[p]!)) p += 1;
  return p === pattern.length;
}

const nameFits = (pattern: string, name: string): boolean =>
  matches(
    [...pattern],
    [...name],
    (sign) => sign === '*',
    (sign, other) => sign === '?' || sign === other,
  );

/** Whether a path fits a pattern, or lies in a folder that does. */
export function fitsGlob(path: string, glob: string): boolean {
  const parts = path.split('/');
  const pattern = glob.split('/');
  const isMany = (part: string): boolean => part === '**';
  // What lies in a folder that fits fits too.
  return matches([...pattern, '**'], parts, isMany, nameFits);
}

/** A path, or a pattern of paths. */
export const PathOrGlobSchema = z.string().superRefine((text, context) => {
  try {
    // Whatever stands for something else is to be in the place of a harmless sign.
    assertSafePath(text.replaceAll('**', 'x').replaceAll(/[*?]/g, 'x'));
    if (isGlob(text) && /^[*?/]*$/.test(text)) context.addIssue({ code: 'custom', message: 'fits everything' });
  } catch (error) {
    if (!isFailure(error)) throw error;
    context.addIssue({ code: 'custom', message: `is no path (${error.code})` });
  }
});

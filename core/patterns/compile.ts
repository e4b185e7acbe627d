import { RE2JS, RE2JSException } from 're2js';

/*
 * Patterns that come with games, which are handed on: they run in time by the length of the text, whatever they say (RE2).
 */

/** @throws RE2JSException for what is no pattern */
export const compile = (pattern: string): RE2JS => RE2JS.compile(pattern, RE2JS.MULTILINE);

/** Why a text is no pattern with just one part in parentheses; undefined for one. */
export function onePart(pattern: string): string | undefined {
  const problem = notAPattern(pattern);
  if (problem) return problem;
  return compile(pattern).groupCount() === 1 ? undefined : 'is to have one part in parentheses';
}

/** The parts of a line that tells a cause. */
export const CAUSE_PARTS = ['mod', 'other', 'file'] as const;

/** Why a text is no pattern of a line that tells a cause; undefined for one. */
export function causeLine(pattern: string): string | undefined {
  const problem = notAPattern(pattern);
  if (problem) return problem;
  const named = Object.keys(compile(pattern).namedGroups());
  const unknown = named.find((name) => !CAUSE_PARTS.some((part) => part === name));
  return unknown === undefined ? undefined : `names a part ${unknown}, which is none of ${CAUSE_PARTS.join(', ')}`;
}

/** Why a text is no pattern; undefined for one. */
export function notAPattern(pattern: string): string | undefined {
  try {
    compile(pattern);
    return undefined;
  } catch (error) {
    if (error instanceof RE2JSException) return `is no pattern: ${error.message}`;
    throw error;
  }
}

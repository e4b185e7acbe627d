import { z } from 'zod';
import { SafePathSchema } from '#core/paths';
import { PatternSchema } from './pattern';

/** Why a start went wrong, as a line of a log tells it. */
export const LOG_CAUSES = [
  'requirement-missing',
  'wrong-version',
  'program-unknown',
  'file-missing',
  'file-twice',
  'error-in-mod',
  'list-empty',
  'loader-absent',
] as const;
export type LogCause = (typeof LOG_CAUSES)[number];

/** A line of the game's or its loader's logs, in their own words. */
export const CauseRuleSchema = z.object({
  cause: z.enum(LOG_CAUSES),
  line: PatternSchema.describe(
    'The line; its parts (?P<mod>…), (?P<other>…) and (?P<file>…) name the mod, what it needs or is at odds with, and a file',
  ),
});
export type CauseRule = z.infer<typeof CauseRuleSchema>;

/** What a game writes down of its start, line by line. All patterns are RE2. */
export const LogRuleSchema = z
  .object({
    file: SafePathSchema.describe('In the game’s folder; another one can be handed over'),
    version: PatternSchema.optional().describe('A line that tells the program’s version, the version in parentheses'),
    up: PatternSchema.optional().describe('A line that is there only once the game has come up'),
    crashed: PatternSchema.optional().describe('A line that is there only where it has not'),
    loaded: PatternSchema.optional().describe('A line that tells of a mod that was loaded, its name in parentheses'),
    failed: PatternSchema.optional().describe(
      'A line that tells of a mod that was not loaded, its name in parentheses',
    ),
  })
  .refine(
    ({ up, crashed }) => up !== undefined || crashed !== undefined,
    'tells neither that it came up nor that it did not',
  );
export type LogRule = z.infer<typeof LogRuleSchema>;

import { z } from 'zod';
import { SafePathSchema } from '#core/paths';
import { PatternSchema } from './pattern';

/** A file in which a game says its version. */
export const VersionRuleSchema = z.object({
  file: SafePathSchema,
  pattern: PatternSchema.optional().describe('RE2, the version in parentheses; a Windows program needs none'),
});
export type VersionRule = z.infer<typeof VersionRuleSchema>;

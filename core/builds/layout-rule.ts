import { z } from 'zod';
import { SafePathSchema } from '#core/paths';

/** Where files of mods belong, by what they are called. */
export const LayoutRuleSchema = z.object({
  files: z
    .string()
    .regex(/^[^/\\\p{Cc}]{1,80}$/u, 'is a pattern of a name, such as *.pak')
    .describe('A pattern of the names of files, with * and ?'),
  folder: SafePathSchema.describe('The folder that they belong in'),
  ownFolder: z
    .boolean()
    .exactOptional()
    .describe('Each mod has a folder of its own in it, and what lies beside such a file belongs there too'),
});

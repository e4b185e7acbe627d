import { z } from 'zod';
import { SafePathSchema } from '#core/paths';

/** How a storefront's record is written, from which the value in it is read. */
export const RECORD_FORMS = ['json', 'ini', 'xml', 'text'] as const;

/** Where one value stands in a text. */
export const ValueRuleSchema = z.object({
  file: SafePathSchema.describe(
    'In the game’s folder; where a person points at it elsewhere, the last part is its name',
  ),
  form: z.enum(RECORD_FORMS),
  at: z
    .string()
    .min(1)
    .max(500)
    .describe(
      'Where the value stands. JSON: the way to it as in RFC 6901, such as settings/updates. INI: section/key. XML: element/element, or element/@attribute, from the root on. Text: a pattern (RE2) with one part in parentheses, the value, found once',
    ),
});
export type ValueRule = z.infer<typeof ValueRuleSchema>;

/** Where a storefront keeps whether it updates a game, and what it has to say to leave it as it is. */
export const RecordRuleSchema = ValueRuleSchema.extend({
  stops: z.string().max(200).describe('The value with which nothing is updated'),
  goes: z.string().max(200).describe('The value with which it is updated again'),
  build: z
    .string()
    .min(1)
    .max(500)
    .optional()
    .describe('Where the label of the build stands, if the storefront goes by that'),
  branch: z
    .string()
    .min(1)
    .max(500)
    .optional()
    .describe('Where the name of the branch stands that the storefront follows'),
  branchCode: z
    .string()
    .min(1)
    .max(500)
    .optional()
    .describe('Where the code stands that opens a branch, if the record has it'),
}).superRefine(({ stops, goes }, context) => {
  if (stops === goes)
    context.addIssue({ code: 'custom', path: ['goes'], message: 'is the same as the one that stops' });
  if (/[\r\n]/.test(stops + goes))
    context.addIssue({ code: 'custom', path: ['stops'], message: 'is more than one line' });
});
export type RecordRule = z.infer<typeof RecordRuleSchema>;

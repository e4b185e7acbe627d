import { z } from 'zod';
import { RecordLayoutSchema } from '#core/merge';
import { ListSyntaxSchema } from '#core/mod-list';
import { PathOrGlobSchema, SafePathSchema } from '#core/paths';
import { RecordRuleSchema, ValueRuleSchema } from './record-rule';
import { LayoutRuleSchema } from './layout-rule';
import { CauseRuleSchema, LogRuleSchema } from './log-rule';
import { VersionRuleSchema } from './version-rule';
import { FetchLineSchema } from './fetch-line';

/**
 * What files of the player's are. Presets are what mods have set for them: a release may bring its own as a start, and they
 * stay when the mod goes.
 */
export const OWN_KINDS = ['saves', 'settings', 'content', 'presets'] as const;

/** Where a game keeps what, as far as it is known: all are folders or files relative to the game's folder. */
export const GameRulesSchema = z.object({
  program: SafePathSchema.optional(),
  loader: SafePathSchema.optional(),
  modsFolder: SafePathSchema.optional(),
  layout: z
    .array(LayoutRuleSchema)
    .max(50)
    .optional()
    .describe('Where files of mods belong, by their names; learned from mods that are known, where it is left out'),
  loadOrder: SafePathSchema.optional().describe('The list of mods to load'),
  listSyntax: ListSyntaxSchema.optional().describe(
    'How that list is written; the id of a mod a line, where it is left out',
  ),
  /** Folders with what the player made. */
  own: z
    .array(
      z.object({
        folder: PathOrGlobSchema.describe(
          'A folder or file; or a pattern with * and ? in names, and ** for any folders',
        ),
        kind: z.enum(OWN_KINDS),
        buildAfter: z
          .string()
          .min(1)
          .max(80)
          .optional()
          .describe('Text right before the label of the build that wrote a save, within its first 4,096 bytes'),
      }),
    )
    .max(200)
    .default([]),
  records: z
    .array(
      z.object({
        files: PathOrGlobSchema.describe('A file, or a pattern of paths'),
        layout: RecordLayoutSchema.describe('What lies where in a row'),
      }),
    )
    .max(200)
    .optional()
    .describe('Tables whose rows have the same number of bytes, so that mods of them can be carried forward'),
  fetchLine: FetchLineSchema.optional(),
  versions: z
    .array(VersionRuleSchema)
    .max(20)
    .optional()
    .describe('Files that tell the version of the game; the program alone, where it is left out'),
  log: LogRuleSchema.optional().describe('What the game writes down of its start'),
  causes: z
    .array(CauseRuleSchema)
    .max(50)
    .optional()
    .describe(
      'Lines of its logs that tell why a start went wrong, beside those in the words that are common everywhere',
    ),
  loaderSwitch: ValueRuleSchema.extend({ on: z.string().max(200).describe('The value with which mods are loaded') })
    .optional()
    .describe('What has mods be loaded, and patches undo'),
  record: RecordRuleSchema.optional().describe('Where the storefront keeps whether it updates the game'),
});
export type GameRules = z.infer<typeof GameRulesSchema>;
export type OwnKind = GameRules['own'][number]['kind'];

import { z } from 'zod';
import { BuildLabelSchema, ModIdSchema } from '#core/builds';
import { CatalogueSchema } from '#core/mods';

/** A question of its own: which set of releases is best at each of these builds. Read by `bench/choose`. */
export const ChooseQuestionSchema = z.object({
  format: z.literal('regressum-choose-question'),
  version: z.literal(1),
  builds: z.array(BuildLabelSchema).max(1000).describe('From old to new'),
  catalogue: CatalogueSchema,
  weights: z.record(ModIdSchema, z.enum(['must', 'want', 'spare'])),
  pins: z.record(ModIdSchema, z.string()).default({}).describe('Mods that are to run at just this release'),
});
export type ChooseQuestion = z.infer<typeof ChooseQuestionSchema>;

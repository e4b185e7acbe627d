import { z } from 'zod';
import { BuildLabelSchema, type ModId, ModIdSchema } from '#core/builds';
import type { Weight } from '#core/mods';
import type { BuildChoice, ModChange } from './board';

/** Why a build was chosen, in figures and names, so that it can be read when the catalogue has long changed. */
export const DecisionSchema = z
  .object({
    at: z.iso.datetime(),
    evidence: z.enum(['proven', 'stated', 'likely', 'in doubt']).describe('The weakest evidence that counted'),
    wanted: z.int().nonnegative().describe('Mods that the person wanted'),
    running: z.int().nonnegative().describe('How many of them run'),
    provenBest: z.boolean().describe('Whether it is proven that no other set is worth more'),
    rolledBack: z.array(z.object({ mod: ModIdSchema, from: z.string(), to: z.string() })),
    lost: z.array(
      z.object({
        mod: ModIdSchema,
        weight: z.enum(['must', 'want', 'spare']),
        why: z.enum(['no-release', 'requirement', 'pinned', 'benched', 'conflict', 'outweighed']),
      }),
    ),
    runnerUp: z
      .object({ build: BuildLabelSchema, running: z.int().nonnegative() })
      .optional()
      .describe('The best of the other builds'),
  })
  .strict();
export type Decision = z.infer<typeof DecisionSchema>;

/**
 * The reasons for a choice, as they are at this moment.
 * @param ranked all builds that could have been chosen, the best first
 * @param at milliseconds since 1970
 */
export function decisionFor(
  choice: BuildChoice,
  { ranked, rolledBack }: { ranked: readonly BuildChoice[]; rolledBack: readonly ModChange[] },
  weights: ReadonlyMap<ModId, Weight>,
  evidence: Decision['evidence'],
  at: number,
): Decision {
  const other = ranked.find(({ build }) => build !== choice.build);
  return {
    at: new Date(at).toISOString(),
    evidence,
    wanted: weights.size,
    running: choice.running,
    provenBest: choice.exact,
    rolledBack: rolledBack.map(({ mod, from, to }) => ({ mod, from: from!, to })),
    lost: [...choice.lost].map(([mod, { why }]) => ({ mod, weight: weights.get(mod)!, why })),
    ...(other && { runnerUp: { build: other.build, running: other.running } }),
  };
}

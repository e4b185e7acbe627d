import { z } from 'zod';
import { BuildLabelSchema, ModIdSchema } from '#core/builds';

/** What somebody said of a release elsewhere, in a post or a message, as a person wrote it down here. */
export const SaidSchema = z
  .object({
    id: z.string(),
    mod: ModIdSchema,
    release: z.string(),
    build: BuildLabelSchema,
    /** Whether it runs there, as they say. */
    runs: z.boolean(),
    text: z.string().max(2000),
    /** Where it was said. */
    address: z.string().max(500).exactOptional(),
    /** When it was written down, in milliseconds since 1970. */
    at: z.number(),
  })
  .readonly();
export type Said = z.infer<typeof SaidSchema>;

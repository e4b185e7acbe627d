import { z } from 'zod';
import { BuildLabelSchema, DepotIdSchema } from '#core/builds';

/**
 * The stand-in storefront's record of an install, which lies beside the game's folder. The storefront reads it to decide
 * whether an update is due, and must be able to write it before it touches the folder.
 */
export const RecordSchema = z.object({
  game: z.string(),
  branch: z.string(),
  /** Opens a branch that needs a code; empty where none was typed. */
  branchCode: z.string().default(''),
  build: BuildLabelSchema,
  updates: z.enum(['by-itself', 'when-asked']),
  depots: z.array(DepotIdSchema),
});
export type InstallRecord = z.infer<typeof RecordSchema>;

const FileSchema = z.object({ path: z.string(), size: z.number(), sha256: z.string(), href: z.string() });

/** What the storefront says when it looks at a record. */
export const StorefrontAnswerSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('nothing'), why: z.enum(['newest', 'setting', 'code']) }),
  z.object({
    action: z.literal('update'),
    build: BuildLabelSchema,
    /** The record that has to be written before the folder is touched. */
    record: RecordSchema,
    write: z.array(FileSchema),
    remove: z.array(z.string()),
  }),
]);
export type StorefrontAnswer = z.infer<typeof StorefrontAnswerSchema>;

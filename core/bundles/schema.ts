import { z } from 'zod';
import { BuildLabelSchema, DepotIdSchema } from '#core/builds';

/*
 * A bundle is a file on a source with files of a depot in it, compressed: Zstandard frames (RFC 8878) after one another, each by itself. A frame
 * may begin with a prefix, data that whoever asks for it has already (files of another build): what is in there costs next to nothing. Its index
 * says what is in which frame; files go by their numbers in the manifests.
 */

/** Bytes that a frame unpacks to, and of its prefix, at most: both are held at once. */
export const MOST_UNPACKED = 16 << 20;
export const MOST_PREFIX = 16 << 20;
/** Parts of files in a frame, and in its prefix, at most: all of them are spoken of at once. */
export const MOST_PARTS = 4096;
/**
 * Bytes of nothing (0) that stand before what a frame begins with: a prefix that happens to begin as a dictionary does (RFC 8878, section 5)
 * would be taken for one.
 */
export const BEFORE_PREFIX = 1;
/** What does not get smaller grows by a little (ZSTD_compressBound of the largest frame). */
export const MOST_PACKED = MOST_UNPACKED + (MOST_UNPACKED >> 8) + 64;

const NumberSchema = z.number().int().nonnegative();
const PartSchema = z
  .union([NumberSchema, z.tuple([NumberSchema, NumberSchema, NumberSchema])])
  .describe('A file by its number in the manifest, from 0; or its number, first byte and the one behind its last');
export type IndexPart = z.infer<typeof PartSchema>;

const FrameSchema = z.object({
  length: z.number().int().positive().max(MOST_PACKED).describe('Bytes in the bundle; frames lie there without a gap'),
  parts: z.array(PartSchema).min(1).max(MOST_PARTS).readonly().describe('What it unpacks to, in its order'),
  prefix: z
    .array(PartSchema)
    .max(MOST_PARTS)
    .readonly()
    .optional()
    .describe('Its prefix: files of the build that is had'),
});

const Sha256Schema = z.string().regex(/^[0-9a-f]{64}$/);

export const BundleIndexSchema = z
  .object({
    format: z.literal('regressum-bundle'),
    version: z.literal(1),
    build: BuildLabelSchema,
    depot: DepotIdSchema,
    manifest: Sha256Schema.describe('SHA-256 of the text of the manifest that the numbers are of'),
    from: z
      .object({ build: BuildLabelSchema, manifest: Sha256Schema })
      .optional()
      .describe('The build whose files of the same depot are prefixes; left out where there are none'),
    frames: z.array(FrameSchema).max(1_000_000).readonly(),
  })
  .meta({ id: 'bundle', title: 'Index of a bundle' });
export type BundleIndex = z.infer<typeof BundleIndexSchema>;

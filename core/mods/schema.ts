import { z } from 'zod';
import { BuildLabelSchema, eachOnce, ModIdSchema } from '#core/builds';
import { isFailure } from '#core/failure';
import { HrefSchema, PathSet, SafePathSchema } from '#core/paths';

const VersionSchema = z.string().min(1).max(40);
const Sha256Schema = z.string().regex(/^[0-9a-f]{64}$/);

/** A mod and a range of its releases, both ends included; an end left out is open. */
const RequirementSchema = z.object({ mod: ModIdSchema, from: VersionSchema.optional(), to: VersionSchema.optional() });

/** The files of a release lie in one tree. */
function standSideBySide(files: readonly { path: string }[], context: z.core.$RefinementCtx): void {
  const names = new PathSet();
  files.forEach(({ path }, i) => {
    try {
      names.add(path);
    } catch (error) {
      if (!isFailure(error)) throw error;
      const message = isFailure(error, 'path/collides')
        ? `is the same file as "${error.facts.other}" on some file systems`
        : 'is one file in too many folders';
      context.addIssue({ code: 'custom', path: [i, 'path'], message });
    }
  });
}

const ReleaseSchema = z.object({
  version: VersionSchema,
  date: z.iso.date(),
  /** Builds that its author says it runs on. */
  builds: z.array(BuildLabelSchema),
  /** Builds that its author says it breaks on. */
  brokenOn: z.array(BuildLabelSchema).default([]),
  programs: z
    .array(Sha256Schema)
    .max(1000)
    .optional()
    .describe('SHA-256 of the programs that it fits, where it goes by them: a loader or address table'),
  requires: z.array(RequirementSchema).default([]),
  /** Of each of these lists one has to be met. */
  requiresOneOf: z.array(z.array(RequirementSchema).min(1)).default([]),
  /** What it makes use of where it is there; it runs without. */
  optional: z.array(RequirementSchema).default([]),
  conflicts: z.array(RequirementSchema).default([]),
  /** How many people reported that it runs on a build, and how many that it does not. */
  reports: z
    .array(
      z.object({
        build: BuildLabelSchema,
        for: z.number().int().nonnegative(),
        against: z.number().int().nonnegative(),
      }),
    )
    .default([]),
  touches: z
    .array(SafePathSchema)
    .optional()
    .describe('Files of the game that it replaces, edits or reads; left out where nobody knows'),
  files: z
    .array(
      z.object({
        path: SafePathSchema,
        size: z.number().int().nonnegative(),
        sha256: Sha256Schema,
        pieces: z.array(Sha256Schema).optional().describe('SHA-256 of each piece of 1 MiB, where there are several'),
        href: HrefSchema.describe('Empty where it lies on disk alone and is to be had nowhere else'),
      }),
    )
    .superRefine(standSideBySide),
  note: z.string().optional(),
  withdrawn: z.iso
    .date()
    .optional()
    .describe(
      'Since when nobody offers it any more: it stays what it is where it lies, and is proposed to nobody else',
    ),
  unofficial: z.string().max(200).optional().describe('Where it is from, where its author has not put it out'),
});

/** How a mod is to be loaded in relation to another one, or to all others. */
export const OrderRuleSchema = z.discriminatedUnion('goes', [
  z.object({ mod: ModIdSchema, goes: z.enum(['before', 'after']), other: ModIdSchema }).readonly(),
  z.object({ mod: ModIdSchema, goes: z.enum(['first', 'last']) }).readonly(),
]);
export type OrderRule = z.infer<typeof OrderRuleSchema>;

export const ModSchema = z.object({
  id: ModIdSchema,
  name: z.string().min(1).max(80),
  author: z.string(),
  kind: z.enum(['loader', 'library', 'native', 'script', 'data', 'menu', 'texture', 'sound']),
  lookedAfter: z.boolean(),
  summary: z.string(),
  order: z
    .array(OrderRuleSchema)
    .max(1000)
    .optional()
    .describe(
      'In which order it wants itself and others to be loaded; what a release requires is loaded before it anyway',
    ),
  /** From old to new: this order, not the spelling of the versions, says which is newer. */
  releases: z
    .array(ReleaseSchema)
    .min(1)
    .superRefine((releases, context) => {
      eachOnce(context, [[], 'version'], releases, ({ version }) => version);
    }),
});

export const CatalogueSchema = z.object({
  format: z.literal('regressum-mod-catalogue'),
  version: z.literal(1),
  mods: z
    .array(ModSchema)
    .max(10_000)
    .superRefine((mods, context) => {
      eachOnce(context, [[], 'id'], mods, ({ id }) => id);
    }),
});

export type Requirement = z.infer<typeof RequirementSchema>;
export type Release = z.infer<typeof ReleaseSchema>;
export type ReleaseFile = Release['files'][number];
export type Mod = z.infer<typeof ModSchema>;
export type Catalogue = z.infer<typeof CatalogueSchema>;

export const WEIGHTS = ['must', 'want', 'spare'] as const;
export const WeightSchema = z.enum(WEIGHTS);
export type Weight = (typeof WEIGHTS)[number];

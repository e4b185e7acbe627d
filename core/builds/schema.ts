import { z } from 'zod';
import { HrefSchema } from '#core/paths';
import { eachOnce } from './each-once';
import { GameRulesSchema } from './rules';

export const BuildLabelSchema = z
  .string()
  .min(1)
  .max(40)
  .regex(/^\P{C}*$/u, 'contains invisible characters')
  .brand<'BuildLabel'>();
export const DepotIdSchema = z
  .string()
  .regex(/^[a-z0-9-]{1,60}$/)
  .brand<'DepotId'>();
export const ModIdSchema = z
  .string()
  .regex(/^[a-z0-9-]{1,60}$/)
  .brand<'ModId'>();
export type BuildLabel = z.infer<typeof BuildLabelSchema>;
export type DepotId = z.infer<typeof DepotIdSchema>;
export type ModId = z.infer<typeof ModIdSchema>;

/** For labels that this program writes itself; what comes from outside goes through the schemas. */
export const asBuild = (label: string): BuildLabel => label as BuildLabel;
export const asDepot = (id: string): DepotId => id as DepotId;
export const asMod = (id: string): ModId => id as ModId;

/** Bundles of a depot at a build, at most. */
export const MOST_BUNDLES = 100;

const DepotSchema = z.object({
  id: DepotIdSchema,
  title: z.string().min(1).max(80),
  kind: z.enum(['core', 'program', 'world', 'language', 'optional', 'add-on']),
  /** Place in the laying order, from 1; a higher one is laid over a lower one. */
  order: z.number().int().positive(),
  /** Whether swapping it with its neighbours would change the tree. */
  orderMatters: z.boolean(),
  language: z.string().max(20).optional(),
});
export type Depot = z.infer<typeof DepotSchema>;

export const GameIdSchema = z.string().regex(/^[a-z0-9-]{1,60}$/);

/** What a game is: how it is called, and where it keeps what. */
export const GameSchema = z.object({ id: GameIdSchema, title: z.string().min(1).max(80), rules: GameRulesSchema });
export type Game = z.infer<typeof GameSchema>;

const BuildSchema = z.object({
  label: BuildLabelSchema,
  date: z.iso.date(),
  branch: z.string().optional().describe('The branch that it came out on; one for all builds that do not say'),
});
export type Build = z.infer<typeof BuildSchema>;

/** The index of a depot source (docs/formats.md). Builds stand from old to new. */
export const DepotIndexSchema = z
  .object({
    format: z.literal('regressum-depot-index'),
    version: z.literal(1),
    game: GameSchema,
    builds: z.array(BuildSchema).max(1000),
    branches: z.array(z.object({ name: z.string(), build: BuildLabelSchema, needsCode: z.boolean() })),
    depots: z.array(DepotSchema).max(200),
    manifests: z.array(
      z.object({
        build: BuildLabelSchema,
        depot: DepotIdSchema,
        href: HrefSchema.min(1),
        filesHref: HrefSchema.describe(
          'Base address of the depot’s files; a file’s path, encoded part by part, is appended. Empty where the source has no files',
        ),
        mirrors: z
          .array(HrefSchema.min(1))
          .max(20)
          .optional()
          .describe('Other base addresses of the same files, asked in turn where one fails'),
        bundles: z
          .array(
            z.object({
              href: HrefSchema.min(1),
              index: HrefSchema.min(1).describe('Its index: JSON, as it is or in gzip'),
              sha256: z
                .string()
                .regex(/^[0-9a-f]{64}$/)
                .optional()
                .describe('Of the text of the index; left out by who makes bundles when they are asked for'),
              from: BuildLabelSchema.optional().describe('The build of the same depot that has to be had for it'),
              bytes: z.number().int().nonnegative().optional(),
            }),
          )
          .max(MOST_BUNDLES)
          .optional()
          .describe('Files of the depot, compressed: all of them, or what is new against another build'),
        /** SHA-256 of the manifest's text. */
        sha256: z.string().regex(/^[0-9a-f]{64}$/),
        id: z
          .string()
          .regex(/^[^\p{Cc}]{1,120}$/u)
          .optional()
          .describe('What those who hand out the depot call its manifest'),
        files: z.number().int().nonnegative(),
        bytes: z.number().int().nonnegative(),
      }),
    ),
  })
  .superRefine(({ builds, branches, depots, manifests }, context) => {
    const labels = eachOnce(context, ['builds', 'label'], builds, ({ label }) => label);
    const ids = eachOnce(context, ['depots', 'id'], depots, ({ id }) => id);
    // Alternatives, such as languages, may share a place: only one of them is laid.
    const ordered = depots.map(({ order, orderMatters, id }) => (orderMatters ? `place ${order}` : id));
    eachOnce(context, ['depots', 'order'], ordered, (place) => place);
    eachOnce(context, ['branches', 'name'], branches, ({ name }) => name);
    eachOnce(context, ['manifests', 'build'], manifests, ({ build, depot }) => `${depot} of ${build}`);
    const known = (name: string, set: ReadonlySet<string>, path: (string | number)[]): void => {
      if (!set.has(name)) context.addIssue({ code: 'custom', path, message: `"${name}" is not in this index` });
    };
    branches.forEach(({ build }, i) => known(build, labels, ['branches', i, 'build']));
    manifests.forEach(({ build, depot }, i) => {
      known(build, labels, ['manifests', i, 'build']);
      known(depot, ids, ['manifests', i, 'depot']);
    });
  });
export type DepotIndex = z.infer<typeof DepotIndexSchema>;

/** What a person has: it decides which depots count. */
export const OwnershipSchema = z.object({
  language: z.string(),
  addOns: z.array(DepotIdSchema),
  optional: z.array(DepotIdSchema),
});
export type Ownership = z.infer<typeof OwnershipSchema>;

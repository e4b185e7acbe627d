import { z } from 'zod';
import { BuildLabelSchema, type DepotIndex, ModIdSchema } from '#core/builds';
import { DecisionSchema } from '#core/choose';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';
import { BenchedSchema, EVIDENCE_LEVELS } from '#core/mend';
import { type Catalogue, modById, OrderRuleSchema, releaseAt, WeightSchema } from '#core/mods';
import { SharingSchema } from './sharing';

export const PROFILE_VERSION = 1;

/** A profile, to be handed on: what is wanted and chosen, never files. */
export const ProfileFileSchema = z
  .object({
    format: z.literal('regressum-profile'),
    version: z.literal(PROFILE_VERSION),
    game: z.object({ id: z.string(), title: z.string() }),
    title: z.string().min(1).max(80),
    weights: z.record(ModIdSchema, WeightSchema),
    pins: z.record(ModIdSchema, z.string()).optional().describe('Mods that are to run at just this release'),
    insisted: z
      .record(ModIdSchema, z.string())
      .optional()
      .describe('Releases that are to be there, whatever speaks against them'),
    bench: z.array(BenchedSchema).optional().describe('Mods that are wanted, but out of the folder for a while'),
    order: z.array(ModIdSchema).optional().describe('In which mods are to be loaded, where a person has moved one'),
    orderRules: z
      .array(OrderRuleSchema)
      .optional()
      .describe('What a person says of that order; what counts more first'),
    evidence: z.enum(EVIDENCE_LEVELS).optional(),
    modFree: z.literal(true).optional().describe('No mod files come along, be they of mods that nobody knows'),
    sharing: SharingSchema,
    target: z
      .object({
        build: BuildLabelSchema,
        releases: z.record(ModIdSchema, z.string()),
        order: z.array(ModIdSchema).optional().describe('In which mods are loaded'),
        decision: DecisionSchema.optional().describe('Why this build was chosen'),
      })
      .optional(),
  })
  .strict();
export type ProfileFile = z.infer<typeof ProfileFileSchema>;

/** @throws Failure `json/*` with line, `profile/unknown-version` */
export function parseProfile(text: string, file: string): ProfileFile {
  const Version = z.looseObject({ format: z.literal('regressum-profile'), version: z.number() });
  const { version } = parseJson(text, Version, file);
  if (version !== PROFILE_VERSION)
    throw new Failure('profile/unknown-version', { file, found: version, expected: PROFILE_VERSION });
  return parseJson(text, ProfileFileSchema, file);
}

/** The profile as JSON text; {@link parseProfile} reads the same profile back. */
export const writeProfile = (profile: ProfileFile): string => `${JSON.stringify(profile, null, 2)}\n`;

/** What of a profile is not known here: it can be taken over without. */
export interface UnknownInProfile {
  readonly build: string | undefined;
  readonly mods: readonly string[];
  readonly releases: readonly { readonly mod: string; readonly release: string }[];
}

/** A profile without what is not known here, and what that is. */
export function knownProfile(
  profile: ProfileFile,
  { index, catalogue }: { readonly index: DepotIndex; readonly catalogue: Catalogue },
): { readonly profile: ProfileFile; readonly unknown: UnknownInProfile } {
  const isKnown = (id: string): boolean => modById(catalogue, id as never) !== undefined;
  const isRelease = ([id, version]: readonly [string, string]): boolean => {
    const mod = modById(catalogue, id as never);
    return mod !== undefined && releaseAt(mod, version) !== undefined;
  };
  const { target, weights, pins, insisted, bench, order, orderRules } = profile;
  const hasBuild = target === undefined || index.builds.some(({ label }) => label === target.build);
  const all = Object.entries(target?.releases ?? {});
  const known = <V>(record: Readonly<Record<string, V>>): Record<string, V> =>
    Object.fromEntries(Object.entries(record).filter(([id]) => isKnown(id)));
  const releases = all.filter(isRelease);
  const some = (record: Readonly<Record<string, string>> | undefined) =>
    record && Object.fromEntries(Object.entries(record).filter(isRelease));
  return {
    profile: {
      ...profile,
      weights: known(weights),
      pins: some(pins),
      insisted: some(insisted),
      bench: bench?.filter(({ mod }) => isKnown(mod)),
      order: order?.filter(isKnown),
      orderRules: orderRules?.filter((rule) => isKnown(rule.mod) && (!('other' in rule) || isKnown(rule.other))),
      target:
        target && hasBuild
          ? { ...target, releases: Object.fromEntries(releases), order: target.order?.filter(isKnown) }
          : undefined,
    },
    unknown: {
      build: hasBuild ? undefined : target.build,
      mods: [...new Set([...Object.keys(weights), ...all.map(([id]) => id)])].filter((id) => !isKnown(id)),
      releases: all.filter((one) => isKnown(one[0]) && !isRelease(one)).map(([mod, release]) => ({ mod, release })),
    },
  };
}

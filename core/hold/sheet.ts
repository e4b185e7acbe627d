import { z } from 'zod';
import { BuildLabelSchema, DepotIdSchema, ModIdSchema, OwnershipSchema } from '#core/builds';
import { DecisionSchema } from '#core/choose';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';

/** Version 1 had no digests of releases and settings. */
export const HOLD_SHEET_VERSION = 2;

const Sha256Schema = z.string().regex(/^[0-9a-f]{64}$/, 'is not a SHA-256 of 64 hexadecimal digits');

/** What is held, so that it can be proven, shared and rebuilt. Carries digests and names, never contents. */
export const HoldSheetSchema = z
  .object({
    format: z.literal('regressum-hold-sheet'),
    version: z.literal([1, HOLD_SHEET_VERSION]),
    heldAt: z.iso.datetime(),
    game: z.object({ id: z.string(), title: z.string() }),
    build: BuildLabelSchema,
    ownership: OwnershipSchema,
    depots: z
      .array(
        z.object({
          id: DepotIdSchema,
          manifestSha256: Sha256Schema,
          files: z.int().nonnegative(),
          bytes: z.int().nonnegative(),
        }),
      )
      .describe('In laying order, lowest first'),
    treeDigest: Sha256Schema.describe(
      'Over paths and contents of depots, releases and load order; see docs/formats.md',
    ),
    files: z.int().nonnegative(),
    bytes: z.int().nonnegative(),
    releases: z.array(
      z.object({
        mod: ModIdSchema,
        name: z.string(),
        release: z.string(),
        files: z.int().nonnegative(),
        digest: Sha256Schema.optional().describe('Tree digest of the release’s own files'),
      }),
    ),
    loadOrder: z.array(ModIdSchema),
    modList: z
      .string()
      .max(1_000_000)
      .optional()
      .describe('The list of mods to load as it lies there, where it has more in it than that order'),
    weights: z.record(ModIdSchema, z.enum(['must', 'want', 'spare'])),
    settings: z
      .object({ files: z.int().nonnegative(), digest: Sha256Schema })
      .optional()
      .describe('The profile’s settings as they were held: how many files, and their tree digest'),
    decision: DecisionSchema.optional().describe('Why this build was chosen'),
    means: z.array(z.enum(['update-setting', 'record-lock'])).describe('What keeps the storefront from updating'),
  })
  .strict();

export type HoldSheet = z.infer<typeof HoldSheetSchema>;

const VersionSchema = z.looseObject({ format: z.literal('regressum-hold-sheet'), version: z.number() });

/**
 * Reads a hold sheet. What it claims is not held against anything yet: see {@link checkNames} and {@link checkClaims}.
 * @throws Failure `json/*` with line, `hold-sheet/unknown-version`
 */
export function parseHoldSheet(text: string, file: string): HoldSheet {
  const { version } = parseJson(text, VersionSchema, file);
  if (version !== 1 && version !== HOLD_SHEET_VERSION) {
    throw new Failure('hold-sheet/unknown-version', { file, found: version, expected: HOLD_SHEET_VERSION });
  }
  return parseJson(text, HoldSheetSchema, file);
}

/** The sheet as JSON text; {@link parseHoldSheet} reads the same sheet back. */
export function writeHoldSheet(sheet: HoldSheet): string {
  return `${JSON.stringify(sheet, null, 2)}\n`;
}

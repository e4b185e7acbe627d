import { z } from 'zod';
import { BuildLabelSchema, ModIdSchema, OwnershipSchema } from '#core/builds';
import { SafePathSchema } from '#core/paths';
import { WEIGHTS } from '#core/mods';
import { RecordSchema } from './record';

/** Wire formats between the application and the stand-ins for the outside world. */

export const SignInSchema = z.object({
  name: z.string().max(100),
  passphrase: z.string().max(200),
  /** The one-time code; left out at the first step, after which the storefront sends one. */
  code: z.string().max(20).optional(),
  /** Opens a branch that needs a code. */
  branchCode: z.string().max(100).optional(),
});
export type SignIn = z.infer<typeof SignInSchema>;

export const SessionAnswerSchema = z.discriminatedUnion('step', [
  z.object({ step: z.literal('code-sent') }),
  z.object({
    step: z.literal('signed-in'),
    token: z.string(),
    name: z.string(),
    addOns: z.array(z.string()),
    branches: z.array(z.string()),
  }),
]);
export type SessionAnswer = z.infer<typeof SessionAnswerSchema>;

const SeedFileSchema = z.object({
  path: z.string(),
  size: z.number(),
  href: z.string(),
  /** When it was last written, in milliseconds since 1970, where it was not put down just now. */
  modified: z.number().optional(),
});
export type SeedFile = z.infer<typeof SeedFileSchema>;

/** Asks for the bytes of several files after one another. */
export const PackRequestSchema = z.object({ hrefs: z.array(z.string().startsWith('/stand-ins/storefront/')).max(64) });

/** The folder as the storefront and the player left it, for the first start of the demo. */
export const SeedListSchema = z.object({
  /** What the install is called in addresses. */
  install: z.string().regex(/^[a-z0-9-]{1,40}$/),
  title: z.string(),
  folder: z.string(),
  record: RecordSchema,
  /** Where it lies, beside the game's folder. */
  recordPath: SafePathSchema,
  ownership: OwnershipSchema,
  weights: z.array(z.tuple([ModIdSchema, z.enum(WEIGHTS)])),
  files: z.array(SeedFileSchema),
});
export type SeedList = z.infer<typeof SeedListSchema>;

/** What a starting game sees of its folder: every file by its content key, and the list of mods to load. */
export const StartRequestSchema = z.object({
  files: z.array(z.object({ path: z.string(), key: z.string() })).max(10_000),
  loadOrder: z.string().max(1_000_000),
});
export type StartRequest = z.infer<typeof StartRequestSchema>;

export const GameAnswerSchema = z.object({
  /** A person said so, who started it: of mods and log nothing is known then. */
  told: z.literal(true).exactOptional(),
  outcome: z.enum(['title', 'crash']),
  /** The version in the corner of the title screen; what the program says of itself. */
  version: BuildLabelSchema.optional(),
  mods: z.array(
    z.object({
      mod: ModIdSchema,
      release: z.string(),
      ran: z.boolean(),
      why: z.string().optional(),
      /** What kept it from running, where the game tells; `build` for the build itself. */
      cause: z.enum(['build', 'files', 'not-listed', 'requirement', 'conflict']).optional(),
    }),
  ),
  log: z.array(z.object({ level: z.enum(['note', 'warning', 'error']), text: z.string() })),
});
export type GameAnswer = z.infer<typeof GameAnswerSchema>;

/** What can be made to go wrong with the depot service; 0 turns a fault off. */
const FaultsSchema = z.object({
  /** Milliseconds that each answer waits. */
  delayMs: z.number().int().min(0).max(10_000),
  /** Each n-th file request fails with 503. */
  failEvery: z.number().int().min(0).max(1000),
  /** Each n-th file answer carries a wrong byte. */
  corruptEvery: z.number().int().min(0).max(1000),
  /** Bytes of a file that are sent a second at most. */
  bytesPerSecond: z.number().int().min(0).max(1e9),
  /** Files whose path has this in it always carry a wrong byte; empty = none. */
  spoilt: z.string().max(200),
  /** Files whose path has this in it are not there; empty = none. */
  gone: z.string().max(200),
  /** Whole files come, whatever part of one was asked for. */
  wholeOnly: z.boolean(),
  /** After so many file answers the files are those of the newest build. */
  changeAfter: z.number().int().min(0).max(100_000),
});

/** Those that are to be others. JSON has no undefined. */
const SomeFaultsSchema = FaultsSchema.partial().transform((some) => some as Partial<z.infer<typeof FaultsSchema>>);

/** A file that other players hand on, and what they say of it. */
const HandedOnSchema = z.object({ name: z.string(), words: z.string(), href: z.string() });

export const PanelStateSchema = z.object({
  patchReleased: z.boolean(),
  faults: FaultsSchema,
  ignoresSetting: z.boolean(),
  oneTimeCode: z.string().nullable(),
  account: z.object({ name: z.string(), passphrase: z.string(), branchCode: z.string() }),
  main: BuildLabelSchema,
  /** Archives of mods that players pass around. */
  archives: z.array(HandedOnSchema),
  /** Logs of starts that went wrong. */
  logs: z.array(HandedOnSchema),
});
export type PanelState = z.infer<typeof PanelStateSchema>;

export const PanelActionSchema = z.discriminatedUnion('do', [
  z.object({ do: z.literal('release-patch') }),
  /** What is left out stays: whoever changes one thing need not know of the others just now. */
  z.object({ do: z.literal('set-faults'), faults: SomeFaultsSchema }),
  z.object({ do: z.literal('ignore-setting'), ignores: z.boolean() }),
  z.object({ do: z.literal('forget-sessions') }),
]);
export type PanelAction = z.infer<typeof PanelActionSchema>;
